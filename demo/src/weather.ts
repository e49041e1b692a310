import { mesh, type DemoShot } from './shot.ts'

/** What snow falls on, by the id of its mesh. */
const UNDER = [
  ['steep-shed', 'Steep shed'],
  ['flat-shed', 'Flat shed'],
  ['bollard', 'Bollard'],
  ['ground', 'Ground'],
] as const

export const snow: DemoShot = {
  title: 'First snow on the sheds',
  build: (asset) => ({
    frames: { first: 1, last: 300, rate: 24 },
    seed: 23,
    quality: { substeps: 2, previewShare: 0.25 },
    meshes: [
      mesh(asset, 'steep-shed', 'Steep shed', { position: [-2.6, 0, 0], rotation: [0, 12, 0] }),
      mesh(asset, 'flat-shed', 'Flat shed', { position: [2.9, 0, -0.6], rotation: [0, -8, 0] }),
      mesh(asset, 'bollard', 'Bollard', { position: [0.2, 0, 2.6] }),
      mesh(asset, 'ground', 'Ground', { position: [-1, -0.1, 0] }),
    ],
    populations: [
      {
        id: 'flakes',
        name: 'Flakes',
        phases: ['Falling', 'Lying'],
        particle: {
          radius: { mean: 0.012, spread: 0.4 },
          sizes: 'exponential',
          density: { mean: 3, spread: 0.5 },
          lifespan: null,
        },
        births: [
          // the air at the start: before the sheds, behind them and above
          ...(
            [
              ['before', [26, 7.2, 5], [-6, 0.2, -0.8], 7000],
              ['behind', [26, 7.2, 4.5], [-6, 0.2, -12.7], 6300],
              ['over-steep', [17, 1.4, 7.2], [-10.5, 3, -6.9], 1300],
              ['over-flat', [8.8, 4.2, 7.2], [2.5, 1.6, -6.9], 2000],
            ] as const
          ).map(([id, size, middle, burst]) => ({
            id,
            kind: 'region',
            mesh: 'ground',
            follows: 'camera',
            size,
            middle,
            into: 'Falling',
            amount: { burst, at: 1 },
            speed: 0.9,
            speedSpread: 0.3,
          })),
          {
            id: 'sky',
            kind: 'region',
            mesh: 'ground',
            follows: 'camera',
            size: [26, 0.4, 17],
            middle: [-6, 4, -6.5],
            into: 'Falling',
            amount: { rate: 4500 },
            speed: 0.9,
            speedSpread: 0.3,
          },
        ],
        cues: [{ id: 'lies', from: 'Falling', to: 'Lying', when: { kind: 'rest', speed: 0.05, frames: 4 } }],
        influences: [
          { id: 'gravity', kind: 'gravity', weights: { Falling: 1, Lying: 1 } },
          { id: 'air', kind: 'airDrag', weights: { Falling: 1, Lying: 1 }, coefficient: 1.1 },
          {
            id: 'gusts',
            kind: 'wind',
            name: 'Wind that turns',
            weights: { Falling: 1 },
            strength: 1.4,
            speed: 1.6,
            direction: [
              {
                keys: [
                  [130, 1, 'smooth'],
                  [230, 0.35],
                ],
              },
              0,
              {
                keys: [
                  [130, 0.1, 'smooth'],
                  [230, 0.9],
                ],
              },
            ],
            gusts: 0.6,
            gustSize: 5,
          },
          {
            id: 'flutter',
            kind: 'turbulence',
            name: 'Flutter',
            weights: { Falling: 1 },
            strength: 3,
            scale: 0.7,
            octaves: 1,
            change: 0.8,
          },
          // it stays where it is less steep than its friction, and the steeper the less it sticks
          ...UNDER.map(([of, name]) => ({
            id: `on-${of}`,
            kind: 'collide',
            name,
            weights: { Falling: 1, Lying: 1 },
            mesh: of,
            bounce: 0,
            friction: 0.8,
            sliding: 0.5,
            sticky: 5,
            responses: [
              {
                to: 'sticky',
                from: 'slope',
                curve: [
                  [25, 1],
                  [45, 0],
                ],
              },
            ],
          })),
          ...UNDER.map(([of, name]) => ({
            id: `cover-${of}`,
            kind: 'cover',
            name: `Cover, ${name.toLowerCase()}`,
            weights: { Lying: 1 },
            mesh: of,
            depth: 0.012,
            gathers: 60,
            repose: 40,
            detail: of === 'ground' ? 0.3 : of === 'bollard' ? 0.06 : 0.16,
          })),
        ],
        look: { draw: 'soft', colour: { from: 'own', range: [0, 1], ramp: 'snow' } },
      },
    ],
    stage: {
      camera: { position: [4.5, 5.2, 13], target: [0.2, 2.2, 0], fieldOfView: 38 },
      light: { bearing: -75, height: 28, strength: 0.8 },
      backdrop: 'night',
    },
  }),
}

export const sparks: DemoShot = {
  title: 'Lantern sparks',
  build: (asset) => ({
    frames: { first: 1, last: 120, rate: 24 },
    seed: 5,
    quality: { substeps: 4 },
    meshes: [
      mesh(asset, 'lantern', 'Lantern', {
        position: [
          {
            keys: [
              [1, -0.35, 'smooth'],
              [60, 0.35, 'smooth'],
              [120, -0.35],
            ],
          },
          0.25,
          0,
        ],
        rotation: [
          0,
          0,
          {
            keys: [
              [1, 8, 'smooth'],
              [30, -8, 'smooth'],
              [60, 8, 'smooth'],
              [90, -8, 'smooth'],
              [120, 8],
            ],
          },
        ],
      }),
    ],
    populations: [
      {
        id: 'sparks',
        name: 'Sparks',
        phases: ['Flying'],
        particle: { radius: { mean: 0.0028, spread: 0.6 }, density: 700, lifespan: { mean: 26, spread: 14 } },
        births: [
          {
            id: 'wick',
            kind: 'vertices',
            mesh: 'lantern',
            into: 'Flying',
            amount: { rate: 1800 },
            aim: 'direction',
            direction: [0, 1, 0],
            cone: 30,
            speed: 2.1,
            speedSpread: 0.6,
            inherit: 0.8,
          },
        ],
        influences: [
          { id: 'gravity', kind: 'gravity', weights: { Flying: 0.45 } },
          {
            id: 'heat',
            kind: 'turbulence',
            name: 'Heat',
            weights: { Flying: 1 },
            strength: 5,
            scale: 0.28,
            octaves: 3,
            change: 1,
          },
          { id: 'drag', kind: 'drag', weights: { Flying: 1 }, strength: 1.6 },
        ],
        look: {
          draw: 'streaks',
          shutter: 0.7,
          colour: { from: 'age', range: [0, 1], ramp: 'brass' },
          glow: { strength: 0.7, halo: 1.5, by: 'life' },
        },
      },
    ],
    stage: {
      camera: { position: [0.5, 0.85, 2.1], target: [0, 0.62, 0], fieldOfView: 42 },
      light: { bearing: -40, height: 45, strength: 1 },
      backdrop: 'night',
    },
  }),
}
