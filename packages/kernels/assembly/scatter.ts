/**
 * Points on a surface, uniform by area: the triangle by inversion of the cumulated area, the place
 * in it by the square-root map (Turk, "Generating random points in triangles", Graphics Gems, 1990).
 */
import { philox, toUnit, word0, word1, word2 } from './random'
import { readF64, readI32, squareRoot, writeF32, writeI32 } from './machine'

/**
 * For each id: a triangle and its barycentric weights (u, v) of the second and third vertex.
 * `areas`: f64 per triangle, the area of all triangles up to and including it, in m².
 */
export function scatterSurface(
  start: i32, end: i32, ids: usize, seed: i32, stream: i32,
  areas: usize, triangles: i32, outTriangle: usize, outU: usize, outV: usize,
): void {
  const total = readF64(areas, triangles - 1)
  for (let i = start; i < end; i++) {
    philox(readI32(ids, i), stream, 0, 0, seed, 0)
    const target = toUnit(word0) * total
    let low = 0
    let high = triangles - 1
    while (low < high) {
      const middle = (low + high) >> 1
      if (readF64(areas, middle) < target) low = middle + 1
      else high = middle
    }
    const root = squareRoot(toUnit(word1))
    const second = toUnit(word2)
    writeI32(outTriangle, i, low)
    writeF32(outU, i, root * (1.0 - second))
    writeF32(outV, i, root * second)
  }
}
