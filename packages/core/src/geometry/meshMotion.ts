/** Meshes that move in their files: where their vertices are at a moment. */
import type { Machine } from '@tangle/kernels'
import type { BoundMotion, Mesh, MeshMotion, SkinnedMotion } from './mesh.ts'

/** Seconds from the first sample to the last; null where there is one for each frame of the shot. */
export const secondsOf = ({ rate, count }: MeshMotion): number | null =>
  rate === null ? null : (count - 1) / rate

/** A block of the heap by its name, filled when it is made. */
type Block = (name: string, bytes: number, fill?: (pointer: number) => void) => number

/**
 * Writes the vertices at a sample, which need not be whole, as 3 × f32 to `out`; before the first and after the last they keep still.
 * Between samples places, maps and amounts go evenly.
 */
export function placeVertices(machine: Machine, mesh: Mesh, sample: number, block: Block, out: number): void {
  const { count, by, middles } = mesh.motion! // the caller has looked
  const { heap } = machine
  const own = mesh.positions.length / 3 - middles.length / 2
  const at = Math.min(Math.max(sample, 0), count - 1)
  const from = Math.min(Math.floor(at), count - 2)
  const part = at - from
  if ('places' in by) {
    const [a, b] = [block('motion from', own * 12), block('motion to', own * 12)]
    heap.f32(a, own * 3).set(by.places[from]!)
    heap.f32(b, own * 3).set(by.places[from + 1]!)
    machine.run('blendPoints', own, { a, b, part, out })
  } else if ('to' in by) {
    placeBound(machine, by, sample, block, out)
  } else {
    const of = (values: Float32Array) => between(values, values.length / count, from, part)
    skin(machine, by, own, of, block, out)
  }
  if (middles.length === 0) return
  const ends = block('motion middles', middles.byteLength, (p) => heap.u32(p, middles.length).set(middles))
  machine.call('placeMiddles', { count: middles.length / 2, first: own, ends, points: out })
}

/** Vertices where the triangles are now that they are bound to. */
function placeBound(machine: Machine, { to, triangles, coordinates }: BoundMotion, sample: number, block: Block, out: number): void {
  const { heap } = machine
  const own: Block = (name, bytes, fill) => block(`bound ${name}`, bytes, fill)
  const positions = own('surface', to.positions.byteLength)
  placeVertices(machine, to, sample, own, positions)
  const corners = own('corners', to.triangles.byteLength, (p) => heap.u32(p, to.triangles.length).set(to.triangles))
  const anchorAt = own('coordinates', coordinates.byteLength, (p) => heap.f32(p, coordinates.length).set(coordinates))
  const anchor = own('anchors', triangles.length * 8, (p) => {
    const pairs = heap.u32(p, triangles.length * 2)
    triangles.forEach((triangle, v) => pairs.set([1, triangle], v * 2))
  })
  // nobody has a place without a triangle: no map is read
  machine.run('anchorPoints', triangles.length, { body: 1, anchor, anchorAt, positions, triangles: corners, map: 0, out })
} // prettier-ignore

/** `of` gives the values of a moment from those of all samples. */
function skin(
  machine: Machine,
  { base, width, joints, weights, maps, targets, amounts }: SkinnedMotion,
  count: number,
  of: (values: Float32Array) => Float32Array,
  block: Block,
  out: number,
): void {
  const { heap } = machine
  const points = block('motion base', count * 12)
  heap.f32(points, count * 3).set(base)
  const gone = targets.length > 0 ? of(amounts) : amounts
  targets.forEach((target, k) => {
    if (gone[k] === 0) return
    const deltas = block(`motion target ${k}`, count * 12, (p) => heap.f32(p, count * 3).set(target))
    machine.run('addDeltas', count, { deltas, amount: gone[k]!, points })
  })
  const map = of(maps)
  const now = block('motion maps', map.byteLength)
  heap.f32(now, map.length).set(map)
  machine.run('skinPoints', count, {
    points,
    width,
    joints: block('motion joints', joints.byteLength, (p) => heap.u32(p, joints.length).set(joints)),
    weights: block('motion weights', weights.byteLength, (p) => heap.f32(p, weights.length).set(weights)),
    maps: now,
    out,
  })
}

/** Of rows of so many numbers, what lies between one and the next. */
function between(rows: Float32Array, size: number, row: number, part: number): Float32Array {
  const [a, b] = [rows.subarray(row * size, (row + 1) * size), rows.subarray((row + 1) * size)]
  return a.map((x, k) => x + (b[k]! - x) * part)
}

/** A number for each vertex: those that have the same move alike. Places in the same of `perCell` cells a metre are one. */
export function waysOf({ by }: MeshMotion, perCell: number): Uint32Array {
  if ('places' in by) {
    // all that were in the same cell in every sample so far have the same number
    let ways: Uint32Array = new Uint32Array(by.places[0]!.length / 3)
    for (const places of by.places) {
      const cell = (k: number): number => Math.round(places[k]! * perCell)
      ways = numbered(ways, (v) => `${cell(v * 3)} ${cell(v * 3 + 1)} ${cell(v * 3 + 2)}`)
    }
    return ways
  }
  if ('to' in by) return by.triangles
  const { width, joints, weights, targets } = by
  const skinned = numbered(new Uint32Array(joints.length / width), (v) =>
    [joints.subarray(v * width, (v + 1) * width), weights.subarray(v * width, (v + 1) * width)].join(),
  )
  return targets.reduce(
    (ways, deltas) => numbered(ways, (v) => `${deltas[v * 3]} ${deltas[v * 3 + 1]} ${deltas[v * 3 + 2]}`),
    skinned,
  )
}

/** Numbers told further apart by a key. */
function numbered(ways: Uint32Array, keyOf: (v: number) => string): Uint32Array {
  const known = new Map<string, number>()
  return ways.map((way, v) => {
    const key = `${way} ${keyOf(v)}`
    const found = known.get(key) ?? known.size
    known.set(key, found)
    return found
  })
}

/** The motion of some vertices of a file. */
export function motionOfSome(motion: MeshMotion, vertices: Uint32Array): MeshMotion {
  const some = <Column extends Float32Array | Uint32Array>(values: Column, width: number): Column => {
    const out = new (values.constructor as new (length: number) => Column)(vertices.length * width)
    vertices.forEach((v, k) => out.set(values.subarray(v * width, (v + 1) * width), k * width))
    return out
  }
  const { by } = motion
  if ('places' in by) return { ...motion, by: { places: by.places.map((one) => some(one, 3)) } }
  if ('to' in by)
    return {
      ...motion,
      by: { ...by, triangles: some(by.triangles, 1), coordinates: some(by.coordinates, 3) },
    }
  const { width } = by
  return {
    ...motion,
    by: {
      ...by,
      base: some(by.base, 3),
      joints: some(by.joints, width),
      weights: some(by.weights, width),
      targets: by.targets.map((one) => some(one, 3)),
    },
  }
}
