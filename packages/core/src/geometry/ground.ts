/** The part of a mesh on which something can lie, as seen from above, and heights that run off over it. */
import type { Mesh } from './mesh.ts'

export interface Ground {
  /** Triangles that look up, as the places where they start in the mesh's list. */
  faces: Uint32Array
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
  /** Of the edges of faces, by their vertices: the third corners of the faces that have it. */
  const seen = new Map<number, { a: number; b: number; third: number[] }>()
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
      const edge = seen.get(key) ?? { a: Math.min(a, b), b: Math.max(a, b), third: [] }
      edge.third.push(corners[(k + 2) % 3]!)
      seen.set(key, edge)
    })
  }
  for (let v = 0; v < count; v++) if (area[v]! > 0 && blocked(v)) area[v] = 0
  const isGround = (v: number): boolean => area[v]! > 0
  const sides = [...seen.values()].filter(({ a, b }) => isGround(a) && isGround(b))
  // heaps are as round as there are ways down: over an edge from corner to corner, too
  const over = sides.flatMap(({ third: [a, b] }) => (a !== undefined && b !== undefined ? [{ a, b }] : []))
  const pairs = [...sides, ...over.filter(({ a, b }) => isGround(a) && isGround(b))]
  const apart = Float64Array.from(pairs, ({ a, b }) => Math.max(1e-6, across(p, a, b)))
  return {
    faces: Uint32Array.from(faces),
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

/** Rounds in which heights even out or run off in one go. */
const ROUNDS = 4

/** Evens heights out over a few edges around: what falls as one grain stands for many that fall near it. */
export function spreadOut({ edges, area }: Ground, heights: Float64Array): void {
  for (let round = 0; round < ROUNDS; round++) {
    for (let e = 0; e < edges.length; e += 2) {
      const [a, b] = [edges[e]!, edges[e + 1]!]
      const volume = 0.12 * (heights[a]! - heights[b]!) * Math.min(area[a]!, area[b]!)
      if (volume === 0) continue
      heights[a] = heights[a]! - volume / area[a]!
      heights[b] = heights[b]! + volume / area[b]!
    }
  }
}

/**
 * Lets heights over the ground run off until no slope is above `tangent`: along each edge steeper than that, what would
 * make it so again goes down, half of it a round, as far as there is any. Areas make up for one another, so what
 * leaves one vertex is what reaches the other. Where the ground itself is steeper, what slides evens out sideways too,
 * or it would go down in the few lines that edges happen to give it. At the rim the ground ends: there heights stay under that slope
 * over half an edge, and the rest, m³, is handed to `over`.
 * Source: heaps by local redistribution, as in Bak, Tang, Wiesenfeld, "Self-organized criticality" (1987).
 */
export function runOff(
  { edges, apart, area, rim, step }: Ground,
  p: Float32Array,
  heights: Float32Array,
  tangent: number,
  over: (rim: number, volume: number) => void,
): void {
  const steep = new Uint8Array(area.length)
  for (let e = 0; e < apart.length; e++) {
    const [a, b] = [edges[e * 2]!, edges[e * 2 + 1]!]
    if (Math.abs(p[a * 3 + 1]! - p[b * 3 + 1]!) > tangent * apart[e]!) steep[a] = steep[b] = 1
  }
  const even = (a: number, b: number): void => {
    const volume = 0.1 * (heights[a]! - heights[b]!) * Math.min(area[a]!, area[b]!)
    heights[a] = Math.max(0, heights[a]! - volume / area[a]!)
    heights[b] = Math.max(0, heights[b]! + volume / area[b]!)
  }
  for (let round = 0; round < ROUNDS; round++) {
    for (let e = 0; e < apart.length; e++) {
      let [a, b] = [edges[e * 2]!, edges[e * 2 + 1]!]
      if (p[a * 3 + 1]! + heights[a]! < p[b * 3 + 1]! + heights[b]!) [a, b] = [b, a]
      if (heights[a]! <= 0) continue
      if (steep[a] && steep[b]) even(a, b)
      const drop = p[a * 3 + 1]! + heights[a]! - p[b * 3 + 1]! - heights[b]!
      const excess = drop - tangent * apart[e]!
      if (excess <= 0) continue
      const ratio = area[a]! / area[b]!
      const goes = Math.min(heights[a]!, (0.5 * excess) / (1 + ratio))
      heights[a] = heights[a]! - goes
      heights[b] = heights[b]! + goes * ratio
    }
  }
  rim.forEach((v, n) => {
    const most = tangent * step * 0.5
    if (heights[v]! <= most) return
    const goes = 0.5 * (heights[v]! - most)
    heights[v] = heights[v]! - goes
    over(n, goes * area[v]!)
  })
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
  const { area } = ground
  const numberOf = new Map<number, number>()
  const number = (v: number): number => {
    if (!numberOf.has(v)) numberOf.set(v, numberOf.size)
    return numberOf.get(v)!
  }
  const top: number[] = []
  const open = new Map<string, [number, number]>()
  // into what stands on the ground the cover goes on as high as beside it
  const beside = new Map<number, number>()
  for (const t of ground.faces) {
    const corners = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!]
    const high = corners.reduce((most, v) => Math.max(most, area[v]! > 0 ? heights[v]! : 0), 0)
    for (const v of corners) if (!(area[v]! > 0)) beside.set(v, Math.max(high, beside.get(v) ?? 0))
  }
  for (const t of ground.faces) {
    const corners = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!]
    if (!corners.some((v) => area[v]! > 0 && heights[v]! > least)) continue
    // mirrored, or a sheet that looks down: turned over
    if (seenFromAbove(p, corners).area < 0) corners.reverse()
    const [a, b, c] = corners.map(number) as [number, number, number]
    top.push(a, b, c)
    for (const [from, to] of [
      [a, b],
      [b, c],
      [c, a],
    ] as const)
      if (!open.delete(`${to} ${from}`)) open.set(`${from} ${to}`, [from, to])
  }
  const count = numberOf.size
  const positions = new Float32Array(count * 6)
  for (const [v, n] of numberOf) {
    positions.set(p.subarray(v * 3, v * 3 + 3), n * 3)
    positions.set(p.subarray(v * 3, v * 3 + 3), (count + n) * 3)
    positions[n * 3 + 1] = p[v * 3 + 1]! + (beside.get(v) ?? heights[v]!)
  }
  const under: number[] = []
  for (let t = 0; t < top.length; t += 3)
    under.push(top[t]! + count, top[t + 2]! + count, top[t + 1]! + count)
  const walls = [...open.values()].flatMap(([a, b]) => [b, a, a + count, b, a + count, b + count])
  return { positions, triangles: Uint32Array.from([...top, ...under, ...walls]) }
}
