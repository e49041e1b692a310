import { mesh, type DemoShot } from './shot.ts'

/** A lighthouse turns to dust from the lantern room down; what vanishes becomes dust, grain for grain. */
export const beacon: DemoShot = {
  title: 'Beacon to dust',
  build: (asset) => ({
    frames: { first: 1, last: 240, rate: 24 },
    seed: 7,
    quality: { substeps: 2, previewShare: 0.1 },
    meshes: [
      {
        ...mesh(asset, 'lighthouse', 'Lighthouse'),
        eaten: { mask: 'erosion', level: 0.5, thickness: 0.06, crumble: 0.05, crumbleMask: 'crumbs' },
      },
    ],
    masks: [
      {
        id: 'erosion',
        name: 'Erosion',
        kind: 'spread',
        mesh: 'lighthouse',
        from: { ball: [0, 9.1, 0], radius: 0.5 },
        start: 6,
        speed: {
          keys: [
            [6, 0.5, 'smooth'],
            [70, 2.3],
          ],
        },
        ragged: 0.75,
        raggedScale: 0.9,
        soft: 0.35,
      },
      { id: 'crumbs', name: 'Crumbs', kind: 'noise', scale: 0.16, octaves: 3, contrast: 1.6 },
    ],
    populations: [
      {
        id: 'dust',
        name: 'Dust',
        phases: ['Loose', 'Drifting'],
        particle: {
          radius: { mean: 0.011, spread: 0.6 },
          density: { mean: 1200, spread: 0.2 },
          lifespan: { mean: 90, spread: 30 },
        },
        births: [
          {
            id: 'skin',
            kind: 'surface',
            mesh: 'lighthouse',
            into: 'Loose',
            amount: { swept: 500000, mask: 'erosion', level: 0.5 },
            speed: 0.12,
            speedSpread: 0.9,
            cone: 60,
          },
        ],
        cues: [
          {
            id: 'aloft',
            from: 'Loose',
            to: 'Drifting',
            when: { kind: 'after', frames: { mean: 16, spread: 8 } },
          },
        ],
        influences: [
          { id: 'gravity', kind: 'gravity', weights: { Loose: 0.07, Drifting: 0.012 } },
          {
            id: 'wind',
            kind: 'wind',
            name: 'Wind, fading',
            weights: { Loose: 0.45, Drifting: 1 },
            strength: {
              keys: [
                [1, 0.75],
                [120, 0.75, 'smooth'],
                [210, 0.3],
              ],
            },
            speed: 3.1,
            direction: [1, 0.22, -0.15],
            gusts: 0.7,
            gustSize: 2.6,
            responses: [
              {
                to: 'strength',
                from: 'age',
                curve: [
                  [0, 0.35, 'smooth'],
                  [0.4, 1],
                ],
              },
            ],
          },
          {
            id: 'swirl',
            kind: 'turbulence',
            name: 'Turbulence',
            weights: { Loose: 0.5, Drifting: 1 },
            strength: {
              keys: [
                [1, 1.6, 'smooth'],
                [60, 3.6],
              ],
            },
            scale: 1.5,
            octaves: 3,
            change: 0.35,
            responses: [
              {
                to: 'strength',
                from: 'age',
                curve: [
                  [0, 0.15, 'smooth'],
                  [0.35, 1],
                ],
              },
            ],
          },
          {
            id: 'fine',
            kind: 'turbulence',
            name: 'Fine turbulence',
            weights: { Loose: 1, Drifting: 0.7 },
            strength: 1.7,
            scale: 0.28,
            octaves: 2,
            change: 0.9,
          },
          { id: 'drag', kind: 'drag', weights: { Loose: 1, Drifting: 1 }, strength: 0.8 },
          {
            id: 'shrink',
            kind: 'size',
            name: 'Shrink with age',
            weights: { Loose: 1, Drifting: 1 },
            size: 1,
            responses: [
              {
                to: 'size',
                from: 'age',
                curve: [
                  [0, 1],
                  [0.55, 0.85, 'smooth'],
                  [1, 0.12],
                ],
              },
            ],
          },
          {
            id: 'fade',
            kind: 'fade',
            weights: { Loose: 1, Drifting: 1 },
            responses: [
              {
                to: 'opacity',
                from: 'age',
                curve: [
                  [0.6, 1, 'smooth'],
                  [1, 0.15],
                ],
              },
            ],
          },
        ],
        look: { draw: 'points', colour: { from: 'travelled', range: [0, 4.2], ramp: 'ember' } },
      },
    ],
    stage: {
      camera: { position: [7.2, 4.6, 15.2], target: [2.3, 4.7, 0], fieldOfView: 40 },
      light: { bearing: -60, height: 32, strength: 1 },
      backdrop: 'dusk',
    },
  }),
}

