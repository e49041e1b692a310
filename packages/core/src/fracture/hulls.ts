/** Convex hulls that stand for pieces where they touch: few points each, spread over all directions. */
import type { Pieces } from '../geometry/pieces.ts'
import { supportPoints } from '../geometry/supportPoints.ts'
import type { Part } from './fracture.ts'

/** One hull of each part. */
export function hullsOf(parts: Pick<Part, 'positions'>[]): Pieces['hulls'] {
  const hulls = parts.map(({ positions }) => supportPoints(positions))
  const starts = new Uint32Array(hulls.length + 1)
  hulls.forEach((hull, k) => (starts[k + 1] = starts[k]! + hull.length))
  return {
    starts,
    points: Float32Array.from(hulls.flat(2)),
  }
}
