/**
 * Normals for drawing: what the mesh was drawn with before it was split or cut. Within a triangle of the mesh as it
 * came they run evenly from corner to corner, wherever splitting put vertices; edges that are creases stay so.
 */
import { arctangent } from '../math/functions.ts'
import { areaVector, perMesh, type Mesh } from './mesh.ts'

/** Faces that meet at more than 0.6 rad do not share normals: its cosine. */
const CREASE = 0.825336
/** Normals nearer than this are one. */
const SAME = 1e-3

/** Unit normals of each corner of each triangle: the mean of the faces around it up to a crease. */
export const creasedNormals = perMesh((mesh): Float32Array => {
  const { positions, triangles } = mesh
  const count = triangles.length / 3
  const faces = new Float32Array(count * 3)
  for (let t = 0; t < count; t++) {
    const n = areaVector(mesh, t)
    const l = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2)
    faces.set(l > 0 ? [n[0] / l, n[1] / l, n[2] / l] : [0, 1, 0], t * 3)
  }
  const angles = cornerAngles(mesh)
  const { starts, corners } = cornersAround(positions.length / 3, triangles)
  const out = new Float32Array(triangles.length * 3)
  for (let corner = 0; corner < triangles.length; corner++) {
    const own = Math.floor(corner / 3) * 3
    const vertex = triangles[corner]!
    let [x, y, z] = [0, 0, 0]
    for (let k = starts[vertex]!; k < starts[vertex + 1]!; k++) {
      const face = Math.floor(corners[k]! / 3) * 3
      const dot =
        faces[own]! * faces[face]! + faces[own + 1]! * faces[face + 1]! + faces[own + 2]! * faces[face + 2]!
      if (dot < CREASE) continue
      // by the angle there: Thürmer, Wüthrich, "Computing vertex normals from polygonal facets" (1998)
      const w = angles[corners[k]!]!
      x += w * faces[face]!
      y += w * faces[face + 1]!
      z += w * faces[face + 2]!
    }
    setUnit(out, corner * 3, x, y, z)
  }
  return out
})

/** Radians at each corner of each triangle. */
function cornerAngles({ positions: p, triangles }: Mesh): Float32Array {
  return Float32Array.from(triangles, (_, corner) => {
    const first = corner - (corner % 3)
    const [a, b, c] = [0, 1, 2].map((k) => triangles[first + ((corner + k) % 3)]! * 3) as [
      number,
      number,
      number,
    ]
    const [u, v] = [b, c].map((q) => [0, 1, 2].map((i) => p[q + i]! - p[a + i]!)) as [number[], number[]]
    const across = Math.sqrt(cross(u, v).reduce((sum, x) => sum + x * x, 0))
    const along = u[0]! * v[0]! + u[1]! * v[1]! + u[2]! * v[2]!
    if (along === 0) return across === 0 ? 0 : Math.PI / 2
    const angle = arctangent(across / Math.abs(along))
    return along > 0 ? angle : Math.PI - angle
  })
}

/** The corners of triangles at each vertex: those of vertex v from `starts[v]` to `starts[v + 1]`. */
function cornersAround(vertices: number, triangles: Uint32Array) {
  const starts = new Uint32Array(vertices + 1)
  for (const v of triangles) starts[v + 1]!++
  for (let v = 0; v < vertices; v++) starts[v + 1] = starts[v + 1]! + starts[v]!
  const next = starts.slice()
  const corners = new Uint32Array(triangles.length)
  triangles.forEach((v, corner) => (corners[next[v]!++] = corner))
  return { starts, corners }
}

function setUnit(out: Float32Array, at: number, x: number, y: number, z: number): void {
  const l = Math.sqrt(x * x + y * y + z * z)
  if (l > 0) out.set([x / l, y / l, z / l], at)
  else out.set([0, 1, 0], at)
}

/** Triangles that lie in those of a mesh: their vertices' places on it at rest, and the triangle each lies in. */
export interface Lying {
  rest: Float32Array
  triangles: Uint32Array
  sources: Uint32Array
}

/** Unit normals of each corner of triangles that lie in those of `mesh`, at rest, by the normals of its corners. */
export function normalsWithin(
  mesh: Mesh,
  normals: Float32Array,
  { rest, triangles, sources }: Lying,
): Float32Array {
  const out = new Float32Array(triangles.length * 3)
  for (let corner = 0; corner < triangles.length; corner++) {
    const source = sources[Math.floor(corner / 3)]!
    // what lies in no triangle of it is flat, as where it broke
    if (source * 3 >= mesh.triangles.length) {
      const n = areaVector({ positions: rest, triangles }, Math.floor(corner / 3))
      setUnit(out, corner * 3, ...n)
      continue
    }
    const at = source * 3 + (corner % 3)
    // what is whole is copied
    if (isCorner(mesh, mesh.triangles[at]!, rest, triangles[corner]!)) {
      out.set(normals.subarray(at * 3, at * 3 + 3), corner * 3)
      continue
    }
    const weights = weightsAt(mesh, source, rest, triangles[corner]! * 3)
    const n = [0, 1, 2].map((axis) =>
      weights.reduce((sum, w, k) => sum + w * normals[source * 9 + k * 3 + axis]!, 0),
    ) as [number, number, number]
    setUnit(out, corner * 3, ...n)
  }
  return out
}

