/**
 * *Pieces*: a mesh that has been broken is one mesh whose triangles lie piece by piece, each piece closed. What a piece weighs and
 * how it resists turning follows from its triangles.
 */
import { perMesh, type Mesh } from './mesh.ts'
import { principalAxes, type Quaternion } from '../math/quaternion.ts'
import { shadingNormals } from './shading.ts'
import { cross, dot, subtract, unit, vectorOf, type Vector } from '../math/vector.ts'

/** How the triangles of a mesh fall into pieces. */
export interface Pieces {
  /** First triangle of each piece, and one more. */
  starts: Uint32Array
  /** Per triangle: 1 on the faces along which it broke. */
  inner: Uint8Array
  /** Where the cells of pieces were sown, 3 × f32. */
  seeds: Float32Array
  /** The convex hulls that stand for each where it touches: the first of each piece, and one more; the first point of each, and one more; points (3 × f32). */
  hulls: { firsts: Uint32Array; starts: Uint32Array; points: Float32Array }
  bonds: SharedFaces
}

/** The faces that pieces share, in the mesh's own space. */
export interface SharedFaces {
  /** Two pieces each, the lower one first. */
  pairs: Uint32Array
  /** m² in world size. */
  areas: Float32Array
  /** Middle, and unit normal from the lower to the higher piece; 3 × f32. */
  centres: Float32Array
  normals: Float32Array
  /** The axis in its plane about which it bends most easily: along its length; 3 × f32. */
  axes: Float32Array
  /** Second moment of the area about that axis and about the one across it, m⁴, and how far it reaches from each, m. */
  moments: Float32Array
}

export const pieceCount = ({ pieces }: Pick<Mesh, 'pieces'>): number =>
  pieces ? pieces.starts.length - 1 : 0

/** Of each shared face, which it is among those of its lower piece: its bit in the attribute `bonds`. */
export const bondBits = perMesh(({ pieces }: Mesh) => {
  const { pairs } = pieces!.bonds
  const next = new Map<number, number>()
  return Uint16Array.from({ length: pairs.length / 2 }, (_, k) => {
    const bit = next.get(pairs[k * 2]!) ?? 0
    next.set(pairs[k * 2]!, bit + 1)
    return bit
  })
})
/** As many bonds of a piece are told one by one. */
export const MOST_BITS = 32

/** What a closed piece of density 1 is to motion. */
export interface MassProperties {
  /** m³ */
  volume: number
  centre: Vector
  /** Moments of inertia about the principal axes through the centre, per density: m⁵. */
  inertia: Vector
  /** Turns the principal axes into the mesh's. */
  axes: Quaternion
  /** Farthest vertex from the centre, m. */
  reach: number
  /** Area of its surface, m². */
  area: number
}

/** Of each piece, in world size: the mesh times `size` along its axes. */
export function massProperties(mesh: Mesh, size: Vector): MassProperties[] {
  const known = massesOf(mesh)
  const key = size.join()
  const found =
    known.get(key) ??
    Array.from({ length: pieceCount(mesh) }, (_, k) =>
      massOfTriangles(mesh, size, mesh.pieces!.starts[k]!, mesh.pieces!.starts[k + 1]!),
    )
  known.set(key, found)
  return found
}
const massesOf = perMesh(() => new Map<string, MassProperties[]>())

/**
 * Of some triangles of a mesh, from one up to another, that are closed: integrals over the tetrahedra that they make with one of their corners.
 * Source: Tonon, "Explicit exact formulas for the 3-D tetrahedron inertia tensor in terms of its vertex coordinates" (2004).
 */