/** Lettering on a board that trembles is wiped away by a plane that travels along it. */
export const sign: DemoShot = {
  title: 'Sign in the gale',
  build: (asset) => {
    const shake = { id: 'gale', kind: 'shake', amount: 0.025, turn: 1.1, frequency: 2.4 }
    return {
      frames: { first: 1, last: 192, rate: 24 },
      seed: 31,
      quality: { substeps: 2, previewShare: 0.25 },
      meshes: [
        { ...mesh(asset, 'sign-board', 'Sign board'), deform: [shake] },
        {
          id: 'letters',
          name: 'Letters',
          source: { text: { text: 'HERON QUAY', weight: 800, size: 0.42, depth: 0.07, bevel: 0.012 } },
          place: { position: [0, 1.69, 0.06] },
          // the same motion as the board's: it trembles about the same point
          deform: [{ ...shake, turn: 0 }],
          visible: false,
        },
      ],
      masks: [
        {
          id: 'wipe',
          name: 'Wipe',
          kind: 'slab',
          position: [
            {
              keys: [
                [24, -2.4],
                [132, 2.5],
              ],
            },
            1.9,
            0,
          ],
          direction: [1, -0.35, 0],
          soft: 0.25,
        },
        { id: 'patches', name: 'Patches', kind: 'noise', scale: 0.16, octaves: 3, follow: 'letters' },
        { id: 'ragged', name: 'Ragged wipe', kind: 'mix', how: 'multiply', of: 'wipe', with: 'lifted' },
        {
          id: 'lifted',
          name: 'Lifted patches',
          kind: 'mix',
          how: 'remap',
          of: 'patches',
          curve: [
            [0, 0.5],
            [1, 1],
          ],
        },
      ],
      populations: [
        {
          id: 'paint',
          name: 'Paint',
          phases: ['Held', 'Loose'],
          particle: { radius: { mean: 0.0062, spread: 0.35 }, density: 900, lifespan: null },
          births: [
            { id: 'cover', kind: 'surface', mesh: 'letters', into: 'Held', amount: { burst: 120000, at: 1 } },
          ],
          cues: [
            { id: 'wiped', from: 'Held', to: 'Loose', when: { kind: 'mask', mask: 'ragged', above: 0.5 } },
          ],
          influences: [
            { id: 'ride', kind: 'ride', weights: { Held: 1 } },
            { id: 'gravity', kind: 'gravity', weights: { Loose: 0.12 } },
            {
              id: 'wind',
              kind: 'wind',
              name: 'Gale',
              weights: { Loose: 1 },
              strength: 1.1,
              speed: 4.2,
              direction: [1, 0.12, 0.25],
              gusts: 0.8,
              gustSize: 1.4,
              responses: [
                {
                  to: 'strength',
                  from: 'phaseFrames',
                  curve: [
                    [0, 0.15, 'smooth'],
                    [20, 1],
                  ],
                },
              ],
            },
            {
              id: 'swirl',
              kind: 'turbulence',
              name: 'Turbulence',
              weights: { Loose: 1 },
              strength: 7,
              scale: 0.55,
              octaves: 3,
              change: 0.7,
            },
            {
              id: 'wear',
              kind: 'size',
              name: 'Worn by the way',
              weights: { Loose: 1 },
              responses: [
                {
                  to: 'size',
                  from: 'travelled',
                  curve: [
                    [0, 1],
                    [1.2, 0.8, 'smooth'],
                    [3.4, 0],
                  ],
                },
              ],
            },
          ],
          look: { draw: 'spheres', colour: { from: 'travelled', range: [0, 2.2], ramp: 'brass' } },
        },
      ],
      stage: {
        camera: { position: [0.9, 2.1, 6.2], target: [0.5, 1.85, 0], fieldOfView: 40 },
        light: { bearing: 35, height: 48, strength: 1.1 },
        backdrop: 'dusk',
      },
    }
  },
}

const bellPart = (id: string, name: string, mesh: string, swept: number, ramp: string) => ({
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
      kind: 'surface',
      mesh,
      into: 'Cut',
      amount: { swept, mask: 'fog', level: 0.5 },
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

/** A bank of fog that wobbles comes over a bell of two parts and eats it. */
export const fog: DemoShot = {
  title: 'The bell and the fog',
  build: (asset) => ({
    frames: { first: 1, last: 120, rate: 24 },
    seed: 12,
    quality: { substeps: 2, previewShare: 0.3 },
    meshes: [
      {
        ...mesh(asset, 'bell-wall', 'Bell wall', { position: [0, 0.5, 0] }),
        eaten: { mask: 'fog', level: 0.5, thickness: 0 },
      },
      {
        ...mesh(asset, 'clapper', 'Clapper and crown', { position: [0, 0.5, 0] }),
        eaten: { mask: 'fog', level: 0.5, thickness: 0 },
      },
      {
        ...mesh(asset, 'fog-bank', 'Fog bank', {
          position: [
            {
              keys: [
                [1, 1.05, 'smooth'],
                [104, 0.1],
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
    masks: [{ id: 'fog', name: 'In the fog', kind: 'inside', mesh: 'fog-bank', soft: 0.015 }],
    populations: [
      bellPart('bronze', 'Bronze', 'bell-wall', 90000, 'brass'),
      bellPart('iron', 'Iron', 'clapper', 16000, 'brine'),
    ],
    stage: {
      camera: { position: [0.1, 0.86, 1.5], target: [-0.06, 0.72, 0], fieldOfView: 36 },
      light: { bearing: -40, height: 42, strength: 1.1 },
      backdrop: 'fog',
    },
  }),
}
