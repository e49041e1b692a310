/** A coarse field of distances (`distanceField` in layouts.ts): how far any place of a cell is from a surface at least, below 0 inside. */
import { distanceField, F64 } from './layouts'
import { readF32, readF64, truncate, writeF32, writeI32 } from './machine'

/** Farther than any surface. */
const FAR: f64 = 1.0e30

/** Metres from a place to the surface at the least, negative inside; 0 where nothing is known. */
export function boundAt(field: usize, x: f64, y: f64, z: f64): f64 {
  const size = readF64(field, distanceField.cellSize)
  const i = (x - readF64(field, distanceField.lowX)) / size
  const k = (y - readF64(field, distanceField.lowY)) / size
  const n = (z - readF64(field, distanceField.lowZ)) / size
  const across = readF64(field, distanceField.across)
  const up = readF64(field, distanceField.up)
  let bound = readF64(field, distanceField.beyond)
  if (i >= 0.0 && k >= 0.0 && n >= 0.0 && i < across && k < up && n < readF64(field, distanceField.deep)) {
    bound = readF32(field + distanceField.SIZE * F64, truncate(i) + truncate(across) * (truncate(k) + truncate(up) * truncate(n)))
  }
  const slack = readF64(field, distanceField.slack)
  if (bound < 0.0) return bound + slack < 0.0 ? bound + slack : 0.0
  return bound - slack > 0.0 ? bound - slack : 0.0
}

/** Where the field tells that a place is `limit` metres off or more, ±1e30 by its side, else 0. */
export function sidesByField(start: i32, end: i32, field: usize, queries: usize, limit: f64, distance: usize): void {
  for (let i = start; i < end; i++) {
    const bound = boundAt(field, readF32(queries, i * 3), readF32(queries, i * 3 + 1), readF32(queries, i * 3 + 2))
    writeF32(distance, i, bound >= limit ? FAR : -bound >= limit ? -FAR : 0.0)
  }
}

/** Numbers of those of whom the field told nothing. Returns how many. */
export function selectUntold(count: i32, distance: usize, out: usize): i32 {
  let found = 0
  for (let i = 0; i < count; i++) {
    if (readF32(distance, i) != 0.0) continue
    writeI32(out, found, i)
    found++
  }
  return found
}