/** Whether a point is a vertex of the mesh, to the bit. */
const isCorner = ({ positions }: Mesh, vertex: number, points: Float32Array, point: number): boolean =>
  positions[vertex * 3] === points[point * 3] &&
  positions[vertex * 3 + 1] === points[point * 3 + 1] &&
  positions[vertex * 3 + 2] === points[point * 3 + 2]

/** Unit normals of each corner of a mesh, as it was before it was split. */
export const shadingNormals = perMesh((mesh): Float32Array => {
  const { positions, triangles, splitFrom } = mesh
  if (!splitFrom) return creasedNormals(mesh)
  const lying = { rest: positions, triangles, sources: splitFrom.triangles }
  return normalsWithin(splitFrom.mesh, creasedNormals(splitFrom.mesh), lying)
})

/** Barycentric weights of a point in the plane of a triangle, by areas. */
function weightsAt(mesh: Mesh, triangle: number, points: Float32Array, at: number): [number, number, number] {
  const { positions: p, triangles } = mesh
  const [a, b, c] = [0, 1, 2].map((k) => triangles[triangle * 3 + k]! * 3) as [number, number, number]
  const n = areaVector(mesh, triangle)
  const whole = n[0] ** 2 + n[1] ** 2 + n[2] ** 2
  if (whole === 0) return [1, 0, 0]
  /** Twice the signed area that the point has with an edge, along the normal. */
  const against = (from: number, to: number): number => {
    const [ux, uy, uz] = [0, 1, 2].map((i) => p[from + i]! - points[at + i]!) as [number, number, number]
    const [vx, vy, vz] = [0, 1, 2].map((i) => p[to + i]! - points[at + i]!) as [number, number, number]
    return (uy * vz - uz * vy) * n[0] + (uz * vx - ux * vz) * n[1] + (ux * vy - uy * vx) * n[2]
  }
  return [against(b, c) / whole, against(c, a) / whole, against(a, b) / whole]
}

/**
 * Turns normals of corners as the surface below them has turned: by the least turn from what its vertices faced to
 * what they face now.
 */
export function turnedWith(
  normals: Float32Array,
  triangles: Uint32Array,
  faced: Float32Array,
  facing: Float32Array,
): Float32Array {
  const out = new Float32Array(normals.length)
  triangles.forEach((vertex, corner) => {
    const [a, b, c] = [faced, facing, normals].map((all, k) => {
      const at = (k === 2 ? corner : vertex) * 3
      return [all[at]!, all[at + 1]!, all[at + 2]!]
    }) as [number[], number[], number[]]
    const cosine = a[0]! * b[0]! + a[1]! * b[1]! + a[2]! * b[2]!
    if (cosine > 1 - 1e-7 || cosine < -0.999) return out.set(c, corner * 3)
    const axis = cross(a, b)
    const along = (axis[0]! * c[0]! + axis[1]! * c[1]! + axis[2]! * c[2]!) / (1 + cosine)
    const across = cross(axis, c)
    setUnit(
      out,
      corner * 3,
      c[0]! * cosine + across[0]! + axis[0]! * along,
      c[1]! * cosine + across[1]! + axis[1]! * along,
      c[2]! * cosine + across[2]! + axis[2]! * along,
    )
  })
  return out
}

const cross = (a: number[], b: number[]): number[] => [
  a[1]! * b[2]! - a[2]! * b[1]!,
  a[2]! * b[0]! - a[0]! * b[2]!,
  a[0]! * b[1]! - a[1]! * b[0]!,
]

/** A mesh whose vertices have one normal each: those on creases are there once for each side. */
export interface ShadedTriangles {
  positions: Float32Array
  triangles: Uint32Array
  normals: Float32Array
  /** The vertex that each was before. */
  vertices: Uint32Array
}

/** Gives vertices the normals of their corners, split where these differ. */
export function splitAtCreases(
  positions: Float32Array,
  triangles: Uint32Array,
  cornerNormals: Float32Array,
): ShadedTriangles {
  const vertices: number[] = []
  const normals: number[] = []
  const first = new Int32Array(positions.length / 3).fill(-1)
  /** The next of the vertices that were one. */
  const next: number[] = []
  const out = new Uint32Array(triangles.length)
  triangles.forEach((vertex, corner) => {
    const n = cornerNormals.subarray(corner * 3, corner * 3 + 3)
    let found = first[vertex]!
    while (found >= 0 && [0, 1, 2].some((k) => Math.abs(normals[found * 3 + k]! - n[k]!) > SAME))
      found = next[found]!
    if (found < 0) {
      found = vertices.length
      vertices.push(vertex)
      normals.push(n[0]!, n[1]!, n[2]!)
      next.push(first[vertex]!)
      first[vertex] = found
    }
    out[corner] = found
  })
  const places = new Float32Array(vertices.length * 3)
  vertices.forEach((v, k) => places.set(positions.subarray(v * 3, v * 3 + 3), k * 3))
  return {
    positions: places,
    triangles: out,
    normals: new Float32Array(normals),
    vertices: new Uint32Array(vertices),
  }
}
