/**
 * Particles between two frames. Who is there is settled by the first of them, so that a renderer can follow each from sample to sample: where it has a
 * velocity at both ends its way is the cubic through both places with both velocities (Hermite); who is gone in the second goes on straight, and so does
 * a skin.
 */
import {
  rowsAmong,
  TOLD,
  turnsBetween,
  type AttributeName,
  type MeshFrame,
  type PopulationFrame,
} from '@tangle/core'
import type { CachedFrame } from '../frames/cachedFrame.ts'

type Columns = PopulationFrame['columns']

/** Attributes that go evenly from one frame to the next; all others are as they were. */
const EVEN: AttributeName[] = ['radius', 'opacity', 'travelled', 'colour', ...TOLD]

/**
 * `from`, moved on to where it is after `seconds`; `to` is the frame that is `span` seconds after it (below 0: before it), null where there is none.
 */
export function betweenFrames(
  from: CachedFrame,
  to: CachedFrame | null,
  seconds: number,
  span: number,
): CachedFrame {
  return {
    ...from,
    populations: from.populations.map((one) => {
      const later = to?.populations.find(({ id }) => id === one.id)
      return populationBetween(one, later ?? null, seconds, span)
    }),
    meshes: from.meshes.map((one) => meshAfter(one, seconds)),
  }
}

/** A mesh whose vertices are others in the next frame goes on as they do. */
function meshAfter(mesh: MeshFrame, seconds: number): MeshFrame {
  const { positions, velocities } = mesh
  return velocities ? { ...mesh, positions: positions.map((x, k) => x + seconds * velocities[k]!) } : mesh
}

function populationBetween(
  from: PopulationFrame,
  to: PopulationFrame | null,
  seconds: number,
  span: number,
): PopulationFrame {
  const { columns } = from
  const there = rowsAmong(columns.id!, to?.columns.id ?? [])
  const s = seconds / span
  const moved: Columns = { ...columns, ...placesBetween(columns, to?.columns ?? {}, there, seconds, span) }
  for (const name of EVEN) {
    const [a, b] = [columns[name], to?.columns[name]]
    if (!a || !b) continue
    moved[name] = evenly(a as Float32Array, b as Float32Array, there, s)
  }
  if (columns.orientation && to?.columns.orientation)
    moved.orientation = turnsBetween(columns.orientation as Float32Array, to.columns.orientation as Float32Array, there, s) // prettier-ignore
  for (const name of ['age', 'phaseAge'] as const)
    if (columns[name]) moved[name] = (columns[name] as Float32Array).map((age) => age + seconds)
  return { ...from, columns: moved }
}

function placesBetween(
  { position: x0, velocity: v0 }: Columns,
  { position: x1, velocity: v1 }: Columns,
  there: Int32Array,
  seconds: number,
  span: number,
): Columns {
  if (!x0) return {}
  const s = seconds / span
  const [position, velocity] = [(x0 as Float32Array).slice(), v0 ? (v0 as Float32Array).slice() : null]
  for (let i = 0; i < position.length; i++) {
    const row = there[Math.floor(i / 3)]!
    const j = row * 3 + (i % 3)
    if (row < 0) position[i]! += v0 ? v0[i]! * seconds : 0
    else if (!v0 || !v1) position[i] = x0[i]! + (x1![j]! - x0[i]!) * s
    else {
      const way = x1![j]! - x0[i]!
      const [a, b] = [v0[i]! * span, v1[j]! * span]
      // x0 + s·a + s²·(3·way − 2a − b) + s³·(a + b − 2·way), and its slope
      const [c, d] = [3 * way - 2 * a - b, a + b - 2 * way]
      position[i] = x0[i]! + s * (a + s * (c + s * d))
      velocity![i] = (a + s * (2 * c + s * 3 * d)) / span
    }
  }
  return { position, ...(velocity ? { velocity } : {}) }
}

function evenly(from: Float32Array, to: Float32Array, there: Int32Array, s: number): Float32Array {
  const width = there.length === 0 ? 1 : from.length / there.length
  return from.map((a, i) => {
    const row = there[Math.floor(i / width)]!
    return row < 0 ? a : a + (to[row * width + (i % width)]! - a) * s
  })
}
