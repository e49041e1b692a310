import { mesh, type DemoShot } from './shot.ts'

/** A clump that follows a light: the small ones outside. */
export const plankton: DemoShot = {
  title: 'Plankton',
  build: (asset) => ({
    frames: { first: 1, last: 240, rate: 24 },
    seed: 17,
    quality: { substeps: 1 },
    meshes: [
      {
        ...mesh(asset, 'fog-bank', 'Start', { position: [0, 1, 0], scale: [0.7, 0.7, 0.7] }),
        visible: false,
      },
    ],
    populations: [
      {
        id: 'plankton',
        name: 'Plankton',
        phases: ['Alive'],
        particle: { radius: { mean: 0.014, spread: 0.6 }, density: 1030, lifespan: null },
        births: [
          { id: 'start', kind: 'volume', mesh: 'fog-bank', into: 'Alive', amount: { burst: 5000, at: 1 } },
        ],
        influences: [
          {
            id: 'clump',
            kind: 'mutual',
            name: 'Clump',
            weights: { Alive: 1 },
            attraction: 1.2,
            far: 0.1,
            repulsion: 14,
            near: 0.055,
            neighbours: 14,
            responses: [
              {
                to: 'attraction',
                from: 'radius',
                curve: [
                  [0.006, 0.1, 'smooth'],
                  [0.022, 1.6],
                ],
              },
            ],
          },
          {
            id: 'light',
            kind: 'attract',
            name: 'To the light',
            weights: { Alive: 1 },
            strength: 3.2,
            falloff: 'none',
            point: [
              {
                keys: [
                  [1, 0, 'smooth'],
                  [80, 0.7, 'smooth'],
                  [160, -0.6, 'smooth'],
                  [240, 0.2],
                ],
              },
              {
                keys: [
                  [1, 1, 'smooth'],
                  [80, 1.25, 'smooth'],
                  [160, 0.8, 'smooth'],
                  [240, 1],
                ],
              },
              0,
            ],
            core: 0.3,
            responses: [
              {
                to: 'strength',
                from: 'radius',
                curve: [
                  [0.006, 0.6, 'smooth'],
                  [0.022, 1.3],
                ],
              },
            ],
          },
          {
            id: 'stir',
            kind: 'turbulence',
            name: 'Stir',
            weights: { Alive: 1 },
            strength: 3,
            pattern: 'cells',
            scale: 0.45,
            change: 0.8,
            responses: [
              {
                to: 'strength',
                from: 'radius',
                curve: [
                  [0.006, 1.4],
                  [0.022, 0.4],
                ],
              },
            ],
          },
          {
            id: 'calm',
            kind: 'calm',
            name: 'Neighbour friction',
            weights: { Alive: 1 },
            strength: 2.5,
            radius: 0.08,
            neighbours: 10,
          },
          { id: 'water', kind: 'drag', name: 'Water', weights: { Alive: 1 }, strength: 1.6 },
          {
            id: 'tint',
            kind: 'colour',
            name: 'Tint by size',
            weights: { Alive: 1 },
            ramp: 'brine',
            responses: [
              {
                to: 'at',
                from: 'radius',
                curve: [
                  [0.006, 0],
                  [0.022, 1],
                ],
              },
            ],
          },
        ],
        look: { draw: 'spheres', colour: { from: 'own', range: [0, 1], ramp: 'brine' } },
      },
    ],
    stage: {
      camera: { position: [0, 1.15, 3.6], target: [0, 1, 0], fieldOfView: 40 },
      light: { bearing: 20, height: 60, strength: 1 },
      backdrop: 'night',
    },
  }),
}

/** Ink runs down over carved wood in streams and draws its lines. */
export const ink: DemoShot = {
  title: 'Ink on the figurehead',
  build: (asset) => ({
    frames: { first: 1, last: 192, rate: 24 },
    seed: 29,
    meshes: [mesh(asset, 'figurehead', 'Figurehead', { position: [-0.05, 0.05, 0], rotation: [0, -35, 0] })],
    masks: [
      {
        id: 'crown',
        name: 'Crown',
        kind: 'uv',
        mesh: 'figurehead',
        along: 'v',
        low: 0.86,
        high: 1,
        soft: 0.02,
      },
    ],
    populations: [
      {
        id: 'ink',
        name: 'Ink',
        phases: ['Running'],
        particle: { radius: { mean: 0.0028, spread: 0.4 }, lifespan: { mean: 110, spread: 40 } },
        births: [
          {
            id: 'crown',
            kind: 'surface',
            mesh: 'figurehead',
            into: 'Running',
            amount: { rate: 520 },
            density: 'crown',
          },
        ],
        influences: [
          {
            id: 'run',
            kind: 'march',
            name: 'Run down',
            weights: { Running: 1 },
            mesh: 'figurehead',
            along: 'direction',
            direction: [0, -1, 0],
            speed: 0.42,
            strength: 4,
            responses: [
              {
                to: 'speed',
                from: 'random',
                curve: [
                  [0, 0.5],
                  [1, 1.5],
                ],
              },
            ],
          },
          {
            id: 'veer',
            kind: 'turbulence',
            name: 'Veer',
            weights: { Running: 1 },
            strength: 2.4,
            scale: 0.16,
            octaves: 2,
            change: 0.15,
          },
          {
            id: 'stay',
            kind: 'stay',
            weights: { Running: 1 },
            mesh: 'figurehead',
            offset: 0.003,
          },
        ],
        look: {
          draw: 'spheres',
          colour: { from: 'age', range: [0, 1], ramp: 'brine' },
          trail: {
            length: 36,
            step: 3,
            width: 0.0045,
            widthEnd: 0.0008,
            colour: 'own',
            opacityEnd: 0.15,
          },
        },
      },
    ],
    stage: {
      camera: { position: [0.4, 1, 2.8], target: [0, 0.78, 0], fieldOfView: 38 },
      light: { bearing: 40, height: 45, strength: 1.1 },
      backdrop: 'dusk',
    },
  }),
}
