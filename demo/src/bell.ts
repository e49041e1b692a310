import { mesh, type DemoShot } from './shot.ts'

const bellPart = (id: string, name: string, mesh: string, rate: number, ramp: string) => ({
  id,
  name,
  phases: ['Cut'],
  particle: {
    radius: { mean: 0.0021, spread: 0.7 },
    density: 1500,
    lifespan: { mean: 20, spread: 9 },
  },
  births: [
    {
      id: 'edge',
      kind: 'cut',
      mesh,
      into: 'Cut',
      amount: { rate, to: 108 },
      inherit: 0.3,
      speed: 0.16,
      speedSpread: 0.8,
      cone: 50,
    },
  ],
  influences: [
    { id: 'gravity', kind: 'gravity', weights: { Cut: 0.03 } },
    {
      id: 'wind',
      kind: 'wind',
      name: 'Wind, fading',
      weights: { Cut: 1 },
      strength: {
        keys: [
          [1, 3, 'smooth'],
          [110, 0.6],
        ],
      },
      speed: 0.75,
      direction: [-1, 0.35, 0.1],
      gusts: 0.7,
      gustSize: 0.3,
    },
    {
      id: 'curl',
      kind: 'turbulence',
      name: 'Turbulence',
      weights: { Cut: 1 },
      strength: 3.2,
      scale: 0.12,
      octaves: 3,
      change: 1,
    },
    { id: 'drag', kind: 'drag', weights: { Cut: 1 }, strength: 1.6 },
    {
      id: 'shrink',
      kind: 'size',
      name: 'Shrink',
      weights: { Cut: 1 },
      responses: [
        {
          to: 'size',
          from: 'age',
          curve: [
            [0, 1],
            [0.3, 0.9, 'smooth'],
            [1, 0],
          ],
        },
      ],
    },
  ],
  look: { draw: 'points', colour: { from: 'age', range: [0, 1], ramp } },
})

/** A bank of fog that wobbles comes over a bell of two parts and eats it: solid cuts, with dust from the faces that they lay open. */
export const fog: DemoShot = {
  title: 'The bell and the fog',
  build: (asset) => ({
    frames: { first: 1, last: 120, rate: 24 },
    seed: 12,
    quality: { substeps: 2, previewShare: 0.3 },
    meshes: [
      {
        ...mesh(asset, 'bell-wall', 'Bell wall', { position: [0, 0.5, 0] }),
        cut: { by: 'fog-bank' },
      },
      {
        ...mesh(asset, 'clapper', 'Clapper and crown', { position: [0, 0.5, 0] }),
        cut: { by: 'fog-bank' },
      },
      {
        ...mesh(asset, 'fog-bank', 'Fog bank', {
          position: [
            {
              keys: [
                [1, 1.02],
                [100, 0.28],
              ],
            },
            0.68,
            0,
          ],
        }),
        deform: [
          { id: 'bulge', kind: 'noise', amount: 0.09, scale: 0.3, change: 1.2 },
          {
            id: 'ripple',
            kind: 'ripple',
            amount: 0.02,
            wavelength: 0.22,
            speed: 0.3,
            direction: [0.4, 1, 0.2],
          },
        ],
        visible: false,
      },
    ],
    populations: [
      bellPart('bronze', 'Bronze', 'bell-wall', 22000, 'brass'),
      bellPart('iron', 'Iron', 'clapper', 5000, 'brine'),
    ],
    stage: {
      camera: { position: [0.1, 0.86, 1.5], target: [-0.06, 0.72, 0], fieldOfView: 36 },
      light: { bearing: -40, height: 42, strength: 1.1 },
      backdrop: 'fog',
    },
  }),
}
