import { mesh, type DemoShot } from './shot.ts'

export const snow: DemoShot = {
  title: 'First snow on the sheds',
  build: (asset) => ({
    frames: { first: 1, last: 300, rate: 24 },
    seed: 23,
    quality: { substeps: 2, previewShare: 0.4 },
    meshes: [
      mesh(asset, 'steep-shed', 'Steep shed', { position: [-2.6, 0, 0], rotation: [0, 12, 0] }),
      mesh(asset, 'flat-shed', 'Flat shed', { position: [2.9, 0, -0.6], rotation: [0, -8, 0] }),
      { ...mesh(asset, 'sky', 'Sky sheet', { position: [-1, 8, 0], scale: [1.7, 1, 1.2] }), visible: false },
      mesh(asset, 'bollard', 'Bollard', { position: [0.2, 0, 2.6] }),
      { ...mesh(asset, 'crate', 'Air', { position: [-1, 0, 0], scale: [19, 7.6, 13] }), visible: false },
    ],
    populations: [
      {
        id: 'flakes',
        name: 'Flakes',
        phases: ['Falling', 'Lying'],
        particle: {
          radius: { mean: 0.016, spread: 0.6 },
          density: { mean: 3, spread: 0.5 },
          lifespan: null,
        },
        births: [
          {
            id: 'air',
            kind: 'volume',
            mesh: 'crate',
            into: 'Falling',
            amount: { burst: 15000, at: 1 },
            aim: 'direction',
            direction: [0.2, -1, 0],
            speed: 0.9,
            speedSpread: 0.3,
          },
          {
            id: 'sky',
            kind: 'surface',
            mesh: 'sky',
            into: 'Falling',
            amount: { rate: 4200 },
            aim: 'direction',
            direction: [0, -1, 0],
            speed: 0.9,
            speedSpread: 0.3,
          },
        ],
        cues: [
          // the air at the start reaches into the sheds
          ...['steep-shed', 'flat-shed'].map((of) => ({
            id: `in-${of}`,
            from: 'Falling',
            to: 'dies',
            when: { kind: 'inside', mesh: of },
          })),
          { id: 'lies', from: 'Falling', to: 'Lying', when: { kind: 'rest', speed: 0.05, frames: 4 } },
        ],
        influences: [
          { id: 'gravity', kind: 'gravity', weights: { Falling: 1, Lying: 1 } },
          { id: 'air', kind: 'airDrag', weights: { Falling: 1 }, coefficient: 1.1 },
          {
            id: 'gusts',
            kind: 'wind',
            name: 'Gusts',
            weights: { Falling: 1 },
            strength: {
              keys: [
                [1, 0.5, 'smooth'],
                [150, 0.9, 'smooth'],
                [300, 0.4],
              ],
            },
            speed: 1.7,
            direction: [1, 0, 0.2],
            gusts: 0.9,
            gustSize: 5,
          },
          {
            id: 'flutter',
            kind: 'turbulence',
            name: 'Flutter',
            weights: { Falling: 1 },
            strength: 3.5,
            scale: 0.7,
            octaves: 1,
            change: 0.8,
          },
          // snow stays on slopes up to atan 0.9, 42°: it lies on the flat roof and slides off the steep one
          ...[
            ['steep-shed', 'Steep shed'],
            ['flat-shed', 'Flat shed'],
            ['bollard', 'Bollard'],
          ].map(([of, name]) => ({
            id: `on-${of}`,
            kind: 'collide',
            name,
            weights: { Falling: 1, Lying: 1 },
            mesh: of,
            bounce: 0,
            friction: 0.9,
            sliding: 0.5,
          })),
          {
            id: 'ground',
            kind: 'floor',
            name: 'Ground',
            weights: { Falling: 1, Lying: 1 },
            bounce: 0,
            friction: 0.9,
            sliding: 0.8,
            sticky: 4,
          },
        ],
        look: { draw: 'spheres', colour: { from: 'own', range: [0, 1], ramp: 'snow' } },
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
        look: { draw: 'spheres', colour: { from: 'age', range: [0, 1], ramp: 'brass' } },
      },
    ],
    stage: {
      camera: { position: [0.5, 0.85, 2.1], target: [0, 0.62, 0], fieldOfView: 42 },
      light: { bearing: -40, height: 45, strength: 1 },
      backdrop: 'night',
    },
  }),
}
