/** Points inside a body whose surface does not keep its shape: they go along with the part of it that is nearest, and stay inside. */
import type { Machine } from '@tangle/kernels'
import { closestPoints, windingNumbers } from '../geometry/tree.ts'
import { weightsIn } from '../geometry/weights.ts'
import {
  add,
  cross,
  dot,
  inverse,
  length,
  scale,
  subtract,
  transform,
  unit,
  vectorOf,
  writeVector,
  type Vector,
} from '../math/vector.ts'
import type { Body } from '../scene/body.ts'
import type { Points } from '../scene/points.ts'

/** How often somebody who would be outside is brought nearer to the surface, each time to a quarter of the distance. */
const ATTEMPTS = 6

/**
 * Points that lie inside the body at rest, as they lie in it at a frame: in its own space as before, or below its triangles where it moves in its file. Each keeps its way from the closest point of the surface;
 * where that leads out, for the surface has turned, it is turned along; where that does, too, for the body is thinner there, it is shortened.
 */
export function insideDeformed(machine: Machine, body: Body, frame: number, points: Points): Points {
  if (!points.inside || !body.deforms) return points
  const rest = points.positions!
  const { mesh } = body
  const map = body.placeAt(frame)
  const near = closestPoints(machine, body.restTree(), rest)
  const world = body.worldView(frame)
  const bound: Bound[] = []
  for (let k = 0; k < rest.length / 3; k++) {
    const corners = [0, 1, 2].map((c) => mesh.triangles[near.triangles[k]! * 3 + c]!)
    const before = corners.map((v) => transform(map, vectorOf(mesh.positions, v))) as Triangle
    const now = corners.map((v) => vectorOf(world, v)) as Triangle
    const from = transform(map, vectorOf(near.points, k))
    const way = subtract(transform(map, vectorOf(rest, k)), from)
    const [u, v] = weightsIn(before, from)
    const foot = add(scale(now[0], 1 - u - v), add(scale(now[1], u), scale(now[2], v)))
    const far = dot(way, normalOf(before)) < 0 ? -length(way) : length(way)
    bound.push({ now, foot, way, inward: scale(normalOf(now), far) })
  }
  const places = new Float32Array(rest.length)
  let waiting = bound.map((_, k) => k)
  for (let attempt = 0; attempt <= ATTEMPTS && waiting.length > 0; attempt++) {
    const tried = new Float32Array(waiting.length * 3)
    waiting.forEach((k, n) => {
      const { foot, way, inward } = bound[k]!
      const place = add(foot, attempt === 0 ? way : scale(inward, 0.25 ** (attempt - 1)))
      writeVector(tried, n, place)
      writeVector(places, k, place)
    })
    // a mirrored place turns it inside out
    const windings = windingNumbers(machine, body.treeAt(frame).tree, tried)
    waiting = waiting.filter((_, n) => Math.abs(windings[n]!) < 0.5)
  }
  if (mesh.motion) return onTriangles(near.triangles, bound, places)
  const back = inverse(map)
  const positions = new Float32Array(rest.length)
  for (let k = 0; k < bound.length; k++) writeVector(positions, k, transform(back, vectorOf(places, k)))
  return { ...points, positions }
}

type Triangle = [Vector, Vector, Vector]
/** How a place hangs on the surface: its triangle as that is now, the point of it, the way from that, and as far along the normal. */
interface Bound {
  now: Triangle
  foot: Vector
  way: Vector
  inward: Vector
}

/** Below their triangles, with which they go on: what moves in its file takes its inside along. */
function onTriangles(triangles: Uint32Array, bound: Bound[], places: Float32Array): Points {
  const weights = new Float32Array(bound.length * 2)
  const heights = new Float64Array(bound.length)
  bound.forEach(({ now }, k) => {
    const place = vectorOf(places, k)
    weights.set(weightsIn(now, place), k * 2)
    heights[k] = dot(subtract(place, now[0]), normalOf(now))
  })
  return { triangles, weights, heights }
}

const normalOf = ([a, b, c]: Triangle): Vector => unit(cross(subtract(b, a), subtract(c, a)))
