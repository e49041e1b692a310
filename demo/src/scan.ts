import type { Mesh, Vector } from '@tangle/core'
import { box, lathe, loft, moved, together } from './build.ts'
import type { DemoMesh } from './meshes.ts'
import { mesh, type DemoShot } from './shot.ts'

/** Half the length of the hull, half its width, and how thick it is planked. */
const [HALF, BEAM, PLANK] = [4.5, 1.25, 0.07]
/** Points of a section, from rim to rim. */
const SIDE = 14

const widthAt = (x: number): number => BEAM * (1 - (Math.abs(x) / (HALF + 0.04)) ** 2.6) ** 0.7
const keelAt = (x: number): number => 0.9 * (x / HALF) ** 6
const rimAt = (x: number): number => 1.45 + 0.5 * (x / HALF) ** 2

/** A fishing boat that sank: an open hull of 9 m with beams, a wheelhouse and the stump of a mast. */
function wreck(): Mesh {
  const section = (x: number): Vector[] => {
    const [wide, keel, rim] = [widthAt(x), keelAt(x), rimAt(x)]
    const side = (inset: number): Vector[] =>
      Array.from({ length: SIDE }, (_, k) => {
        const turn = (Math.PI * k) / (SIDE - 1)
        const half = Math.max(0.01, wide - inset)
        return [
          x,
          rim - Math.max(0.02, rim - keel - inset) * Math.max(0, Math.sin(turn)) ** 0.8,
          half * Math.cos(turn),
        ]
      })
    return [...side(0), ...side(PLANK).reverse()]
  }
  const hull = loft(Array.from({ length: 49 }, (_, k) => section(-HALF + (2 * HALF * k) / 48)))
  const beams = [-3, -0.6, 0.9, 2.3, 3.4].map((x) => moved(box(0.16, 0.12, 2 * widthAt(x) - 0.06), [x, rimAt(x) - 0.14, 0])) // prettier-ignore
  const house = moved(box(1.5, 1.3, 1.3), [-1.9, 1.75, 0])
  const roof = moved(box(1.7, 0.08, 1.5), [-1.9, 2.43, 0])
  const mast = moved(lathe([[0, 0], [0.12, 0], [0.09, 2.9], [0, 2.9]], 20), [0.7, 0.15, 0], [0, 0, -9]) // prettier-ignore
  return together(hull, ...beams, house, roof, mast)
}

/** A towed body of half a metre that looks down. */
const sounder = (): Mesh =>
  moved(
    lathe([[0, -0.26], [0.05, -0.24], [0.08, -0.12], [0.08, 0.14], [0.03, 0.24], [0, 0.25]], 24), // prettier-ignore
    [0, 0, 0],
    [0, 0, 90],
  )

export const SCAN_MESHES: DemoMesh[] = [
  { id: 'wreck', name: 'Wreck', make: wreck },
  { id: 'sounder', name: 'Sounder', make: sounder },
]

const shrinks = { to: 'size', from: 'age', curve: [[0, 1, 'out'], [1, 0.02]] } // prettier-ignore

