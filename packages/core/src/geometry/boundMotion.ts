/** What is made of a mesh that moves in its file moves with it: each vertex goes with the nearest triangle. */
import type { Machine } from '@tangle/kernels'
import { cross, dot, length, scale, subtract, vectorOf, type Vector } from '../math/vector.ts'
import type { Mesh, MeshMotion } from './mesh.ts'
import { buildTree, closestPoints, freeTree } from './tree.ts'

/** The motion of vertices (3 × f32 where the mesh rests, in its own space) that are bound to a mesh; undefined where that keeps still. */
export function boundMotion(machine: Machine, positions: Float32Array, to: Mesh): MeshMotion | undefined {
  if (!to.motion) return undefined
  const tree = buildTree(machine, to)
  const { triangles } = closestPoints(machine, tree, positions)
  freeTree(machine.heap, tree)
  const places = new Float32Array(positions.length)
  triangles.forEach((t, v) => {
    const [a, b, c] = [0, 1, 2].map((k) => vectorOf(to.positions, to.triangles[t * 3 + k]!)) as [Vector, Vector, Vector] // prettier-ignore
    places.set(placeIn(a, subtract(b, a), subtract(c, a), vectorOf(positions, v)), v * 3)
  })
  const { rate, count } = to.motion
  return { rate, count, by: { to, triangles, coordinates: places }, middles: new Uint32Array(0) }
}

/** u, v and height of a point: a + u·(b − a) + v·(c − a) + height along the normal. */
function placeIn(a: Vector, ab: Vector, ac: Vector, p: Vector): Vector {
  const normal = cross(ab, ac)
  const size = length(normal)
  const way = subtract(p, a)
  if (size === 0) return [0, 0, 0]
  const height = dot(way, normal) / size
  const flat = subtract(way, scale(normal, height / size))
  const squared = size * size
  return [dot(cross(flat, ac), normal) / squared, dot(cross(ab, flat), normal) / squared, height]
}
