import { mesh, type DemoShot } from './shot.ts'

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
