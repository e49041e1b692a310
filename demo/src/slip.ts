import type { Mesh } from '@tangle/core'
import { box, lathe, loft, moved, together } from './build.ts'
import { mesh, type DemoShot } from './shot.ts'

/** A slipway, 6 m long and 2 m wide, level here: planks on it across, a kerb on either side. */
const slipway = (): Mesh =>
  together(
    box(2, 0.12, 6),
    ...Array.from({ length: 8 }, (_, n) => moved(box(1.9, 0.03, 0.1), [0, 0.06, -2.6 + n * 0.72])),
    ...[-1, 1].map((side) => moved(box(0.1, 0.22, 6), [side * 1.02, 0.09, 0])),
  )

/** What holds the upper end of the slipway, 2.3 m high. */
const trestle = (): Mesh =>
  together(
    ...[-0.8, 0.8].map((x) => moved(box(0.14, 2.3, 0.14), [x, 1.15, 0])),
    moved(box(2.1, 0.12, 0.1), [0, 1.9, 0.121]),
    moved(box(1.9, 0.1, 0.06), [0, 0.6, -0.101]),
  )

/** A tub, 42 cm high. */
const tub = (): Mesh =>
  lathe([
    [0, 0],
    [0.2, 0],
    [0.25, 0.42],
    [0.235, 0.42],
    [0.19, 0.03],
    [0, 0.03],
  ])

/** A ship's rivet, 9 cm: a domed head and a shank. */
const rivet = (): Mesh =>
  lathe(
    [
      [0, 0],
      [0.012, 0.001],
      [0.014, 0.004],
      [0.014, 0.064],
      [0.026, 0.064],
      [0.025, 0.074],
      [0.019, 0.083],
      [0.01, 0.0885],
      [0, 0.09],
    ],
    20,
  )

/** A washer, 6 cm across. */
const washer = (): Mesh =>
  lathe(
    [
      [0.014, 0],
      [0.03, 0],
      [0.03, 0.006],
      [0.014, 0.006],
      [0.014, 0],
    ],
    32,
  )

/** A nut, 5 cm across, six-sided outside and round inside. */
function nut(): Mesh {
  const around = 24
  const at = (radius: number, y: number, sides: number) =>
    Array.from({ length: around }, (_, s): [number, number, number] => {
      const turn = (2 * Math.PI * s) / around
      const within = (turn % (Math.PI / 3)) - Math.PI / 6
      const r = sides === 6 ? (radius * Math.cos(Math.PI / 6)) / Math.cos(within) : radius
      return [r * Math.sin(turn), y, r * Math.cos(turn)]
    })
  const rows: [number, number, number][] = [
    [0.013, 0, 0],
    [0.027, 0, 6],
    [0.027, 0.022, 6],
    [0.013, 0.022, 0],
    [0.013, 0, 0],
  ]
  return loft(rows.map(([radius, y, sides]) => at(radius, y, sides)))
}

export const SLIP_MESHES = [
  { id: 'slipway', name: 'Slipway', make: slipway },
  { id: 'trestle', name: 'Trestle', make: trestle },
  { id: 'tub', name: 'Tub', make: tub },
  { id: 'rivet', name: 'Rivet', make: rivet },
  { id: 'nut', name: 'Nut', make: nut },
  { id: 'washer', name: 'Washer', make: washer },
]

const hidden = (of: ReturnType<typeof mesh>) => ({ ...of, visible: false })

/** A tub of rivets, nuts and washers is tipped out over a slipway. */
export const rivets: DemoShot = {
  title: 'Rivets on the slipway',
  build: (asset) => ({
    frames: { first: 1, last: 168, rate: 24 },
    seed: 31,
    quality: { substeps: 8, iterations: 4 },
    meshes: [
      mesh(asset, 'slipway', 'Slipway', { position: [0, 1.45, 0], rotation: [27, 0, 0] }),
      mesh(asset, 'trestle', 'Trestle', { position: [0, 0, -2.3] }),
      mesh(asset, 'tub', 'Tub', { position: [0, 3.2, -2.75], rotation: [106, 0, 0] }),
      hidden(mesh(asset, 'net-float', 'In the tub', { position: [0, 3.12, -2.6], scale: [1.1, 1.1, 1.1] })),
      hidden(mesh(asset, 'rivet', 'Rivet', { position: [-1.8, 0, 2] })),
      hidden(mesh(asset, 'nut', 'Nut', { position: [-1.6, 0, 2] })),
      hidden(mesh(asset, 'washer', 'Washer', { position: [-1.4, 0, 2] })),
    ],
    populations: [
      {
        id: 'rivets',
        name: 'Rivets',
        phases: ['Tumbling'],
        particle: { radius: { mean: 0.04, spread: 0.3 }, density: 3000, lifespan: null },
        births: [
          {
            id: 'tipped',
            kind: 'volume',
            mesh: 'net-float',
            into: 'Tumbling',
            amount: { rate: 130, from: 4, to: 96 },
            aim: 'direction',
            direction: [0, -0.3, 1],
            cone: 14,
            speed: 2.2,
            speedSpread: 0.4,
            turned: 'random',
          },
        ],
        influences: [
          { id: 'gravity', kind: 'gravity', weights: { Tumbling: 1 } },
          {
            id: 'slip',
            kind: 'collide',
            name: 'Slipway',
            weights: { Tumbling: 1 },
            mesh: 'slipway',
            bounce: 0.45,
            friction: 0.2,
            sliding: 0.12,
            deflection: 24,
          },
          {
            id: 'quay',
            kind: 'floor',
            name: 'Quay',
            weights: { Tumbling: 1 },
            bounce: 0.35,
            friction: 0.6,
            deflection: 15,
          },
          { id: 'touch', kind: 'selfCollision', weights: { Tumbling: 1 }, bounce: 0.3, friction: 0.4 },
          { id: 'tumble', kind: 'tumble', weights: { Tumbling: 1 }, start: 400 },
          { id: 'rest', kind: 'sleep', weights: { Tumbling: 1 } },
          {
            id: 'iron',
            kind: 'colour',
            name: 'Iron and rust',
            weights: { Tumbling: 1 },
            ramp: {
              stops: [
                [0, '#59606b'],
                [0.55, '#8b8f96'],
                [0.75, '#a8633a'],
                [1, '#c98a4b'],
              ],
            },
            responses: [
              {
                to: 'at',
                from: 'random',
                curve: [
                  [0, 0],
                  [1, 1],
                ],
              },
            ],
          },
        ],
        look: {
          draw: 'instances',
          instances: {
            set: [
              { mesh: 'rivet', weight: 3 },
              { mesh: 'nut', weight: 1 },
              { mesh: 'washer', weight: 1 },
            ],
            size: 1.15,
          },
          colour: { from: 'own', range: [0, 1], ramp: 'ember' },
        },
      },
    ],
    stage: {
      camera: { position: [4.6, 2.5, 8.2], target: [-0.1, 1.0, 1.7], fieldOfView: 36 },
      light: { bearing: 60, height: 42, strength: 1.1 },
      backdrop: 'dusk',
    },
  }),
}
