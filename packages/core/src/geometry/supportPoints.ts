import { onSphere } from '../math/gradients.ts'
import { vectorOf, type Vector } from '../math/vector.ts'

/** Directions of which each gives the farthest point; the six of the axes come first. */
const DIRECTIONS: Vector[] = [
  [1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1],
  // even over the sphere by the golden angle: Swinbank, Purser, "Fibonacci grids" (2006)
  ...Array.from({ length: 26 }, (_, k) => onSphere((k + 0.5) / 26, (k * 0.6180339887498949) % 1)),
] // prettier-ignore

/** So few points are taken as they are. */
const FEW = 26

/** The farthest points in each of some directions, without doubles; all where there are few. */
export function supportPoints(positions: Float32Array | Float64Array): Vector[] {
  const count = positions.length / 3
  const all = new Map<string, Vector>()
  for (let v = 0; v < count && all.size <= FEW; v++) {
    const point = vectorOf(positions, v)
    all.set(point.join(), point)
  }
  if (all.size <= FEW) return [...all.values()]
  const chosen = new Set<number>()
  for (const [x, y, z] of DIRECTIONS) {
    let [best, most] = [0, -Infinity]
    for (let v = 0; v < count; v++) {
      const along = x * positions[v * 3]! + y * positions[v * 3 + 1]! + z * positions[v * 3 + 2]!
      if (along > most) [best, most] = [v, along]
    }
    chosen.add(best)
  }
  return [...chosen].map((v) => vectorOf(positions, v))
}
