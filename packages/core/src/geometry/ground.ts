/** The part of a mesh on which something can lie, as seen from above, and heights that run off over it. */
import type { Mesh } from './mesh.ts'

export interface Ground {
  /** Triangles that look up, as the places where they start in the mesh's list. */
  faces: Uint32Array
  /** For each side of each face the place in `faces` of the one beyond it; −1: the ground ends, or branches. */
  beyond: Int32Array
  /** m² of ground around each vertex, seen from above; 0: nothing lies there. */
  area: Float64Array
  /** Pairs of neighbouring vertices, and how far apart they are seen from above, metres. */
  edges: Uint32Array
  apart: Float64Array
  /** Vertices where the ground ends, and which way it ends, as a pair x, z of length 1 each. */
  rim: Uint32Array
  out: Float64Array
  /** Mean length of the edges, metres. */
  step: number
}

/** Steeper than this nothing is ground: the upward part of a unit normal. */
const STEEPEST = 0.17

/**
 * The ground of a mesh with these positions in the world. `blocked` vertices are none. `facing` says on which side of a
 * triangle its outside is: 1 where it is seen counter-clockwise, −1 on the other (a mirrored mesh), 0 either (a sheet).
 */
export function groundOf(
  { positions: p, triangles }: Mesh,
  facing: number,
  blocked: (vertex: number) => boolean,
): Ground {
  const count = p.length / 3
  const area = new Float64Array(count)
  const faces: number[] = []
  /** The edges of faces by their vertices: the sides of faces that they are (three a face), and the third corners of those. */
  const seen = new Map<number, { a: number; b: number; sides: number[]; third: number[] }>()
  for (let t = 0; t < triangles.length; t += 3) {
    const corners = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!]
    const above = seenFromAbove(p, corners)
    const turn = facing === 0 ? Math.sign(above.up) : facing
    if (!(turn * above.up >= STEEPEST)) continue
    faces.push(t)
    corners.forEach((a, k) => {
      const b = corners[(k + 1) % 3]!
      area[a]! += Math.abs(above.area) / 3
      const key = Math.min(a, b) * count + Math.max(a, b)
      const edge = seen.get(key) ?? { a: Math.min(a, b), b: Math.max(a, b), sides: [], third: [] }
      edge.sides.push(faces.length * 3 - 3 + k)
      edge.third.push(corners[(k + 2) % 3]!)
      seen.set(key, edge)
    })
  }
  for (let v = 0; v < count; v++) if (area[v]! > 0 && blocked(v)) area[v] = 0
  const isGround = (v: number): boolean => area[v]! > 0
  const beyond = new Int32Array(faces.length * 3).fill(-1)
  for (const { sides: one } of seen.values())
    if (one.length === 2) one.forEach((side, k) => (beyond[side] = Math.floor(one[1 - k]! / 3)))
  const sides = [...seen.values()].filter(({ a, b }) => isGround(a) && isGround(b))
  // heaps are as round as there are ways down: over an edge from corner to corner, too
  const over = sides.flatMap(({ third: [a, b] }) => (a !== undefined && b !== undefined ? [{ a, b }] : []))
  const pairs = [...sides, ...over.filter(({ a, b }) => isGround(a) && isGround(b))]
  const apart = Float64Array.from(pairs, ({ a, b }) => Math.max(1e-6, across(p, a, b)))
  return {
    faces: Uint32Array.from(faces),
    beyond,
    area,
    edges: Uint32Array.from(pairs.flatMap(({ a, b }) => [a, b])),
    apart,
    ...rimOf(
      p,
      sides.filter(({ third }) => third.length === 1).map(({ a, b, third }) => ({ a, b, third: third[0]! })),
    ),
    step: pairs.length > 0 ? apart.reduce((sum, x) => sum + x, 0) / pairs.length : 0,
  }
}

/** Horizontal distance of two vertices, metres. */
const across = (p: Float32Array, a: number, b: number): number =>
  Math.sqrt((p[a * 3]! - p[b * 3]!) ** 2 + (p[a * 3 + 2]! - p[b * 3 + 2]!) ** 2)

/** m² of a triangle seen from above (below 0: from below), and the upward part of its unit normal. */
function seenFromAbove(p: Float32Array, corners: number[]): { area: number; up: number } {
  const [a, b, c] = corners.map((v) => v * 3) as [number, number, number]
  const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!]
  const [vx, vy, vz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!]
  const [x, y, z] = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx]
  return { area: y / 2, up: y / Math.sqrt(x * x + y * y + z * z) }
}

