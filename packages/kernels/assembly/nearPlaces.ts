/** How near places of a set are, as a mask. */
import { bucketOf, cellOf } from './cells'
import { readF32, readF64, readI32, squareRoot, writeF32 } from './machine'

/**
 * 1 at a place of the set that is older than `frame`, falling to 0 at the width of a cell from it, for points in columns x, y and z (f32).
 * Places (3 × f32) and their frames (f64) stand sorted by the bucket of their cell (cells.ts); `first` says where those of a bucket begin.
 */
export function maskNearPlaces(
  start: i32, end: i32, x: usize, y: usize, z: usize,
  places: usize, frames: usize, first: usize, perMetre: f64, mask: i32, frame: f64, out: usize,
): void {
  const width = 1.0 / perMetre
  for (let i = start; i < end; i++) {
    const px = readF32(x, i)
    const py = readF32(y, i)
    const pz = readF32(z, i)
    const cx = cellOf(px, perMetre)
    const cy = cellOf(py, perMetre)
    const cz = cellOf(pz, perMetre)
    let nearest = width * width
    for (let dz = -1; dz <= 1; dz++)
      for (let dy = -1; dy <= 1; dy++) {
        // cells side by side along x have buckets side by side, but for the last ones
        const bucket = bucketOf(cx - 1, cy + dy, cz + dz, mask)
        const row = bucket + 2 <= mask ? 3 : 1
        for (let n = 0; n < 3; n += row) {
          const from = (bucket + n) & mask
          const last = readI32(first, from + row)
          for (let k = readI32(first, from); k < last; k++) {
            if (readF64(frames, k) >= frame) continue
            const ax = readF32(places, k * 3) - px
            const ay = readF32(places, k * 3 + 1) - py
            const az = readF32(places, k * 3 + 2) - pz
            const squared = ax * ax + ay * ay + az * az
            if (squared < nearest) nearest = squared
          }
        }
      }
    writeF32(out, i, 1.0 - squareRoot(nearest) * perMetre)
  }
}
