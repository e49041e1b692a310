import earcut from 'earcut'

/**
 * Triangles of a polygon, as places in its list of corners, wound the same way. Hollow corners are
 * handled (ear clipping, by the library earcut) in the plane that the polygon lies in most
 * (Newell's normal).
 */
export function triangulate(corners: number[], point: (corner: number, axis: number) => number): number[] {
  const count = corners.length
  if (count === 3) return [0, 1, 2]
  if (count === 4) {
    // through the corner that comes first in the file: a face that is there twice, once from behind, is cut the same way
    const first = corners.indexOf(Math.min(...corners)) % 2
    for (const from of [first, 1 - first]) {
      const quad = [0, 1, 2, 3].map((k) => (k + from) % 4)
      if (isConvex(quad.map((k) => corners[k]!), point)) return [0, 1, 2, 0, 2, 3].map((k) => quad[k]!) // prettier-ignore
    }
  }
  const normal = [0, 0, 0]
  for (let i = 0; i < count; i++) {
    const [a, b] = [corners[i]!, corners[(i + 1) % count]!]
    for (let axis = 0; axis < 3; axis++) {
      const [u, v] = [(axis + 1) % 3, (axis + 2) % 3]
      normal[axis]! += (point(a, u) - point(b, u)) * (point(a, v) + point(b, v))
    }
  }
  const size = normal.map(Math.abs)
  const drop = size.indexOf(Math.max(...size))
  const flat = corners.flatMap((c) => [point(c, (drop + 1) % 3), point(c, (drop + 2) % 3)])
  const ears = earcut(flat)
  // a polygon without area, or one that crosses itself badly, falls back to a fan
  if (ears.length !== (count - 2) * 3)
    return Array.from({ length: count - 2 }, (_, i) => [0, i + 1, i + 2]).flat()
  const sign = normal[drop]! >= 0 ? 1 : -1
  const [a, b, c] = ears as [number, number, number]
  const turn =
    (flat[b * 2]! - flat[a * 2]!) * (flat[c * 2 + 1]! - flat[a * 2 + 1]!) -
    (flat[b * 2 + 1]! - flat[a * 2 + 1]!) * (flat[c * 2]! - flat[a * 2]!)
  if (turn * sign < 0) ears.reverse()
  return ears
}

/** Whether the two triangles of a quad, cut from its first corner, face the same way. */
function isConvex(corners: number[], point: (corner: number, axis: number) => number): boolean {
  let facing = 0
  for (let axis = 0; axis < 3; axis++) {
    const [u, v] = [(axis + 1) % 3, (axis + 2) % 3]
    facing += cross(corners, point, 1, 2, u, v) * cross(corners, point, 2, 3, u, v)
  }
  return facing > 0
}

/** One component of (corner i − corner 0) × (corner j − corner 0). */
function cross(
  corners: number[],
  point: (corner: number, axis: number) => number,
  i: number,
  j: number,
  u: number,
  v: number,
): number {
  const at = (corner: number, axis: number): number =>
    point(corners[corner]!, axis) - point(corners[0]!, axis)
  return at(i, u) * at(j, v) - at(i, v) * at(j, u)
}
