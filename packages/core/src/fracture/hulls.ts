/** Convex hulls that stand for pieces where they touch: few points each, spread over all directions. */
import { convexParts } from '../geometry/convexParts.ts'
import type { Pieces } from '../geometry/pieces.ts'
import type { Part } from './fracture.ts'

/** Where there are so many pieces, hollows so deep are filled (as a share of their size): contacts cost more than they show. */
const MANY = 200
const SHALLOW = 0.25

/** One hull of each part that is nearly convex, several of what is hollow or bent. */
export function hullsOf(parts: Pick<Part, 'positions' | 'triangles'>[]): Pieces['hulls'] {
  const all = parts.map((part) => convexParts(part, parts.length > MANY ? SHALLOW : undefined))
  return {
    firsts: startsOf(all.map((hulls) => hulls.length)),
    starts: startsOf(all.flat().map((points) => points.length)),
    points: Float32Array.from(all.flat(3)),
  }
}

/** Where each begins of those that lie one after another, and where the last ends. */
function startsOf(lengths: number[]): Uint32Array {
  const starts = new Uint32Array(lengths.length + 1)
  lengths.forEach((length, k) => (starts[k + 1] = starts[k]! + length))
  return starts
}
