import { smooth } from '../math/functions.ts'
import type { Vector } from '../math/vector.ts'
import { vertexNormals, type Mesh } from './mesh.ts'

/** Vertices that look away from where the brush is are left alone: thin walls are brushed on one side. */
const FACING = -0.2

/**
 * Calls `visit` for every vertex under a round brush at each of its places, with the number of the place and how much the
 * brush reaches the vertex: 1 − 3t² + 2t³ with t = distance / radius. All in the frame and the unit of the mesh.
 */
export function forEachUnderBrush(
  mesh: Mesh,
  places: Vector[],
  radius: number,
  visit: (vertex: number, reach: number, place: number) => void,
): void {
  const { positions: p } = mesh
  const normals = vertexNormals(mesh)
  const count = p.length / 3
  places.forEach(([x, y, z], place) => {
    let nearest = -1
    let best = radius * radius
    const squaredTo = (v: number): number =>
      (p[v * 3]! - x) ** 2 + (p[v * 3 + 1]! - y) ** 2 + (p[v * 3 + 2]! - z) ** 2
    for (let v = 0; v < count; v++) {
      const squared = squaredTo(v)
      if (squared < best) {
        best = squared
        nearest = v
      }
    }
    if (nearest < 0) return
    const n = normals.subarray(nearest * 3, nearest * 3 + 3)
    for (let v = 0; v < count; v++) {
      const squared = squaredTo(v)
      if (squared >= radius * radius) continue
      const facing = n[0]! * normals[v * 3]! + n[1]! * normals[v * 3 + 1]! + n[2]! * normals[v * 3 + 2]!
      if (facing >= FACING) visit(v, 1 - smooth(Math.sqrt(squared) / radius), place)
    }
  })
}
