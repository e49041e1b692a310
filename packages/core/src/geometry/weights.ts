/** Places on triangles, given by the weights of their second and third corner. */
import type { Machine } from '@tangle/kernels'
import { cross, dot, subtract, type Vector } from '../math/vector.ts'
import type { Mesh } from './mesh.ts'

/** Places on triangles by the weights of their second and third corner, x, y, z each. */
export function anchored(
  { positions: p, triangles }: Mesh,
  of: Uint32Array,
  weights: Float32Array,
): Float32Array {
  const out = new Float32Array(of.length * 3)
  for (let i = 0; i < of.length; i++) {
    const [a, b, c] = [0, 1, 2].map((k) => triangles[of[i]! * 3 + k]! * 3) as [number, number, number]
    for (let axis = 0; axis < 3; axis++) {
      const origin = p[a + axis]!
      out[i * 3 + axis] =
        origin + (p[b + axis]! - origin) * weights[i * 2]! + (p[c + axis]! - origin) * weights[i * 2 + 1]!
    }
  }
  return out
}

/** Weights of the second and third corner for points (x, y, z each) on triangles. */
export function weightsAt(machine: Machine, mesh: Mesh, of: Uint32Array, points: Float32Array): Float32Array {
  const { heap } = machine
  const put = (values: Float32Array | Uint32Array): number => {
    const pointer = heap.allocate(values.byteLength)
    heap.u32(pointer, values.length).set(new Uint32Array(values.buffer, values.byteOffset, values.length))
    return pointer
  }
  const [triangle, point, positions, triangles] = [of, points, mesh.positions, mesh.triangles].map(put) as [number, number, number, number] // prettier-ignore
  const out = heap.allocate(of.length * 8)
  machine.run('weightsOnTriangles', of.length, { triangle, point, positions, triangles, out })
  const weights = heap.f32(out, of.length * 2).slice()
  for (const pointer of [triangle, point, positions, triangles, out]) heap.free(pointer)
  return weights
}

/** Weights of the second and third corner of a triangle at a point of its plane. */
export function weightsIn([a, b, c]: [Vector, Vector, Vector], point: Vector): [number, number] {
  const [u, v, p] = [subtract(b, a), subtract(c, a), subtract(point, a)]
  const normal = cross(u, v)
  const squared = dot(normal, normal)
  if (!(squared > 0)) return [0, 0]
  return [dot(cross(p, v), normal) / squared, dot(cross(u, p), normal) / squared]
}