/** Ends of open edges, each with the mean way out across them. */
function rimOf(p: Float32Array, edges: { a: number; b: number; third: number }[]) {
  const ways = new Map<number, [number, number]>()
  for (const { a, b, third } of edges) {
    // across the edge, away from the third corner
    const [ex, ez] = [p[b * 3]! - p[a * 3]!, p[b * 3 + 2]! - p[a * 3 + 2]!]
    const inward = (p[third * 3]! - p[a * 3]!) * ez - (p[third * 3 + 2]! - p[a * 3 + 2]!) * ex
    const turn = inward > 0 ? -1 : 1
    for (const v of [a, b]) {
      const way = ways.get(v) ?? [0, 0]
      ways.set(v, [way[0] + ez * turn, way[1] - ex * turn])
    }
  }
  return {
    rim: Uint32Array.from(ways.keys()),
    out: Float64Array.from(
      [...ways.values()].flatMap(([x, z]) => {
        const size = Math.sqrt(x * x + z * z) || 1
        return [x / size, z / size]
      }),
    ),
  }
}

/**
 * The cover as a closed mesh: the ground raised by the heights where they are above `least`, the ground itself as its
 * underside, and walls where it ends.
 */
export function coverOver(
  ground: Ground,
  triangles: Uint32Array,
  p: Float32Array,
  heights: Float32Array,
  least: number,
): Mesh {
  const { area, faces, beyond } = ground
  const cornerOf = (face: number, k: number): number => triangles[faces[face]! + k]!
  const chosen = new Uint8Array(faces.length)
  // into what stands on the ground the cover goes on as high as beside it
  const levels = new Float32Array(area.length)
  for (let v = 0; v < area.length; v++) levels[v] = area[v]! > 0 ? heights[v]! : 0
  for (let face = 0; face < faces.length; face++) {
    let high = 0
    for (let k = 0; k < 3; k++) {
      const v = cornerOf(face, k)
      if (area[v]! > 0) high = Math.max(high, heights[v]!)
    }
    if (high > least) chosen[face] = 1
    for (let k = 0; k < 3; k++) {
      const v = cornerOf(face, k)
      if (!(area[v]! > 0)) levels[v] = Math.max(high, levels[v]!)
    }
  }
  const number = new Int32Array(area.length).fill(-1)
  const vertices: number[] = []
  const top: number[] = []
  /** Pairs of vertices where it ends. */
  const ends: number[] = []
  for (let face = 0; face < faces.length; face++) {
    if (chosen[face] === 0) continue
    // mirrored, or a sheet that looks down: turned over
    const turned = areaFromAbove(p, cornerOf(face, 0), cornerOf(face, 1), cornerOf(face, 2)) < 0
    for (let k = 0; k < 3; k++) {
      const v = cornerOf(face, turned ? 2 - k : k)
      if (number[v]! < 0) number[v] = vertices.push(v) - 1
      top.push(number[v]!)
    }
    for (let k = 0; k < 3; k++) {
      const other = beyond[face * 3 + k]!
      if (other >= 0 && chosen[other] === 1) continue
      const [a, b] = [number[cornerOf(face, k)]!, number[cornerOf(face, (k + 1) % 3)]!]
      ends.push(turned ? b : a, turned ? a : b)
    }
  }
  return closed(p, levels, vertices, top, ends)
}

/** Raised tops over their own undersides, with walls where they end. */
function closed(
  p: Float32Array,
  levels: Float32Array,
  vertices: number[],
  top: number[],
  ends: number[],
): Mesh {
  const count = vertices.length
  const positions = new Float32Array(count * 6)
  vertices.forEach((v, n) => {
    for (let axis = 0; axis < 3; axis++)
      positions[n * 3 + axis] = positions[(count + n) * 3 + axis] = p[v * 3 + axis]!
    positions[n * 3 + 1] = p[v * 3 + 1]! + levels[v]!
  })
  const out = new Uint32Array(top.length * 2 + ends.length * 3)
  out.set(top)
  for (let t = 0; t < top.length; t += 3) {
    out[top.length + t] = top[t]! + count
    out[top.length + t + 1] = top[t + 2]! + count
    out[top.length + t + 2] = top[t + 1]! + count
  }
  for (let e = 0; e < ends.length; e += 2) {
    const [a, b] = [ends[e]!, ends[e + 1]!]
    out.set([b, a, a + count, b, a + count, b + count], top.length * 2 + e * 3)
  }
  return { positions, triangles: out }
}

/** m² of a triangle seen from above, below 0: from below. */
const areaFromAbove = (p: Float32Array, a: number, b: number, c: number): number =>
  ((p[b * 3 + 2]! - p[a * 3 + 2]!) * (p[c * 3]! - p[a * 3]!) -
    (p[b * 3]! - p[a * 3]!) * (p[c * 3 + 2]! - p[a * 3 + 2]!)) /
  2
