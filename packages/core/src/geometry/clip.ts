import type { Mesh } from './mesh.ts'

/**
 * Area of each triangle where a value at its vertices, linear between them, is at or above a level, and
 * their sum over the mesh, m².
 * @param points positions in world size
 */
export function areaAbove(
  points: Float32Array,
  triangles: Uint32Array,
  values: Float32Array,
  level: number,
): number {
  let sum = 0
  for (let t = 0; t < triangles.length; t += 3) {
    const a = triangles[t]!
    const b = triangles[t + 1]!
    const c = triangles[t + 2]!
    const share = shareAbove(values[a]! - level, values[b]! - level, values[c]! - level)
    if (share > 0) sum += share * triangleArea(points, a, b, c)
  }
  return sum
}

/** Share of a triangle where a linear value with these corners is at or above 0. */
export function shareAbove(a: number, b: number, c: number): number {
  const above = (a >= 0 ? 1 : 0) + (b >= 0 ? 1 : 0) + (c >= 0 ? 1 : 0)
  if (above === 0) return 0
  if (above === 3) return 1
  // the corner that stands alone cuts off a triangle similar in two directions
  const alone = above === 1 ? (a >= 0 ? 0 : b >= 0 ? 1 : 2) : a < 0 ? 0 : b < 0 ? 1 : 2
  const [p, q, r] = alone === 0 ? [a, b, c] : alone === 1 ? [b, c, a] : [c, a, b]
  const corner = (p / (p - q)) * (p / (p - r))
  return above === 1 ? corner : 1 - corner
}

export function triangleArea(p: Float32Array, a: number, b: number, c: number): number {
  const ux = p[b * 3]! - p[a * 3]!
  const uy = p[b * 3 + 1]! - p[a * 3 + 1]!
  const uz = p[b * 3 + 2]! - p[a * 3 + 2]!
  const vx = p[c * 3]! - p[a * 3]!
  const vy = p[c * 3 + 1]! - p[a * 3 + 1]!
  const vz = p[c * 3 + 2]! - p[a * 3 + 2]!
  const x = uy * vz - uz * vy
  const y = uz * vx - ux * vz
  const z = ux * vy - uy * vx
  return Math.sqrt(x * x + y * y + z * z) / 2
}

export interface Clipped extends Mesh {
  /** For each vertex the two of the whole mesh between which it lies, and how far on the way (0–1). */
  from: Uint32Array
  to: Uint32Array
  way: Float32Array
  /** The triangle of the whole mesh in which each lies. */
  sources: Uint32Array
  /** Pairs of vertices along the cut, in the direction in which the triangles run. */
  rim: Uint32Array
}

/**
 * The part of a mesh where a value is below a level, cut where the value (linear along edges) meets it.
 * Triangles on both sides of an edge share the cut's vertices. `keepAbove` gives the other part, whose cut
 * has the same vertices.
 */
export function clip(mesh: Mesh, values: Float32Array, level: number, keepAbove = false): Clipped {
  const { positions, triangles } = mesh
  const count = positions.length / 3
  const isKept = (v: number): boolean => values[v]! >= level === keepAbove
  const vertexOf = new Map<number, number>()
  const from: number[] = []
  const to: number[] = []
  const way: number[] = []
  const add = (key: number, a: number, b: number, t: number): number => {
    const known = vertexOf.get(key)
    if (known !== undefined) return known
    vertexOf.set(key, from.length)
    from.push(a)
    to.push(b)
    way.push(t)
    return from.length - 1
  }
  const whole = (v: number): number => add(-1 - v, v, v, 0)
  const cut = (v: number, w: number): number => {
    const [a, b] = v < w ? [v, w] : [w, v]
    return add(a * count + b, a, b, (level - values[a]!) / (values[b]! - values[a]!))
  }
  const out: number[] = []
  const rim: number[] = []
  const sources: number[] = []
  for (let t = 0; t < triangles.length; t += 3) {
    const corners = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!] as const
    const kept = corners.map(isKept)
    const inside = kept.filter(Boolean).length
    if (inside === 0) continue
    if (inside === 3) {
      out.push(...corners.map(whole))
      sources.push(t / 3)
      continue
    }
    const alone = kept.indexOf(inside === 1)
    const [a, b, c] = [0, 1, 2].map((k) => corners[(alone + k) % 3]!) as [number, number, number]
    const ab = cut(a, b)
    const ca = cut(a, c)
    if (inside === 1) {
      out.push(whole(a), ab, ca)
      sources.push(t / 3)
      rim.push(ab, ca)
    } else {
      out.push(ab, whole(b), whole(c), ab, whole(c), ca)
      sources.push(t / 3, t / 3)
      rim.push(ca, ab)
    }
  }
  const clipped = {
    triangles: new Uint32Array(out),
    from: new Uint32Array(from),
    to: new Uint32Array(to),
    way: new Float32Array(way),
    sources: new Uint32Array(sources),
    rim: new Uint32Array(rim),
  }
  return { ...clipped, positions: carried(clipped, positions, 3) }
}

/** Values of a mesh's vertices, carried over to a part that was cut from it. */
export function carried(
  { from, to, way }: Pick<Clipped, 'from' | 'to' | 'way'>,
  values: Float32Array,
  width: number,
): Float32Array {
  const out = new Float32Array(from.length * width)
  for (let v = 0; v < from.length; v++) {
    for (let k = 0; k < width; k++) {
      const a = values[from[v]! * width + k]!
      out[v * width + k] = a + (values[to[v]! * width + k]! - a) * way[v]!
    }
  }
  return out
}

/**
 * Gives a clipped mesh a wall of some thickness: a second skin inward along the normals, turned round, and
 * quads between both along the cut. What was closed before it was cut is closed again.
 */
export function thicken(part: Clipped, normals: Float32Array, thickness: number): Mesh {
  const { positions, triangles, rim } = part
  const count = positions.length / 3
  const both = new Float32Array(count * 6)
  both.set(positions)
  for (let i = 0; i < count * 3; i++) both[count * 3 + i] = positions[i]! - normals[i]! * thickness
  const out = new Uint32Array(triangles.length * 2 + rim.length * 3)
  out.set(triangles)
  for (let t = 0; t < triangles.length; t += 3) {
    const o = triangles.length + t
    out[o] = triangles[t]! + count
    out[o + 1] = triangles[t + 2]! + count
    out[o + 2] = triangles[t + 1]! + count
  }
  for (let e = 0, o = triangles.length * 2; e < rim.length; e += 2, o += 6) {
    const [a, b] = [rim[e]!, rim[e + 1]!]
    // the outer skin runs a → b along the rim, so the wall runs b → a
    out.set([b, a, a + count, b, a + count, b + count], o)
  }
  return { positions: both, triangles: out }
}
