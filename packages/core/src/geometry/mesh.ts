import { disjointSets } from '../math/disjointSets.ts'
import { secondsOf } from './meshMotion.ts'
import type { Pieces } from './pieces.ts'

/** A triangle mesh: shared vertices, counter-clockwise seen from outside. Without triangles it is a set of points. */
export interface Mesh {
  /** x, y, z per vertex, metres. */
  positions: Float32Array
  /** Three vertex numbers per triangle. */
  triangles: Uint32Array
  /** Texture coordinates, where the file has them: u, v of each corner of each triangle. */
  uvs?: Float32Array
  /** Which material of its file each triangle has, where that has some; see FileMaterial of the formats. */
  materials?: Uint16Array
  /** What vertices carry besides, by name: "colour" (linear RGB), or a property of the file. */
  data?: Record<string, VertexData>
  /** How the vertices move in the file; `positions` is where they are at its first sample. */
  motion?: MeshMotion
  /** Where triangles were split: the mesh they come from, and which of its triangles each lies in. */
  splitFrom?: { mesh: Mesh; triangles: Uint32Array }
  /** How many of its triangles looked inward in its file, and were turned over (outward.ts). */
  turned?: number
  /** How many were left out, as they lay on others of it. */
  doubled?: number
  /** Where it was broken: how its triangles fall into pieces. */
  pieces?: Pieces
}
/** Where vertices are at moments that follow one another evenly; see meshMotion.ts. */
export interface MeshMotion {
  /** Samples a second; null: one for each frame of the shot. */
  rate: number | null
  /** How many samples there are, two at least. */
  count: number
  by: PlacedMotion | SkinnedMotion | BoundMotion
  /** Vertices that come after those of the file: each is half-way between two before it. */
  middles: Uint32Array
}
/** The vertices of the file at each sample, 3 × f32. */
export interface PlacedMotion {
  places: Float32Array[]
}
/** Vertices that go with the surface of another mesh that moves; see boundMotion.ts. */
export interface BoundMotion {
  to: Mesh
  /** Of each vertex: a triangle of that mesh, and where it is to it: u and v along its edges, and height, m. */
  triangles: Uint32Array
  coordinates: Float32Array
}
/** Vertices that follow joints, and are moved towards targets before. */
export interface SkinnedMotion {
  /** Before they are moved, 3 × f32. */
  base: Float32Array
  /** Joints and weights of a vertex. */
  width: number
  joints: Uint32Array
  weights: Float32Array
  /** Of each sample and joint a map, 12 numbers row by row. */
  maps: Float32Array
  /** Ways to targets, 3 × f32 per vertex, and how far each is gone at each sample. */
  targets: Float32Array[]
  amounts: Float32Array
}

/** So many numbers for each vertex. */
export interface VertexData {
  width: number
  values: Float32Array
}

export interface MeshFacts {
  vertices: number
  triangles: number
  /** Smallest and largest corner, metres. */
  low: [number, number, number]
  high: [number, number, number]
  area: number
  /** Edges with one triangle: the rims of holes. */
  openEdges: number
  /** Closed loops of open edges. */
  holes: number
  /** Edges with more than two triangles. */
  crowdedEdges: number
  /** Triangles without area. */
  slivers: number
  /** Triangles that looked inward in the file, and were turned over; absent: none. */
  turned?: number
  /** Triangles of a second skin, which were left out; absent: none. */
  doubled?: number
  /** Range of the texture coordinates, or null where there are none. */
  uv: { low: [number, number]; high: [number, number] } | null
  /** Names of what its vertices carry besides. */
  data: string[]
  /** Samples of its motion, and seconds that it takes (null: a sample a frame); absent: it keeps still. */
  motion?: { samples: number; seconds: number | null }
}

/** Whether each of its edges has two triangles. */
export const isClosed = ({ openEdges, crowdedEdges }: MeshFacts): boolean => openEdges + crowdedEdges === 0

/** Remembers what was made of a mesh for as long as the mesh is in use; a mesh is never changed. */
export function perMesh<T extends object>(make: (mesh: Mesh) => T): (mesh: Mesh) => T {
  const known = new WeakMap<Mesh, T>()
  return (mesh) => {
    const found = known.get(mesh) ?? make(mesh)
    known.set(mesh, found)
    return found
  }
}

/** The corners of its triangles; a set of points that moves has a triangle without size at each, for what stays with a point. */
export const cornersOf = perMesh(({ positions, triangles, motion }): Uint32Array => {
  if (triangles.length > 0 || !motion) return triangles
  return Uint32Array.from({ length: positions.length }, (_, k) => Math.floor(k / 3))
})

