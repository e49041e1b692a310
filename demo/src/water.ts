import { mesh, type DemoShot } from './shot.ts'

/** A tub of water is tipped out before a bollard: it runs around it and over the quay, and foams where it breaks. */
export const tubTips: DemoShot = {
  title: 'The tub tips over',
  build: (asset) => ({
    frames: { first: 1, last: 144, rate: 24 },
    seed: 41,
    quality: { level: 'good', previewShare: 0.25 },
    meshes: [
      mesh(asset, 'tub', 'Tub', {
        position: [0, 0.5, -0.3],
        rotation: [
          {
            keys: [
              [30, 0, 'smooth'],
              [78, 118],
            ],
          },
          0,
          0,
        ],
      }),
      mesh(asset, 'bollard', 'Bollard', { position: [0.05, 0, 0.75] }),
    ],
    populations: [
      {
        id: 'water',
        name: 'Water',
        phases: ['Flowing'],
        particle: { radius: 0.0075, density: 998, lifespan: null },
        births: [
          {
            id: 'in-the-tub',
            kind: 'fill',
            mesh: 'tub',
            holds: 'hollow',
            level: 0.75,
            into: 'Flowing',
            amount: { burst: 'all', at: 1 },
          },
        ],
        influences: [
          { id: 'gravity', kind: 'gravity', weights: { Flowing: 1 } },
          {
            id: 'liquid',
            kind: 'liquid',
            weights: { Flowing: 1 },
            viscosity: 0.001,
            splashes: 60,
            splashSpeed: 2.5,
          },
          { id: 'tub', kind: 'collide', name: 'Tub', weights: { Flowing: 1 }, mesh: 'tub' },
          { id: 'bollard', kind: 'collide', name: 'Bollard', weights: { Flowing: 1 }, mesh: 'bollard' },
          { id: 'quay', kind: 'floor', name: 'Quay', weights: { Flowing: 1 } },
        ],
        look: { draw: 'spheres', colour: { from: 'speed', range: [0, 3], ramp: 'brine' }, skin: {} },
      },
      {
        id: 'foam',
        name: 'Spray and foam',
        phases: ['Adrift'],
        particle: {
          radius: { mean: 0.0018, spread: 0.5 },
          density: 300,
          lifespan: { mean: 70, spread: 30 },
        },
        births: [
          {
            id: 'where-it-breaks',
            kind: 'particles',
            from: 'water',
            into: 'Adrift',
            amount: { count: 6, event: 'splash' },
            scatter: 0.02,
            inherit: 1,
            aim: 'way',
            cone: 40,
            speed: 0.3,
            speedSpread: 0.8,
          },
        ],
        influences: [
          { id: 'gravity', kind: 'gravity', weights: { Adrift: 1 } },
          { id: 'froth', kind: 'froth', weights: { Adrift: 1 }, with: 'water', rise: 0.25 },
          { id: 'tub', kind: 'collide', name: 'Tub', weights: { Adrift: 1 }, mesh: 'tub' },
          { id: 'bollard', kind: 'collide', name: 'Bollard', weights: { Adrift: 1 }, mesh: 'bollard' },
          { id: 'quay', kind: 'floor', name: 'Quay', weights: { Adrift: 1 } },
        ],
        look: { draw: 'points', colour: { from: 'age', range: [0, 1], ramp: 'snow' } },
      },
    ],
    stage: {
      camera: { position: [1.9, 1.25, 2.4], target: [0, 0.35, 0.35], fieldOfView: 38 },
      light: { bearing: -40, height: 46, strength: 1.15 },
      backdrop: 'dusk',
    },
  }),
}
