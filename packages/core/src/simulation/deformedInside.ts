/** Points inside a body whose surface does not keep its shape: they go along with the part of it that is nearest, and stay inside. */
import type { Machine } from '@tangle/kernels'
import { weightsIn } from '../geometry/mesh.ts'
import { closestPoints, windingNumbers } from '../geometry/tree.ts'
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
 * Points that lie inside the body at rest, as they lie in it at a frame, in its own space as before. Each keeps its way from the closest point of the surface;
 * where that leads out, for the surface has turned, it is turned along; where that does, too, for the body is thinner there, it is shortened.
 */
export function insideDeformed(machine: Machine, body: Body, frame: number, points: Points): Points {
  if (!points.inside || !body.deforms) return points
  const rest = points.positions!
  const { mesh } = body
  const map = body.placeAt(frame)
  const world = body.worldView(frame)
  const near = closestPoints(machine, body.restTree(), rest)
  const feet: { at: Vector; ways: Vector[] }[] = []
  for (let k = 0; k < rest.length / 3; k++) {
    const corners = [0, 1, 2].map((c) => mesh.triangles[near.triangles[k]! * 3 + c]!)
    const [before, now] = [corners.map((v) => transform(map, vectorOf(mesh.positions, v))), corners.map((v) => vectorOf(world, v))] as [Triangle, Triangle] // prettier-ignore
    const foot = transform(map, vectorOf(near.points, k))
    const way = subtract(transform(map, vectorOf(rest, k)), foot)
    const [u, v] = weightsIn(before, foot)
    const at = add(scale(now[0], 1 - u - v), add(scale(now[1], u), scale(now[2], v)))
    const inward = scale(normalOf(now), dot(way, normalOf(before)) < 0 ? -length(way) : length(way))
    feet.push({ at, ways: [way, ...Array.from({ length: ATTEMPTS }, (_, n) => scale(inward, 0.25 ** n))] })
  }
  const places = new Float32Array(rest.length)
  let waiting = feet.map((_, k) => k)
  for (let attempt = 0; attempt <= ATTEMPTS && waiting.length > 0; attempt++) {
    const tried = new Float32Array(waiting.length * 3)
    waiting.forEach((k, n) => writeVector(tried, n, add(feet[k]!.at, feet[k]!.ways[attempt]!)))
    waiting.forEach((k, n) => places.set(tried.subarray(n * 3, n * 3 + 3), k * 3))
    // a mirrored place turns it inside out
    const windings = windingNumbers(machine, body.treeAt(frame).tree, tried)
    waiting = waiting.filter((_, n) => Math.abs(windings[n]!) < 0.5)
  }
  const back = inverse(map)
  const positions = new Float32Array(rest.length)
  for (let k = 0; k < feet.length; k++) writeVector(positions, k, transform(back, vectorOf(places, k)))
  return { ...points, positions }
}

type Triangle = [Vector, Vector, Vector]
const normalOf = ([a, b, c]: Triangle): Vector => unit(cross(subtract(b, a), subtract(c, a)))
