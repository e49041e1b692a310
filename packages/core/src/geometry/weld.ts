/** Vertices at one place made one. */
import type { Mesh, VertexData } from './mesh.ts'
import { motionOfSome, waysOf } from './meshMotion.ts'

/** Vertices nearer than this share of the mesh's size are one: the rounding of f32. */
const SAME = 2 ** -22
/** And than this share of the longest edge that they have. */
const NEAR_EDGE = 2 ** -10
/** Or than what is lost of their own places by rounding. */
const ROUNDED = 2 * SAME

/**
 * Merges vertices at the same place, so that neighbouring triangles share them, and drops the
 * triangles that this leaves without three corners. Small parts of a wide mesh keep their corners: vertices that are a thousandth of their
 * longest edges apart are two.
 */
export function weld({ positions, triangles, uvs, materials, data, motion }: Mesh): Mesh {
  const count = positions.length / 3
  let size = 0
  for (const x of positions) size = Math.max(size, Math.abs(x))
  const perCell = 1 / (size * SAME || 1)
  // what comes apart later is not one
  const ways = motion ? waysOf(motion, perCell) : null
  const cells = Int32Array.from(positions, (x) => Math.round(x * perCell))
  const slots = new Int32Array(2 ** Math.ceil(Math.log2(Math.max(2, count * 2)))).fill(-1)
  const edges = longestEdges(positions, triangles)
  const isSame = (a: number, b: number): boolean =>
    apart(positions, a, b) <=
      Math.max(NEAR_EDGE * Math.min(edges[a]!, edges[b]!), ROUNDED * farthestPart(positions, a)) &&
    (!ways || ways[a] === ways[b])
  const map = new Uint32Array(count)
  const kept = new Uint32Array(count)
  let keptCount = 0
  for (let v = 0; v < count; v++) {
    const [x, y, z] = [cells[v * 3]!, cells[v * 3 + 1]!, cells[v * 3 + 2]!]
    let slot = hash(x, y, z) & (slots.length - 1)
    for (;;) {
      const found = slots[slot]!
      if (found < 0) {
        slots[slot] = keptCount
        map[v] = keptCount
        kept[keptCount++] = v
        break
      }
      const o = kept[found]! * 3
      if (cells[o] === x && cells[o + 1] === y && cells[o + 2] === z && isSame(kept[found]!, v)) {
        map[v] = found
        break
      }
      slot = (slot + 1) & (slots.length - 1)
    }
  }
  const out = new Float32Array(keptCount * 3)
  for (let i = 0; i < keptCount; i++) out.set(positions.subarray(kept[i]! * 3, kept[i]! * 3 + 3), i * 3)
  return {
    positions: out,
    ...withThreeCorners(
      triangles.map((v) => map[v]!),
      uvs?.slice(),
      materials?.slice(),
    ),
    ...(data ? { data: dataOf(data, kept.subarray(0, keptCount)) } : {}),
    ...(motion ? { motion: motionOfSome(motion, kept.subarray(0, keptCount)) } : {}),
  }
}

const farthestPart = (positions: Float32Array, v: number): number =>
  Math.max(Math.abs(positions[v * 3]!), Math.abs(positions[v * 3 + 1]!), Math.abs(positions[v * 3 + 2]!))

/** Of each vertex the longest edge of its triangles, metres; 0 where it has none. */
function longestEdges(positions: Float32Array, triangles: Uint32Array): Float32Array {
  const longest = new Float32Array(positions.length / 3)
  for (let e = 0; e < triangles.length; e++) {
    const [a, b] = [triangles[e]!, triangles[e % 3 === 2 ? e - 2 : e + 1]!]
    const length = apart(positions, a, b)
    if (length > longest[a]!) longest[a] = length
    if (length > longest[b]!) longest[b] = length
  }
  return longest
}
const apart = (positions: Float32Array, a: number, b: number): number =>
  Math.sqrt(
    (positions[a * 3]! - positions[b * 3]!) ** 2 +
      (positions[a * 3 + 1]! - positions[b * 3 + 1]!) ** 2 +
      (positions[a * 3 + 2]! - positions[b * 3 + 2]!) ** 2,
  )

/** What some vertices carry. */
function dataOf(data: Record<string, VertexData>, vertices: Uint32Array): Record<string, VertexData> {
  const of = ({ width, values }: VertexData): VertexData => {
    const out = new Float32Array(vertices.length * width)
    vertices.forEach((v, k) => out.set(values.subarray(v * width, v * width + width), k * width))
    return { width, values: out }
  }
  return Object.fromEntries(Object.entries(data).map(([name, one]) => [name, of(one)]))
}

function withThreeCorners(
  triangles: Uint32Array,
  uvs?: Float32Array,
  materials?: Uint16Array,
): Pick<Mesh, 'triangles' | 'uvs' | 'materials'> {
  let to = 0
  for (let t = 0; t < triangles.length; t += 3) {
    const [a, b, c] = [triangles[t]!, triangles[t + 1]!, triangles[t + 2]!]
    if (a === b || b === c || a === c) continue
    triangles.set([a, b, c], to)
    uvs?.copyWithin(to * 2, t * 2, t * 2 + 6)
    materials?.copyWithin(to / 3, t / 3, t / 3 + 1)
    to += 3
  }
  return {
    triangles: triangles.slice(0, to),
    ...(uvs ? { uvs: uvs.slice(0, to * 2) } : {}),
    ...(materials ? { materials: materials.slice(0, to / 3) } : {}),
  }
}

function hash(x: number, y: number, z: number): number {
  let h = Math.imul(x, 0x9e3779b1) ^ Math.imul(y, 0x85ebca6b) ^ Math.imul(z, 0xc2b2ae35)
  h ^= h >>> 15
  h = Math.imul(h, 0x2c1b3c6d)
  return h ^ (h >>> 13)
}
