/** Values and boxes as USD writes them. */
import type { PopulationFrame } from '@tangle/core'

/** Values per piece of text. */
const PIECE = 36000

/** Numbers, or tuples of `width` of them, in pieces. */
export function* listOf(values: ArrayLike<number>, width: number): Generator<string> {
  const whole = values instanceof Uint32Array || values instanceof Int32Array
  const write = (v: number): string => (whole ? String(v) : decimal(v))
  for (let from = 0; from < values.length; from += PIECE) {
    const words: string[] = []
    for (let i = from; i < Math.min(values.length, from + PIECE); i += width) {
      if (width === 1) words.push(write(values[i]!))
      else words.push(`(${Array.from({ length: width }, (_, k) => write(values[i + k]!)).join(', ')})`)
    }
    yield (from > 0 ? ', ' : '') + words.join(', ')
  }
}

/** Nine digits carry every f32 exactly, −0 included. */
export const decimal = (value: number): string =>
  Object.is(value, -0) ? '-0' : String(Number(value.toPrecision(9)))

/** The box around particles with their radii: its low and its high corner. */
export function extent({ columns }: PopulationFrame, radius = columns.radius): Float32Array {
  return boxOf(columns.position as Float32Array, (i) => radius?.[i] ?? 0)
}
export function boxOf(positions: Float32Array, radius: (i: number) => number): Float32Array {
  if (positions.length === 0) return new Float32Array(6)
  const out = new Float32Array([Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity])
  for (let i = 0; i < positions.length; i++) {
    const axis = i % 3
    const r = radius(Math.floor(i / 3))
    out[axis] = Math.min(out[axis]!, positions[i]! - r)
    out[axis + 3] = Math.max(out[axis + 3]!, positions[i]! + r)
  }
  return out
}
