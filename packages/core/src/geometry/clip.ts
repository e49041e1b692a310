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
  const kept = new Uint8Array(count)
  for (let v = 0; v < count; v++) kept[v] = values[v]! >= level === keepAbove ? 1 : 0
  const vertices = createVertices(count, triangles.length, values, level)
  const { whole, cut } = vertices
  // no triangle gives more than two
  const out = new Uint32Array(triangles.length * 2)
  const sources = new Uint32Array((triangles.length / 3) * 2)
  const rim: number[] = []
  let made = 0
  const add = (t: number, a: number, b: number, c: number): void => {
    out[made * 3] = a
    out[made * 3 + 1] = b
    out[made * 3 + 2] = c
    sources[made++] = t / 3
  }
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!]
    const inside = kept[a]! + kept[b]! + kept[c]!
    if (inside === 0) continue
    if (inside === 3) {
      add(t, whole(a), whole(b), whole(c))
      continue
    }
    // the corner that is alone on its side comes first
    const lone = inside === 1 ? 1 : 0
    const [p, q, r] = kept[a] === lone ? [a, b, c] : kept[b] === lone ? [b, c, a] : [c, a, b]
    const pq = cut(p, q)
    const rp = cut(p, r)
    if (inside === 1) {
      add(t, whole(p), pq, rp)
      rim.push(pq, rp)
    } else {
      add(t, pq, whole(q), whole(r))
      add(t, pq, whole(r), rp)
      rim.push(rp, pq)
    }
  }
  const clipped = {
    triangles: out.slice(0, made * 3),
    ...vertices.all(),
    sources: sources.slice(0, made),
    rim: new Uint32Array(rim),
  }
  return { ...clipped, positions: carried(clipped, positions, 3) }
}

/** The vertices of a part, in the order in which they are first asked for: those of the mesh, and those on its cut edges. */
function createVertices(count: number, most: number, values: Float32Array, level: number) {
  const numberOf = new Int32Array(count).fill(-1)
  const onEdge = new Map<number, number>()
  const [from, to, way] = [new Uint32Array(count + most), new Uint32Array(count + most), new Float32Array(count + most)] // prettier-ignore
  let made = 0
  const add = (a: number, b: number, t: number): number => {
    from[made] = a
    to[made] = b
    way[made] = t
    return made++
  }
  return {
    whole: (v: number): number => (numberOf[v]! < 0 ? (numberOf[v] = add(v, v, 0)) : numberOf[v]!),
    cut(v: number, w: number): number {
      const [a, b] = v < w ? [v, w] : [w, v]
      const known = onEdge.get(a * count + b)
      if (known !== undefined) return known
      const fresh = add(a, b, (level - values[a]!) / (values[b]! - values[a]!))
      onEdge.set(a * count + b, fresh)
      return fresh
    },
    all: () => ({ from: from.slice(0, made), to: to.slice(0, made), way: way.slice(0, made) }),
  }
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
