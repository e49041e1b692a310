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
            [6, 0.3, 'smooth'],
            [100, 1.35],
          ],
        },
        ragged: 0.7,
        raggedScale: 0.8,
        soft: 0.3,
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
            weights: { Loose: 0.8, Drifting: 1 },
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
                  [0, 0.45, 'smooth'],
                  [0.3, 1],
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
