import { mesh, type DemoShot } from './shot.ts'

/** Flares go up from the quay, leave discs behind that pulse, burst into sparks and hang there, dripping embers. */
export const flares: DemoShot = {
  title: 'Flares over the harbour',
  build: (asset) => ({
    frames: { first: 1, last: 240, rate: 24 },
    seed: 12,
    quality: { substeps: 2 },
    meshes: [
      mesh(asset, 'quay', 'Quay'),
      mesh(asset, 'lighthouse', 'Lighthouse', { position: [-7, 0, -4] }),
      mesh(asset, 'bollard', 'Bollard', { position: [0, 0.05, 0] }),
    ],
    populations: [
      {
        id: 'flares',
        name: 'Flares',
        phases: ['Rising', 'Hanging'],
        particle: { radius: 0.09, density: 900, lifespan: { mean: 120, spread: 18 } },
        births: [
          {
            id: 'launch',
            kind: 'volume',
            mesh: 'bollard',
            into: 'Rising',
            // a salvo first
            amount: { rate: { keys: [[1, 30, 'hold'], [3, 1.7]] }, to: 150 },
            aim: 'direction',
            direction: [0.08, 1, 0],
            cone: 24,
            speed: 21,
            speedSpread: 0.25,
          },
        ],
        cues: [{ id: 'spent', from: 'Rising', to: 'Hanging', when: { kind: 'after', frames: 34 } }],
        influences: [
          { id: 'gravity', kind: 'gravity', weights: { Rising: 0.7, Hanging: 0.06 } },
          { id: 'air', kind: 'drag', name: 'Air', weights: { Rising: 0.9, Hanging: 2.5 }, strength: 1 },
          { id: 'breeze', kind: 'wind', name: 'Breeze', weights: { Hanging: 1 }, direction: [1, 0, 0.3], speed: 0.4, strength: 0.8 },
        ],
        look: {
          draw: 'points',
          colour: { from: 'age', range: [0, 1.2], ramp: 'ember' },
          glow: { strength: 5, halo: 5, by: 'life' },
        },
      },
      {
        id: 'wake',
        name: 'Wake',
        phases: ['Left'],
        particle: { radius: { mean: 0.17, spread: 0.25 }, density: 1, lifespan: { mean: 64, spread: 16 } },
        attributes: [
          {
            id: 'tint',
            name: 'Tint',
            type: 'colour',
            birth: {
              list: [
                { value: '#ff8a5c', weight: 3 },
                { value: '#ffd27a', weight: 2 },
                { value: '#6fd3c4', weight: 2 },
                { value: '#c58bff', weight: 1 },
              ],
            },
          },
        ],
        births: [
          {
            id: 'left',
            kind: 'particles',
            from: 'flares',
            parentPhase: 'Rising',
            into: 'Left',
            amount: { spacing: 0.28 },
            // from the tail, across the way
            offset: [0, 0, -0.2],
            aim: 'way',
            turned: 'way',
          },
        ],
        influences: [
          {
            id: 'pulse',
            kind: 'size',
            name: 'Pulse and fade',
            weights: { Left: 1 },
            responses: [
              { to: 'size', from: 'frames', curve: [[0, 0.45, 'smooth'], [7, 1]], repeat: 'swing' },
              { to: 'size', from: 'age', curve: [[0.3, 1, 'smooth'], [1, 0.05]] },
            ],
          },
          { id: 'drift', kind: 'turbulence', name: 'Drift', weights: { Left: 1 }, strength: 0.25, scale: 1.5 },
          { id: 'calm', kind: 'drag', name: 'Still air', weights: { Left: 1 }, strength: 1 },
        ],
        look: {
          draw: 'discs',
          colour: { from: 'attribute', attribute: 'tint', range: [0, 1], ramp: 'ember' },
          glow: { strength: 0.5, by: 'life' },
        },
      },
      {
        id: 'sparks',
        name: 'Sparks',
        phases: ['Flying'],
        particle: { radius: { mean: 0.025, spread: 0.5 }, density: 700, lifespan: { mean: 40, spread: 22 } },
        births: [
          {
            id: 'flash',
            kind: 'particles',
            from: 'flares',
            parentPhase: 'Hanging',
            into: 'Flying',
            amount: { event: 'phase', count: 90 },
            place: 'surface',
            speed: 4.5,
            speedSpread: 0.5,
            inherit: 0.6,
          },
          {
            id: 'drip',
            kind: 'particles',
            from: 'flares',
            parentPhase: 'Hanging',
            into: 'Flying',
            amount: { rate: 22 },
            scatter: 0.08,
            aim: 'direction',
            direction: [0, -1, 0],
            cone: 30,
            speed: 0.6,
            speedSpread: 0.6,
          },
        ],
        influences: [
          { id: 'gravity', kind: 'gravity', weights: { Flying: 0.5 } },
          { id: 'air', kind: 'drag', name: 'Air', weights: { Flying: 1 }, strength: 1.4 },
          { id: 'flutter', kind: 'turbulence', name: 'Flutter', weights: { Flying: 1 }, strength: 4, scale: 0.6, octaves: 2 },
        ],
        look: {
          draw: 'points',
          colour: { from: 'age', range: [0, 1], ramp: 'ember' },
          glow: { strength: 3, halo: 3, by: 'life' },
          trail: { length: 4, width: 0.02, widthEnd: 0, opacityEnd: 0 },
        },
      },
    ],
    stage: {
      camera: { position: [6.5, 4.2, 23], target: [1, 9.6, 0], fieldOfView: 50 },
      light: { bearing: -50, height: 30, strength: 0.35 },
      backdrop: 'night',
      bloom: { strength: 0.7, radius: 0.5, threshold: 0.7 },
    },
  }),
} // prettier-ignore
