/** Vertices of meshes that move in their files (3 × f32 each), computed in f64. */
import { readF32, readI32, writeF32 } from './machine'

/** out = a + (b − a)·part. */
export function blendPoints(start: i32, end: i32, a: usize, b: usize, part: f64, out: usize): void {
  for (let k = start * 3; k < end * 3; k++) {
    const from = readF32(a, k)
    writeF32(out, k, from + (readF32(b, k) - from) * part)
  }
}

/** points += amount·deltas. */
export function addDeltas(start: i32, end: i32, deltas: usize, amount: f64, points: usize): void {
  for (let k = start * 3; k < end * 3; k++) writeF32(points, k, readF32(points, k) + amount * readF32(deltas, k))
}

/**
 * out = Σ weight·M·p, linear blend skinning: `width` joints (u32) and weights (f32) per vertex, and of each joint a map of 12 f32, row by row.
 * Source: glTF 2.0, §3.7.3.3.
 */
export function skinPoints(
  start: i32, end: i32, points: usize, width: i32, joints: usize, weights: usize, maps: usize, out: usize,
): void {
  for (let v = start; v < end; v++) {
    const x = readF32(points, v * 3)
    const y = readF32(points, v * 3 + 1)
    const z = readF32(points, v * 3 + 2)
    let a: f64 = 0.0
    let b: f64 = 0.0
    let c: f64 = 0.0
    for (let k = v * width; k < (v + 1) * width; k++) {
      const weight = readF32(weights, k)
      if (weight == 0.0) continue
      const m = readI32(joints, k) * 12
      a += weight * (readF32(maps, m) * x + readF32(maps, m + 1) * y + readF32(maps, m + 2) * z + readF32(maps, m + 3))
      b += weight * (readF32(maps, m + 4) * x + readF32(maps, m + 5) * y + readF32(maps, m + 6) * z + readF32(maps, m + 7))
      c += weight * (readF32(maps, m + 8) * x + readF32(maps, m + 9) * y + readF32(maps, m + 10) * z + readF32(maps, m + 11))
    }
    writeF32(out, v * 3, a)
    writeF32(out, v * 3 + 1, b)
    writeF32(out, v * 3 + 2, c)
  }
}

/** Vertices from `first` on lie half-way between two that come before each (2 × u32). */
export function placeMiddles(count: i32, first: i32, ends: usize, points: usize): void {
  for (let n = 0; n < count; n++) {
    const a = readI32(ends, n * 2) * 3
    const b = readI32(ends, n * 2 + 1) * 3
    for (let axis = 0; axis < 3; axis++)
      writeF32(points, (first + n) * 3 + axis, (readF32(points, a + axis) + readF32(points, b + axis)) / 2.0)
  }
}
