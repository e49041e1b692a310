import type { Mesh, Vector } from '@tangle/core'
import { loft, together } from './build.ts'
import type { DemoMesh } from './meshes.ts'
import { mesh, type DemoShot } from './shot.ts'

/** The middle of the figurehead's head, metres. */
const HEAD: Vector = [0.2, 1.4, 0]

/** Locks: where they leave the head (about its axis from nape to brow, degrees, and how high), how long, how thick, and their wave. */
const LOCKS: [round: number, long: number, thick: number, wave: number, phase: number][] = [
  [0, 1.02, 0.062, 0.05, 0],
  [34, 0.96, 0.055, 0.055, 0.7],
  [-36, 0.98, 0.055, 0.05, 0.35],
  [68, 0.86, 0.05, 0.06, 0.2],
  [-66, 0.9, 0.05, 0.055, 0.85],
  [102, 0.74, 0.045, 0.05, 0.5],
  [-100, 0.72, 0.045, 0.05, 0.1],
  [17, 0.66, 0.05, 0.035, 0.55],
  [-18, 0.7, 0.05, 0.04, 0.15],
  [128, 0.55, 0.036, 0.04, 0.3],
  [-126, 0.57, 0.036, 0.04, 0.9],
]

/** The middle of a lock on its way from the head (0) to its tip (1). */
function middleOf([round, long, , wave, phase]: (typeof LOCKS)[number], t: number): Vector {
  const turn = (round * Math.PI) / 180
  const swing = Math.sin(2 * Math.PI * (1.15 * t + phase)) * wave * Math.min(1, 3 * t)
  const out = 0.085 + 0.16 * t
  return [
    HEAD[0] + 0.06 - long * t,
    HEAD[1] + out * Math.cos(turn) * (1 - 0.5 * t) + swing + 0.05 * t - 0.16 * t * t,
    HEAD[2] + out * Math.sin(turn) + 0.6 * swing,
  ]
}

/** A lock that the wind holds out backward: flat where it leaves the head, thin at its tip. */
function lock(of: (typeof LOCKS)[number]): Mesh {
  const [round, , thick] = of
  const [around, along] = [18, 40]
  const turn = (round * Math.PI) / 180
  return loft(
    Array.from({ length: along + 1 }, (_, i) => {
      const t = i / along
      const [x, y, z] = middleOf(of, t)
      const size = thick * Math.max(0.02, Math.min(1, t * 12) ** 0.5 * (1 - t) ** 0.7)
      return Array.from({ length: around }, (_, s): Vector => {
        const a = (-2 * Math.PI * s) / around
        // wider along the head than off it, with a groove for each strand
        const grooved = 1 + 0.09 * Math.cos(6 * a + 7 * t)
        const [wide, high] = [1.5 * size * grooved * Math.sin(a), 0.8 * size * grooved * Math.cos(a)]
        return [
          x,
          y + high * Math.cos(turn) - wide * Math.sin(turn),
          z + high * Math.sin(turn) + wide * Math.cos(turn),
        ]
      })
    }),
  )
}

/** Hair on the head, from the brow back to the nape. */
const cap = (): Mesh =>
  loft(
    Array.from({ length: 25 }, (_, i) => {
      const t = i / 24
      const size = Math.sqrt(Math.max(0.002, 1 - (2 * t - 1) ** 2))
      return Array.from({ length: 40 }, (_, s): Vector => {
        const a = (-2 * Math.PI * s) / 40
        const strands = 1 + 0.025 * Math.cos(16 * a)
        return [
          HEAD[0] + 0.105 - 0.25 * t,
          HEAD[1] + 0.035 + 0.115 * size * strands * Math.cos(a) - 0.03 * t,
          HEAD[2] + 0.118 * size * strands * Math.sin(a),
        ]
      })
    }),
  )

/** The figurehead's hair in the wind: eleven locks of up to a metre. */
const hair = (): Mesh => together(cap(), ...LOCKS.map(lock))

export const HAIR_MESHES: DemoMesh[] = [{ id: 'hair', name: 'Hair', make: hair }]

