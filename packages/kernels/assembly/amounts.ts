/** How much of an influence each particle gets: weight(phase) × strength(t) × Π responses. */
import { curveKey } from './layouts'
import { readF32, readF64, readI32, truncate, writeF32 } from './machine'

/** amount = weights[phase]; `weights` is an f64 per phase. */
export function weigh(start: i32, end: i32, phase: usize, weights: usize, amount: usize): void {
  for (let i = start; i < end; i++) writeF32(amount, i, readF64(weights, readI32(phase, i)))
}

/** Shape of an ease at t from 0 to 1; the codes are those of core's document/parameters.ts (EASES). */
export function ease(code: i32, t: f64): f64 {
  if (code == 0) return t
  if (code == 1) return t * t * (3.0 - 2.0 * t)
  if (code == 2) return 0.0
  if (code == 3) return t * t
  if (code == 4) return t * (2.0 - t)
  return t * t * t * (t * (6.0 * t - 15.0) + 10.0)
}

/** Value of a curve of `count` keys; it holds outside. */
export function curveAt(keys: usize, count: i32, x: f64): f64 {
  if (x <= readF64(keys, curveKey.x)) return readF64(keys, curveKey.y)
  for (let k = 1; k < count; k++) {
    const after = k * curveKey.SIZE
    const high = readF64(keys, after + curveKey.x)
    if (x > high) continue
    const before = after - curveKey.SIZE
    const low = readF64(keys, before + curveKey.x)
    const from = readF64(keys, before + curveKey.y)
    const to = readF64(keys, after + curveKey.y)
    if (x == high) return to
    const code = truncate(readF64(keys, before + curveKey.ease))
    return from + (to - from) * ease(code, (x - low) / (high - low))
  }
  return readF64(keys, (count - 1) * curveKey.SIZE + curveKey.y)
}

/** amount ×= curve(source). */
export function respond(start: i32, end: i32, source: usize, keys: usize, count: i32, amount: usize): void {
  for (let i = start; i < end; i++) {
    writeF32(amount, i, readF32(amount, i) * curveAt(keys, count, readF32(source, i)))
  }
}

/** out = curve(in), in place allowed. */
export function remap(start: i32, end: i32, input: usize, keys: usize, count: i32, out: usize): void {
  for (let i = start; i < end; i++) writeF32(out, i, curveAt(keys, count, readF32(input, i)))
}
