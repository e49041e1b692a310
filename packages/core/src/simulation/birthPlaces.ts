/** Where the points of a birth are in the world, and which way is off the surface there. */
import {
  between,
  cross,
  dot,
  add,
  scale,
  transform,
  unit,
  vectorOf,
  writeVector,
  type Affine,
  type Vector,
} from '../math/vector.ts'
import { areaVector, cornersOf } from '../geometry/mesh.ts'
import type { Body } from '../scene/body.ts'
import { RIGID, type Points } from '../scene/points.ts'
import type { Emission } from './world.ts'

/** Where points of a body are in the world at a frame; to f64 where only its place moves. */
export function worldPoints(
  { body, view }: Pick<Emission, 'body' | 'view'>,
  frame: number,
  { triangles, weights, positions, about, heights }: Points,
): Float64Array {
  const out = new Float64Array(triangles.length * 3)
  const map = body.placeAt(frame)
  if (about) {
    const { low, high } = body.facts
    const centre = about === 'camera' ? view : transform(map, scale(add(low, high), 0.5))
    for (let i = 0; i < out.length; i++) out[i] = centre[i % 3]! + positions![i]!
    return out
  }
  const p = body.deforms ? body.worldView(frame) : body.mesh.positions
  const corners = cornersOf(body.mesh)
  for (let k = 0; k < triangles.length; k++) {
    const t = triangles[k]!
    if (t === RIGID) {
      out.set(transform(map, vectorOf(positions!, k)), k * 3)
      continue
    }
    const [a, b, c] = [corners[t * 3]! * 3, corners[t * 3 + 1]! * 3, corners[t * 3 + 2]! * 3]
    const [u, v] = [weights[k * 2]!, weights[k * 2 + 1]!]
    for (let axis = 0; axis < 3; axis++) {
      const origin = p[a + axis]!
      out[k * 3 + axis] = origin + (p[b + axis]! - origin) * u + (p[c + axis]! - origin) * v
    }
    if (heights) writeVector(out, k, add(vectorOf(out, k), scale(normalOf(body, p, t), heights[k]!)))
    if (!body.deforms) out.set(transform(map, vectorOf(out, k)), k * 3)
  }
  return out
}

/** Where points of a body are at moments of a stretch of frames, 0–1 each. */
export function placesBetween(
  body: Body,
  from: number,
  to: number,
  points: Points,
  moment: (k: number) => number,
): Float64Array {
  const on = { body, view: [0, 0, 0] as Vector }
  const [start, end] = [worldPoints(on, from, points), worldPoints(on, to, points)]
  return start.map((x, k) => x + (end[k]! - x) * moment(Math.floor(k / 3)))
}

/** Unit normals in the world: the points' own, turned with the place, or those of their triangles. */
export function worldNormals(
  body: Body,
  from: number,
  to: number,
  times: Float64Array,
  points: Points,
): Float64Array {
  const out = new Float64Array(times.length * 3)
  const own = points.normals?.()
  if (own) {
    const [start, end] = [body.placeAt(from), body.placeAt(to)]
    const still = !start.some((value, i) => value !== end[i])
    const fixed = normalMap(start)
    for (let k = 0; k < times.length; k++) {
      const rows = still ? fixed : normalMap(between(start, end, times[k]!))
      const n = vectorOf(own, k)
      out.set(unit([dot(rows[0], n), dot(rows[1], n), dot(rows[2], n)]), k * 3)
    }
    return out
  }
  // the triangle as it is at the start of the substep; turned inside out where the place mirrors
  const world = body.worldView(from)
  const outward = dotOfPlace(body.placeAt(from)) < 0 === (points.flipped ?? false) ? 1 : -1
  for (let k = 0; k < times.length; k++) {
    out.set(scale(normalOf(body, world, points.triangles[k]!), outward), k * 3)
  }
  return out
}

/** Unit normal of a triangle where the vertices of its body are now. */
const normalOf = ({ mesh: { triangles } }: Body, positions: Float32Array, t: number): Vector =>
  unit(areaVector({ positions, triangles }, t))

const rowsOf = (m: Affine): [Vector, Vector, Vector] =>
  [0, 4, 8].map((o) => [m[o]!, m[o + 1]!, m[o + 2]!]) as [Vector, Vector, Vector]
function dotOfPlace(m: Affine): number {
  const [a, b, c] = rowsOf(m)
  return dot(a, cross(b, c))
}

/** Rows of the map that takes normals into the world: cofactors, turned round for a mirrored place. */
function normalMap(m: Affine): [Vector, Vector, Vector] {
  const [a, b, c] = rowsOf(m)
  const sign = dotOfPlace(m) < 0 ? -1 : 1
  return [scale(cross(b, c), sign), scale(cross(c, a), sign), scale(cross(a, b), sign)]
}