/** Strokes of the brush along the upper side of a lock, that weave as hair does. */
const strokes = LOCKS.slice(0, 9).map((of, k) => ({
  brush: 'comb',
  radius: 0.1,
  strength: 0.55,
  points: Array.from({ length: 16 }, (_, i): Vector => {
    const [x, y, z] = middleOf(of, i / 15)
    const weave = 0.035 * Math.sin(i * 1.1 + k * 2)
    return [x, y + of[2] * 0.7, z + weave].map((c) => Number(c.toFixed(4))) as Vector
  }),
}))

/** Sparks run along combed hair, in pulses, and blow away at its tips. */
export const figureheadHair: DemoShot = {
  title: "Wind in the figurehead's hair",
  build: (asset) => ({
    frames: { first: 1, last: 192, rate: 24 },
    seed: 33,
    quality: { substeps: 2 },
    meshes: [
      mesh(asset, 'figurehead', 'Figurehead'),
      {
        ...mesh(asset, 'hair', 'Hair'),
        deform: [{ id: 'blown', kind: 'ripple', amount: 0.016, wavelength: 0.45, speed: 0.6, direction: [-1, 0, 0] }],
      },
    ],
    masks: [
      { id: 'crown', name: 'Crown', kind: 'ball', centre: [0.26, 1.47, 0], radius: 0.16, soft: 0.1 },
      { id: 'tips', name: 'Tips', kind: 'uv', mesh: 'hair', along: 'v', low: 0.86, high: 1.2, soft: 0.06 },
    ],
    combings: [{ id: 'hair', name: 'Hair', mesh: 'hair', start: 'v', smooth: 0.02, strokes }],
    populations: [
      {
        id: 'sparks',
        name: 'Sparks',
        phases: ['Running', 'Loose'],
        particle: { radius: { mean: 0.0028, spread: 0.5 }, density: 400, lifespan: { mean: 84, spread: 30 } },
        births: [
          {
            id: 'crown',
            kind: 'surface',
            mesh: 'hair',
            into: 'Running',
            amount: { rate: { keys: [[1, 900, 'smooth'], [12, 150, 'smooth'], [24, 900]], repeat: 'loop' } },
            density: 'crown',
            offset: 0.004,
          },
        ],
        cues: [{ id: 'off', from: 'Running', to: 'Loose', when: { kind: 'mask', mask: 'tips', above: 0.5 } }],
        influences: [
          {
            id: 'follow',
            kind: 'follow',
            weights: { Running: 1 },
            combing: 'hair',
            speed: { keys: [[1, 0.2, 'smooth'], [12, 0.75, 'smooth'], [24, 0.2]], repeat: 'loop' },
            offset: 0.005,
            reach: 0.012,
            pull: 1.2,
            strength: 22,
            responses: [{ to: 'speed', from: 'random', curve: [[0, 0.55], [1, 1.45]] }],
          },
          { id: 'gale', kind: 'wind', name: 'Gale', weights: { Loose: 1 }, direction: [-1, 0.05, 0], speed: 1.6, gusts: 0.6, gustSize: 0.4, strength: 2.5 },
          { id: 'swirl', kind: 'turbulence', name: 'Swirl', weights: { Loose: 1, Running: 0.12 }, strength: 3.5, scale: 0.22, octaves: 2, change: 0.6 },
          { id: 'size', kind: 'size', name: 'Burn down', weights: { Running: 1, Loose: 1 }, responses: [{ to: 'size', from: 'age', curve: [[0.5, 1, 'smooth'], [1, 0.1]] }] },
        ],
        look: {
          draw: 'points',
          colour: { from: 'age', range: [0, 1], ramp: 'ember' },
          trail: { length: 9, step: 1, width: 0.004, widthEnd: 0.0008, colour: 'own', opacityEnd: 0.02 },
          glow: { strength: 2.2, halo: 3, by: 'life' },
        },
      },
    ],
    stage: {
      camera: { position: [-0.1, 1.5, 2.6], target: [-0.22, 1.22, 0], fieldOfView: 36 },
      light: { bearing: 60, height: 35, strength: 0.35 },
      backdrop: 'night',
      bloom: { strength: 0.55, radius: 0.4, threshold: 0.6 },
    },
  }),
} // prettier-ignore
