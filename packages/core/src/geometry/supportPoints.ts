import { onSphere } from '../math/gradients.ts'
import { dot, vectorOf, type Vector } from '../math/vector.ts'

/** Directions of which each gives the farthest point; the six of the axes come first. */
const DIRECTIONS: Vector[] = [
  [1, 0, 0], [-1, 0, 0], [0, 1, 0], [0, -1, 0], [0, 0, 1], [0, 0, -1],
  // even over the sphere by the golden angle: Swinbank, Purser, "Fibonacci grids" (2006)
  ...Array.from({ length: 26 }, (_, k) => onSphere((k + 0.5) / 26, (k * 0.6180339887498949) % 1)),
] // prettier-ignore

/** So few points are taken as they are. */
const FEW = 26

/** The farthest points in each of some directions, without doubles; all where there are few. */
export function supportPoints(positions: Float32Array): Vector[] {
  const all = new Map(
    Array.from({ length: positions.length / 3 }, (_, v) => vectorOf(positions, v)).map((p) => [p.join(), p]),
  )
  if (all.size <= FEW) return [...all.values()]
  const chosen = new Set<number>()
  for (const direction of DIRECTIONS) {
    let [best, most] = [0, -Infinity]
    for (let v = 0; v < positions.length / 3; v++) {
      const along = dot(direction, vectorOf(positions, v))
      if (along > most) [best, most] = [v, along]
    }
    chosen.add(best)
  }
  return [...chosen].map((v) => vectorOf(positions, v))
}
