import { smooth } from '../math/functions.ts'
import type { Vector } from '../math/vector.ts'
import { vertexNormals, type Mesh } from './mesh.ts'

/** Vertices that look away from where the brush is are left alone: thin walls are brushed on one side. */
const FACING = -0.2

/** Numbers of the vertices in each cube of a grid, by its name. */
function cubesOf(p: Float32Array, edge: number): Map<string, number[]> {
  const cubes = new Map<string, number[]>()
  for (let v = 0; v < p.length / 3; v++) {
    const name = cubeAt(p[v * 3]!, p[v * 3 + 1]!, p[v * 3 + 2]!, edge).join()
    const cube = cubes.get(name)
    if (cube) cube.push(v)
    else cubes.set(name, [v])
  }
  return cubes
}
const cubeAt = (x: number, y: number, z: number, edge: number): [number, number, number] => [
  Math.floor(x / edge),
  Math.floor(y / edge),
  Math.floor(z / edge),
]
const BESIDE = [-1, 0, 1]

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
  const cubes = cubesOf(p, radius)
  places.forEach(([x, y, z], place) => {
    const [i, j, k] = cubeAt(x, y, z, radius)
    const around = BESIDE.flatMap((a) =>
      BESIDE.flatMap((b) => BESIDE.flatMap((c) => cubes.get(`${i + a},${j + b},${k + c}`) ?? [])),
    )
    const squaredTo = (v: number): number =>
      (p[v * 3]! - x) ** 2 + (p[v * 3 + 1]! - y) ** 2 + (p[v * 3 + 2]! - z) ** 2
    let nearest = -1
    let best = radius * radius
    for (const v of around) {
      const squared = squaredTo(v)
      if (squared > best || (squared === best && (nearest < 0 || v > nearest))) continue
      best = squared
      nearest = v
    }
    if (nearest < 0) return
    const n = normals.subarray(nearest * 3, nearest * 3 + 3)
    for (const v of around) {
      const squared = squaredTo(v)
      if (squared >= radius * radius) continue
      const facing = n[0]! * normals[v * 3]! + n[1]! * normals[v * 3 + 1]! + n[2]! * normals[v * 3 + 2]!
      if (facing >= FACING) visit(v, 1 - smooth(Math.sqrt(squared) / radius), place)
    }
  })
}
