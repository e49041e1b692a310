import type { Heap } from '@tangle/kernels'
import { cosine, sine } from './functions.ts'
import { randoms, STREAM } from './random.ts'
import { cross, unit, type Vector } from './vector.ts'

/** Entries of a table of lattice vectors and its size: 256 rows of x, y, z and 0, f32. */
const ENTRIES = 256
export const TABLE_BYTES = ENTRIES * 4 * 4

/** Root mean square length of the curl of the noise, measured (noise.test.ts). */
export const CURL_RMS = 0.03944

/** The same of the whirls in cells. */
export const WHIRL_RMS = 1.601

/**
 * Writes the lattice vectors of the noise kernel, turned to a moment. Each turns in a plane of its own, at one of four
 * speeds that have no common period, so the field never repeats.
 * Source: Perlin, Neyret, "Flow noise" (2001).
 * @param turns how far the field has changed, in turns of the slowest vectors.
 */
export function writeGradients(heap: Heap, pointer: number, seed: number, turns: number): void {
  const pairs = gradientPairs(seed)
  const table = heap.f32(pointer, ENTRIES * 4)
  const phases = SPEEDS.map((speed) => 2 * Math.PI * turns * speed)
  const [cosines, sines] = [Float64Array.from(phases, cosine), Float64Array.from(phases, sine)]
  for (let g = 0; g < ENTRIES; g++) {
    const [c, s] = [cosines[g & 3]!, sines[g & 3]!]
    const [to, from] = [g * 4, g * 6]
    table[to] = c * pairs[from]! + s * pairs[from + 3]!
    table[to + 1] = c * pairs[from + 1]! + s * pairs[from + 4]!
    table[to + 2] = c * pairs[from + 2]! + s * pairs[from + 5]!
    table[to + 3] = 0
  }
}
const SPEEDS = [1, 1.272, 1.618, 2.058]

const known = new Map<number, Float64Array>()

/** Per lattice vector two unit vectors at right angles: the plane in which it turns. */
function gradientPairs(seed: number): Float64Array {
  const cached = known.get(seed)
  if (cached) return cached
  const pairs = new Float64Array(ENTRIES * 6)
  for (let g = 0; g < ENTRIES; g++) {
    const [a, b, c, d] = randoms(seed, g, STREAM.gradients)
    const first = onSphere(a, b)
    const second = unit(cross(first, onSphere(c, d)), [first[1], -first[0], 0])
    pairs.set(first, g * 6)
    pairs.set(second, g * 6 + 3)
  }
  if (known.size > 64) known.clear()
  known.set(seed, pairs)
  return pairs
}

/** Even on the sphere: height and longitude (Archimedes). */
export function onSphere(a: number, b: number): Vector {
  const z = 2 * a - 1
  const r = Math.sqrt(Math.max(0, 1 - z * z))
  return [r * cosine(2 * Math.PI * b), r * sine(2 * Math.PI * b), z]
}