/** What the corners of triangles have, `width` numbers each, where the triangles look the other way: the second and third exchanged. */
export const turnedCorners = <T extends Float32Array | Uint32Array>(values: T, width: number): T =>
  values.map((_, k) => {
    const corner = Math.floor(k / width)
    const other = corner - (corner % 3) + [0, 2, 1][corner % 3]!
    return values[other * width + (k % width)]!
  }) as T

/** Triangles that look the other way. */
export const turnedOver = (triangles: Uint32Array): Uint32Array => turnedCorners(triangles, 1)

/** Twice the area vector of triangle t: (b − a) × (c − a). */
export function areaVector(mesh: Mesh, t: number): [number, number, number] {
  const { positions: p, triangles } = mesh
  const a = triangles[t * 3]! * 3
  const b = triangles[t * 3 + 1]! * 3
  const c = triangles[t * 3 + 2]! * 3
  const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!]
  const [vx, vy, vz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!]
  return [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
}

/** Unit normals per vertex, weighted by triangle area; (0, 1, 0) where there is none. */
export const vertexNormals = perMesh((mesh): Float32Array => {
  const normals = new Float32Array(mesh.positions.length)
  for (let t = 0; t < mesh.triangles.length / 3; t++) {
    const n = areaVector(mesh, t)
    for (let k = 0; k < 3; k++) {
      const v = mesh.triangles[t * 3 + k]! * 3
      for (let axis = 0; axis < 3; axis++) normals[v + axis] = normals[v + axis]! + n[axis]!
    }
  }
  for (let v = 0; v < normals.length; v += 3) {
    const l = Math.sqrt(normals[v]! ** 2 + normals[v + 1]! ** 2 + normals[v + 2]! ** 2)
    if (l < 1e-30) normals.set([0, 1, 0], v)
    else for (let axis = 0; axis < 3; axis++) normals[v + axis] = normals[v + axis]! / l
  }
  return normals
})

/** Sorted keys of all edges of a mesh, as vertex pair numbers low·count + high. */
function sortedEdges(mesh: Mesh): Float64Array {
  const count = mesh.positions.length / 3
  const edges = new Float64Array(mesh.triangles.length)
  for (let e = 0; e < edges.length; e++) {
    const a = mesh.triangles[e]!
    const b = mesh.triangles[e % 3 === 2 ? e - 2 : e + 1]!
    edges[e] = Math.min(a, b) * count + Math.max(a, b)
  }
  return edges.sort()
}

/** What an artist needs to know of a mesh. The mesh must be welded for the edges to mean anything. */
export const meshFacts = perMesh((mesh): MeshFacts => {
  const { positions, triangles } = mesh
  const low: [number, number, number] = [Infinity, Infinity, Infinity]
  const high: [number, number, number] = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < positions.length; i++) {
    const axis = i % 3
    low[axis] = Math.min(low[axis]!, positions[i]!)
    high[axis] = Math.max(high[axis]!, positions[i]!)
  }
  let area = 0
  let slivers = 0
  for (let t = 0; t < triangles.length / 3; t++) {
    const n = areaVector(mesh, t)
    const twice = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2)
    area += twice / 2
    if (twice === 0) slivers++
  }
  const count = positions.length / 3
  const edges = sortedEdges(mesh)
  const open: [number, number][] = []
  let crowdedEdges = 0
  for (let e = 0; e < edges.length;) {
    let next = e + 1
    while (next < edges.length && edges[next] === edges[e]) next++
    if (next - e === 1) open.push([Math.floor(edges[e]! / count), edges[e]! % count])
    if (next - e > 2) crowdedEdges++
    e = next
  }
  return {
    vertices: count,
    triangles: triangles.length / 3,
    low,
    high,
    area,
    openEdges: open.length,
    holes: countLoops(open, count),
    crowdedEdges,
    slivers,
    ...(mesh.turned ? { turned: mesh.turned } : {}),
    ...(mesh.doubled ? { doubled: mesh.doubled } : {}),
    uv: mesh.uvs ? uvRange(mesh.uvs) : null,
    data: Object.keys(mesh.data ?? {}),
    ...(mesh.motion ? { motion: { samples: mesh.motion.count, seconds: secondsOf(mesh.motion) } } : {}),
  }
})

function uvRange(uvs: Float32Array): MeshFacts['uv'] {
  const low: [number, number] = [Infinity, Infinity]
  const high: [number, number] = [-Infinity, -Infinity]
  uvs.forEach((x, k) => {
    low[k % 2] = Math.min(low[k % 2]!, x)
    high[k % 2] = Math.max(high[k % 2]!, x)
  })
  return { low, high }
}

/** Connected sets of edges among so many vertices. */
function countLoops(edges: [number, number][], vertices: number): number {
  const sets = disjointSets(vertices)
  for (const [a, b] of edges) sets.join(a, b)
  return new Set(edges.map(([a]) => sets.rootOf(a))).size
}