export function massOfTriangles(
  { positions, triangles }: Mesh,
  size: Vector,
  from: number,
  to: number,
): MassProperties {
  const sign = size[0] * size[1] * size[2] < 0 ? -1 : 1
  const corner = (k: number): Vector => {
    const p = vectorOf(positions, triangles[k]!)
    return [p[0] * size[0], p[1] * size[1], p[2] * size[2]]
  }
  const origin = from < to ? corner(from * 3) : ([0, 0, 0] as Vector)
  let volume = 0
  let area = 0
  const first = [0, 0, 0]
  // ∫ x_i x_j, in the order xx yy zz xy yz zx
  const second = [0, 0, 0, 0, 0, 0]
  for (let t = from; t < to; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => subtract(corner(t * 3 + k), origin)) as [Vector, Vector, Vector]
    const n = cross(subtract(b, a), subtract(c, a))
    area += Math.sqrt(dot(n, n)) / 2
    const det = sign * dot(a, cross(b, c))
    volume += det / 6
    const sum = [a[0] + b[0] + c[0], a[1] + b[1] + c[1], a[2] + b[2] + c[2]]
    for (let i = 0; i < 3; i++) first[i] = first[i]! + (det / 24) * sum[i]!
    PAIRS.forEach(([i, j], k) => {
      second[k] =
        second[k]! + (det / 120) * (a[i]! * a[j]! + b[i]! * b[j]! + c[i]! * c[j]! + sum[i]! * sum[j]!)
    })
  }
  const mean = first.map((x) => (volume > 0 ? x / volume : 0)) as Vector
  const about = PAIRS.map(([i, j], k) => second[k]! - volume * mean[i]! * mean[j]!) as number[]
  const [xx, yy, zz, xy, yz, zx] = about as [number, number, number, number, number, number]
  const { values, axes } = principalAxes([yy + zz, xx + zz, xx + yy, -xy, -yz, -zx])
  const centre: Vector = [origin[0] + mean[0], origin[1] + mean[1], origin[2] + mean[2]]
  let reach = 0
  for (let k = from * 3; k < to * 3; k++) {
    const d = subtract(corner(k), centre)
    reach = Math.max(reach, dot(d, d))
  }
  return { volume, centre, inertia: values, axes, reach: Math.sqrt(reach), area }
}
const PAIRS = [[0, 0], [1, 1], [2, 2], [0, 1], [1, 2], [2, 0]] as const // prettier-ignore

/** The triangles of a piece for drawing: corners about its centre in world size, and their normals, 9 numbers a triangle. */
export function pieceTriangles(mesh: Mesh, size: Vector, piece: number) {
  const [from, to] = [mesh.pieces!.starts[piece]! * 3, mesh.pieces!.starts[piece + 1]! * 3]
  const { centre } = massProperties(mesh, size)[piece]!
  const normals = shadingNormals(mesh)
  const out = { positions: new Float32Array((to - from) * 3), normals: new Float32Array((to - from) * 3) }
  const mirrored = size[0] * size[1] * size[2] < 0
  for (let c = from; c < to; c++) {
    const k = (c - from) * 3
    const corner = mirrored && c % 3 > 0 ? c + (c % 3 === 1 ? 1 : -1) : c
    const n = [0, 1, 2].map((axis) => normals[corner * 3 + axis]! / (size[axis]! || 1)) as Vector
    out.normals.set(unit(n), k)
    for (let axis = 0; axis < 3; axis++)
      out.positions[k + axis] =
        mesh.positions[mesh.triangles[corner]! * 3 + axis]! * size[axis]! - centre[axis]!
  }
  return { ...out, inner: mesh.pieces!.inner.subarray(from / 3, to / 3) }
}

/** One piece as a mesh about its centre, in world size. */
export function pieceMesh(mesh: Mesh, size: Vector, piece: number): Mesh {
  const { positions, triangles, pieces, uvs, splitFrom } = mesh
  const [from, to] = [pieces!.starts[piece]!, pieces!.starts[piece + 1]!]
  const { centre } = massProperties(mesh, size)[piece]!
  const numbers = new Map<number, number>()
  const own = triangles.slice(from * 3, to * 3).map((v) => {
    if (!numbers.has(v)) numbers.set(v, numbers.size)
    return numbers.get(v)!
  })
  const points = new Float32Array(numbers.size * 3)
  for (const [v, k] of numbers)
    for (let axis = 0; axis < 3; axis++)
      points[k * 3 + axis] = positions[v * 3 + axis]! * size[axis]! - centre[axis]!
  if (size[0] * size[1] * size[2] < 0)
    for (let c = 0; c < own.length; c += 3) [own[c + 1], own[c + 2]] = [own[c + 2]!, own[c + 1]!]
  return {
    positions: points,
    triangles: own,
    ...(uvs ? { uvs: uvs.slice(from * 6, to * 6) } : {}),
    ...(splitFrom
      ? { splitFrom: { mesh: splitFrom.mesh, triangles: splitFrom.triangles.slice(from, to) } }
      : {}),
  }
}
