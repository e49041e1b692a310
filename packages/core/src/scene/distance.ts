import type { Machine } from '@tangle/kernels'
import type { Body } from './body.ts'
import { FAR, windingNumbers } from '../geometry/tree.ts'

export interface Near {
  /** Pointers: f32 distance in metres, u32 triangle (of the mesh), 3 × f32 point in the tree's frame. */
  distance: number
  triangle: number
  point: number
  free(): void
}

/**
 * The surface nearest to points of the world (3 × f32), at a frame. With `signed` the distance is negative
 * inside: where the mesh winds around a point by more than half (Barill et al. 2018), so that open scans
 * have an inside too. Beyond `limit` metres the distance is 1e30 (signed all the same).
 */
export function nearSurface(
  machine: Machine,
  body: Body,
  frame: number,
  points: number,
  count: number,
  signed: boolean,
  limit = FAR,
): Near {
  const { heap } = machine
  const { tree, into } = body.treeAt(frame)
  const owned: number[] = []
  const block = (bytes: number): number => {
    const pointer = heap.allocate(bytes)
    owned.push(pointer)
    return pointer
  }
  let queries = points
  if (into) {
    const map = block(96)
    heap.f64(map, 12).set(into)
    queries = block(count * 12)
    machine.run('transformPoints', count, { points, out: queries, map })
  }
  const near = { point: block(count * 12), distance: block(count * 4), triangle: block(count * 4) }
  const { quads, vertices, stack } = tree
  machine.run('closestPoints', count, {
    queries,
    quads,
    vertices,
    stack,
    outPoint: near.point,
    outDistance: near.distance,
    outTriangle: near.triangle,
    limit,
  })
  if (signed) {
    const positions = heap.f32(queries, count * 3)
    const distance = heap.f32(near.distance, count)
    const ask = (points: Float32Array): Float32Array => windingNumbers(machine, tree, points)
    const { openEdges, crowdedEdges } = body.facts
    const inside =
      openEdges + crowdedEdges > 0
        ? ask(positions).map((w) => (w > 0.5 ? 1 : 0))
        : sidesOf(positions, distance, limit, ask)
    for (let i = 0; i < count; i++) if (inside[i]!) distance[i] = -distance[i]!
  }
  const triangle = heap.u32(near.triangle, count)
  for (let i = 0; i < count; i++) triangle[i] = tree.order[triangle[i]!] ?? 0
  return { ...near, free: () => owned.forEach((pointer) => heap.free(pointer)) }
}

/**
 * How far to look for a surface where distances matter up to `reach`, metres, and beyond it only sides do: an eighth of
 * the body at least, for sides follow from distances.
 */
export function signLimit(body: Body, frame: number, reach: number): number {
  const { low, high } = body.facts
  const size = body.sizeAt(frame)
  const squared = low.reduce((sum, x, axis) => sum + ((high[axis]! - x) * size[axis]!) ** 2, 0)
  return Math.max(reach * 1.001 + 1e-6, Math.sqrt(squared) / 8)
}

/** Points are looked up in a grid of cells, of so many along each side of their box. */
const CELLS = 48

/**
 * Which points lie inside a closed mesh (1), by as few winding numbers as can be: within its distance to the
 * surface every point is on the same side as it is, so most follow from the point before or from the first of
 * their cell.
 */
function sidesOf(
  points: Float32Array,
  distance: Float32Array,
  limit: number,
  ask: (points: Float32Array) => Float32Array,
): Uint8Array {
  const count = distance.length
  const low = [Infinity, Infinity, Infinity]
  const high = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < points.length; i++) {
    const axis = i % 3
    if (points[i]! < low[axis]!) low[axis] = points[i]!
    if (points[i]! > high[axis]!) high[axis] = points[i]!
  }
  const perMetre = low.map((l, axis) => (high[axis]! > l ? (CELLS - 1) / (high[axis]! - l) : 0))
  const follows = (i: number, other: number): boolean => {
    const x = points[i * 3]! - points[other * 3]!
    const y = points[i * 3 + 1]! - points[other * 3 + 1]!
    const z = points[i * 3 + 2]! - points[other * 3 + 2]!
    // a hair less than the distance, which is rounded
    const clear = Math.min(distance[other]!, limit)
    return x * x + y * y + z * z < 0.99 * clear * clear
  }
  const along = (i: number, axis: number): number =>
    Math.floor((points[i * 3 + axis]! - low[axis]!) * perMetre[axis]!)
  const cellOf = (i: number): number => (along(i, 2) * CELLS + along(i, 1)) * CELLS + along(i, 0)
  const firstOf = new Int32Array(CELLS ** 3).fill(-1)
  /** The point that each follows; itself when it must be asked. */
  const leader = new Uint32Array(count)
  const asked: number[] = []
  for (let i = 0; i < count; i++) {
    const cell = cellOf(i)
    const known = firstOf[cell]!
    if (known < 0 || distance[i]! > distance[known]!) firstOf[cell] = i
    if (i > 0 && follows(i, i - 1)) leader[i] = leader[i - 1]!
    else if (known >= 0 && follows(i, known)) leader[i] = leader[known]!
    else {
      leader[i] = i
      asked.push(i)
    }
  }
  const winding = ask(
    Float32Array.from(asked.flatMap((i) => [points[i * 3]!, points[i * 3 + 1]!, points[i * 3 + 2]!])),
  )
  const inside = new Uint8Array(count)
  asked.forEach((i, k) => (inside[i] = winding[k]! > 0.5 ? 1 : 0))
  for (let i = 0; i < count; i++) inside[i] = inside[leader[i]!]!
  return inside
}