/** A sounder is towed over a sunken boat: its rays light points up where they meet it, with more around, which shrink away; what has been seen stays as a faint sketch of the hull. */
export const scan: DemoShot = {
  title: 'The sounder and the wreck',
  build: (asset) => ({
    frames: { first: 1, last: 168, rate: 24 },
    seed: 21,
    quality: { substeps: 2 },
    meshes: [
      mesh(asset, 'ground', 'Sea bed', { position: [0, -0.25, 0] }),
      { ...mesh(asset, 'wreck', 'Wreck', { position: [0, 0.1, 0], rotation: [17, 12, -6] }) },
      mesh(asset, 'sounder', 'Sounder', {
        position: [
          { keys: [[1, -6.2, 'smooth'], [150, 6.2]] },
          { keys: [[1, 5.1, 'smooth'], [60, 4.7, 'smooth'], [110, 5.2, 'smooth'], [150, 4.9]] },
          { keys: [[1, 0.6, 'smooth'], [75, -0.5, 'smooth'], [150, 0.4]] },
        ],
      }),
    ],
    masks: [{ id: 'seen', name: 'Seen', kind: 'seen', mesh: 'wreck', soft: 0.5 }],
    populations: [
      {
        id: 'eyes',
        name: 'Eyes',
        phases: ['Looking'],
        particle: { radius: 0.02, density: 1000, lifespan: null },
        births: [{ id: 'on', kind: 'surface', mesh: 'sounder', into: 'Looking', amount: { burst: 12, at: 1 } }],
        influences: [{ id: 'ride', kind: 'ride', weights: { Looking: 1 } }],
        look: { draw: 'points', colour: { from: 'own', range: [0, 1], ramp: 'brine' }, glow: { strength: 2, halo: 4 } },
      },
      {
        id: 'marks',
        name: 'Marks',
        phases: ['Lit'],
        particle: { radius: { mean: 0.024, spread: 0.4 }, density: 1000, lifespan: { mean: 90, spread: 30 } },
        births: [
          {
            id: 'met',
            kind: 'particles',
            from: 'eyes',
            into: 'Lit',
            amount: { rate: 36, to: 152 },
            mesh: 'wreck',
            laid: 'ray',
            reach: 12,
            aim: 'direction',
            direction: [0, -1, 0],
            cone: 32,
          },
        ],
        influences: [
          { id: 'ride', kind: 'ride', weights: { Lit: 1 } },
          { id: 'size', kind: 'size', name: 'Shrink away', weights: { Lit: 1 }, responses: [shrinks] },
        ],
        look: {
          draw: 'points',
          colour: { from: 'age', range: [0, 1], ramp: 'brine' },
          glow: { strength: 3, halo: 3, by: 'life' },
          threads: { frames: 3, reach: 12, width: 0.006, opacity: 0.22 },
        },
      },
      {
        id: 'around',
        name: 'Around them',
        phases: ['Lit'],
        particle: { radius: { mean: 0.013, spread: 0.5 }, density: 1000, lifespan: { mean: 110, spread: 40 } },
        births: [
          {
            id: 'more',
            kind: 'particles',
            from: 'marks',
            into: 'Lit',
            amount: { event: 'birth', count: 9 },
            mesh: 'wreck',
            scatter: 0.16,
          },
        ],
        influences: [
          { id: 'ride', kind: 'ride', weights: { Lit: 1 } },
          { id: 'size', kind: 'size', name: 'Shrink away', weights: { Lit: 1 }, responses: [shrinks] },
        ],
        look: {
          draw: 'points',
          colour: { from: 'age', range: [0, 1], ramp: 'brine' },
          glow: { strength: 1.2, halo: 3, by: 'life' },
        },
      },
      {
        id: 'sketch',
        name: 'Sketch',
        phases: ['Unseen', 'Seen'],
        particle: { radius: 0.014, density: 1000, lifespan: null },
        births: [{ id: 'hull', kind: 'surface', mesh: 'wreck', into: 'Unseen', scatter: 'even', offset: 0.012, amount: { burst: 8000, at: 1 } }],
        cues: [{ id: 'met', from: 'Unseen', to: 'Seen', when: { kind: 'mask', mask: 'seen', above: 0.5 } }],
        influences: [
          { id: 'ride', kind: 'ride', weights: { Unseen: 1, Seen: 1 } },
          { id: 'dark', kind: 'fade', name: 'Dark', weights: { Unseen: 1 }, opacity: 0 },
          { id: 'faint', kind: 'fade', name: 'Faint', weights: { Seen: 1 }, opacity: 0.7 },
        ],
        look: {
          draw: 'points',
          colour: { from: 'age', range: [-3, 11], ramp: 'brine' },
          glow: { strength: 1.4, halo: 1.8 },
        },
      },
    ],
    stage: {
      camera: { position: [4.6, 4.4, 9.4], target: [0.2, 1.7, 0], fieldOfView: 46 },
      light: { bearing: -30, height: 60, strength: 0.12 },
      backdrop: 'night',
      bloom: { strength: 0.5, radius: 0.4, threshold: 0.6 },
    },
  }),
} // prettier-ignore
