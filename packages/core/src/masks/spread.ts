import type { Machine } from '@tangle/kernels'
import { nearSurface } from '../geometry/distance.ts'
import { march } from '../geometry/march.ts'
import { buildTree, closestPoints, freeTree } from '../geometry/tree.ts'
import { power2 } from '../math/functions.ts'
import { TABLE_BYTES, writeGradients } from '../math/gradients.ts'
import { inverse, transform, unit, type Vector } from '../math/vector.ts'
import { integralOf } from '../shot/keys.ts'
import { number, origin, type Keyed, type Origin } from '../shot/parameters.ts'
import type { Body } from '../solver/bodies.ts'
import { mask, ON_MESH, type MaskContext } from './kind.ts'

const OCTAVES = 3
/** A front from a line, as far as the mesh can tell: its source lies so many diagonals behind. */
const FAR = 1000
/** Arrival where the front never comes, metres: finite, as values are mixed within triangles. */
const NEVER = 1e30

/**
 * A front that grows over a mesh. Each vertex has an arrival, the length of the shortest way from the
 * origin over the surface with noise-made slowness (geometry/march.ts); at time t the front has come
 * F(t) = ∫ speed dt, and the mask is (F − arrival)/soft + ½ cut to 0…1. So any frame can be asked at once.
 * In a mesh of several pieces the front jumps to the next one straight across the gap.
 */
export const spread = mask({
  kind: 'spread',
  label: 'Spread',
  glyph: '◔',
  help: 'A front that grows over a mesh from one place outward',
  source: 'Kimmel, Sethian, "Computing geodesic paths on manifolds" (1998)',
  parameters: {
    mesh: ON_MESH,
    from: origin({
      label: 'From',
      help: 'Where the front starts',
      default: { ball: [0, 1, 0], radius: 0.1 },
    }),
    start: number({
      label: 'Start',
      unit: 'frames',
      help: 'The frame at which it starts',
      default: 1,
      range: [-1e6, 1e6],
      usual: [1, 240],
      step: 1,
    }),
    speed: number({
      label: 'Speed',
      unit: 'm/s',
      help: 'How fast the front grows',
      default: 0.5,
      range: [0, 1e5],
      usual: [0, 5],
      step: 0.01,
      keyable: true,
    }),
    ragged: number({
      label: 'Ragged',
      unit: '×',
      help: 'How uneven noise makes the speed: 1 is from a quarter to four times',
      default: 0.4,
      range: [0, 4],
      usual: [0, 1],
      step: 0.01,
    }),
    raggedScale: number({
      label: 'Ragged scale',
      unit: 'm',
      help: 'Size of the fast and slow patches',
      default: 0.5,
      range: [0.001, 1e5],
      usual: [0.05, 5],
      step: 0.01,
    }),
    soft: number({
      label: 'Soft',
      unit: 'm',
      help: 'Width of the edge',
      default: 0.1,
      range: [0, 1e5],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
    }),
  },
  inputs: { ragged: 0 },
  write(values, places, out, context) {
    const body = context.body(values.mesh)
    const { machine } = context
    const count = body.mesh.positions.length / 3
    const arrival = context.keep('arrival', count * 4, (p) =>
      machine.heap.f32(p, count).set(arrivalOf(body, values, context)),
    )
    const reach = reachOf(context.written.speed as Keyed, values.start, places.frame, context.rate)
    const heap = machine.heap
    const at = heap.allocate(places.count * 4)
    context.sample(body, places, arrival, at)
    machine.run('maskArrival', places.count, at, out, reach, values.soft)
    heap.free(at)
  },
})

/** How far the front has come, metres; below 0 before it starts, so that nothing shows. */
function reachOf(speed: Keyed, start: number, frame: number, rate: number): number {
  return frame < start ? -1e30 : integralOf(speed, start, frame) / rate
}

interface Settings {
  from: Origin
  ragged: number
  raggedScale: number
}
const known = new WeakMap<Float32Array, Map<string, Float32Array>>()

/** Arrival per vertex, metres of way at the speed 1. Kept as long as the mesh is. */
export function arrivalOf(body: Body, settings: Settings, context: MaskContext): Float32Array {
  const { from, ragged, raggedScale } = settings
  const { mesh } = body
  const size = body.sizeAt(context.first)
  const place = body.placeAt(context.first)
  const seeds = 'mask' in from ? [...seedValues(body, from.mask, context)] : null
  const key = JSON.stringify([from, ragged, raggedScale, [...place], context.seed, seeds && hash(seeds)])
  const kept = known.get(mesh.positions) ?? new Map<string, Float32Array>()
  known.set(mesh.positions, kept)
  const found = kept.get(key)
  if (found) return found
  const points = mesh.positions.map((x, i) => x * size[i % 3]!)
  const slowness = slownessOf(context, points, ragged, raggedScale)
  const arrival = Float32Array.from(spreadOver(body, points, slowness, from, seeds, context))
  if (kept.size > 8) kept.clear()
  kept.set(key, arrival)
  return arrival
}

const hash = (values: number[]): number =>
  values.reduce((h, v) => (Math.imul(h, 31) + Math.round(v * 65535)) | 0, 7)

function seedValues(body: Body, id: string, context: MaskContext): Float32Array {
  const { heap } = context.machine
  const count = body.mesh.positions.length / 3
  const out = heap.allocate(count * 4)
  const { first } = context
  const positions = body.worldAt(first)
  context.write(id, { count, positions, frame: first, verticesOf: body.shotMesh.id }, out)
  const values = heap.f32(out, count).slice()
  heap.free(out)
  return values
}

/** 2^(2·ragged·n): from a quarter to four times for noise of ±1 at 1. */
function slownessOf(
  { machine, seed }: MaskContext,
  points: Float32Array,
  ragged: number,
  scale: number,
): Float32Array {
  const count = points.length / 3
  const slowness = new Float32Array(count).fill(1)
  if (ragged === 0) return slowness
  const { heap } = machine
  const [input, output, tables] = [count * 12, count * 4, TABLE_BYTES * OCTAVES].map((b) =>
    heap.allocate(b),
  ) as [number, number, number]
  heap.f32(input, points.length).set(points)
  for (let o = 0; o < OCTAVES; o++) writeGradients(heap, tables + o * TABLE_BYTES, seed + o, 0)
  machine.run('noiseAt', count, input, output, tables, TABLE_BYTES, OCTAVES, 1 / scale)
  const noise = heap.f32(output, count)
  for (let v = 0; v < count; v++) slowness[v] = power2(2 * ragged * Math.min(1, Math.max(-1, noise[v]!)))
  for (const pointer of [input, output, tables]) heap.free(pointer)
  return slowness
}

function spreadOver(
  body: Body,
  points: Float32Array,
  slowness: Float32Array,
  from: Origin,
  seeds: number[] | null,
  context: MaskContext,
): Float64Array {
  const { mesh } = body
  const { machine } = context
  const arrival = new Float64Array(points.length / 3).fill(Infinity)
  const far = FAR * Math.sqrt(squaredSize(points))
  // the way counts from the virtual source: a point has it at 0, a line far behind
  let behind = far
  if ('plane' in from) startAtPlane(body, points, slowness, from, far, arrival, context)
  else if (seeds) seeds.forEach((value, v) => value >= 0.5 && (arrival[v] = far))
  else {
    const balls = 'ball' in from ? [from.ball] : (from as { points: Vector[] }).points
    const radius = 'ball' in from ? from.radius : 0
    for (const centre of balls) behind = startAtBall(body, points, slowness, centre, radius, arrival, context)
  }
  const starts = [...arrival.keys()].filter((v) => arrival[v]! < Infinity)
  if (starts.length === 0) return arrival.fill(NEVER)
  march(mesh, points, slowness, arrival, starts)
  bridge(machine, body, points, slowness, arrival)
  return arrival.map((a) => Math.min(Math.max(0, a - behind), NEVER))
}

function squaredSize(points: Float32Array): number {
  const low = [Infinity, Infinity, Infinity]
  const high = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < points.length; i++) {
    low[i % 3] = Math.min(low[i % 3]!, points[i]!)
    high[i % 3] = Math.max(high[i % 3]!, points[i]!)
  }
  return low.reduce((sum, l, axis) => sum + (high[axis]! - l) ** 2, 0)
}

/**
 * A ball's circle on the surface, or the surface point nearest to it where it holds no vertex. Vertices of
 * triangles that the ball meets get their distance from its centre. Returns the way at the circle.
 */
function startAtBall(
  body: Body,
  points: Float32Array,
  slowness: Float32Array,
  centre: Vector,
  radius: number,
  arrival: Float64Array,
  context: MaskContext,
): number {
  const { mesh } = body
  const middle = inOwnSize(body, centre, context)
  const distanceTo = (c: Vector, v: number): number => {
    const [x, y, z] = [0, 1, 2].map((axis) => points[v * 3 + axis]! - c[axis]!) as Vector
    return Math.sqrt(x * x + y * y + z * z)
  }
  const start = (v: number, distance: number, free = radius): void => {
    const at = distance <= free ? distance : free + (distance - free) * slowness[v]!
    arrival[v] = Math.min(arrival[v]!, at)
  }
  let met = false
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const corners = [0, 1, 2].map((k) => mesh.triangles[t + k]!)
    const distances = corners.map((v) => distanceTo(middle, v))
    if (Math.min(...distances) > radius) continue
    met = true
    corners.forEach((v, k) => start(v, distances[k]!))
  }
  if (met) return radius
  const { machine, first } = context
  const { heap } = machine
  const query = heap.allocate(12)
  heap.f32(query, 3).set(centre)
  const near = nearSurface(machine, body, first, query, 1, false)
  const triangle = heap.u32(near.triangle, 1)[0]!
  near.free()
  heap.free(query)
  const foot = footOn(points, mesh.triangles, triangle, middle)
  for (let k = 0; k < 3; k++) {
    const v = mesh.triangles[triangle * 3 + k]!
    start(v, distanceTo(foot, v), 0)
  }
  return 0
}

/** A world point at the first frame, in the mesh's own frame and world size. */
function inOwnSize(body: Body, point: Vector, { first }: MaskContext): Vector {
  const size = body.sizeAt(first)
  const local = transform(inverse(body.placeAt(first)), point)
  return local.map((x, axis) => x * size[axis]!) as Vector
}

/** The point of a triangle's plane below a point; near enough for where a front starts. */
function footOn(points: Float32Array, triangles: Uint32Array, t: number, p: Vector): Vector {
  const at = (k: number): Vector => {
    const v = triangles[t * 3 + k]! * 3
    return [points[v]!, points[v + 1]!, points[v + 2]!]
  }
  const a = at(0)
  const n = unit(normalOf(a, at(1), at(2)))
  const height = n[0] * (p[0] - a[0]) + n[1] * (p[1] - a[1]) + n[2] * (p[2] - a[2])
  return [p[0] - n[0] * height, p[1] - n[1] * height, p[2] - n[2] * height]
}
const normalOf = (a: Vector, b: Vector, c: Vector): Vector => {
  const [u, v] = [b, c].map((q) => [q[0] - a[0], q[1] - a[1], q[2] - a[2]]) as [Vector, Vector]
  return [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]]
}

/** Behind the plane all is reached; in triangles that it cuts, the way is measured within the triangle. */
function startAtPlane(
  body: Body,
  points: Float32Array,
  slowness: Float32Array,
  { plane, normal }: { plane: Vector; normal: Vector },
  far: number,
  arrival: Float64Array,
  context: MaskContext,
): void {
  const { mesh } = body
  const middle = inOwnSize(body, plane, context)
  const ahead = inOwnSize(body, plane.map((x, axis) => x + unit(normal)[axis]!) as Vector, context)
  const n = unit(ahead.map((x, axis) => x - middle[axis]!) as Vector)
  const height = (v: number): number =>
    n.reduce((sum, component, axis) => sum + component * (points[v * 3 + axis]! - middle[axis]!), 0)
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const corners = [0, 1, 2].map((k) => mesh.triangles[t + k]!)
    const heights = corners.map(height)
    if (Math.min(...heights) > 0) continue
    const at = (k: number): Vector => [0, 1, 2].map((axis) => points[corners[k]! * 3 + axis]!) as Vector
    const facing = unit(normalOf(at(0), at(1), at(2)))
    const along = n[0] * facing[0] + n[1] * facing[1] + n[2] * facing[2]
    const slope = Math.sqrt(Math.max(1e-6, 1 - along * along))
    corners.forEach((v, k) => {
      const way = Math.max(0, heights[k]! / slope) * slowness[v]!
      arrival[v] = Math.min(arrival[v]!, far + way)
    })
  }
}

/**
 * Lets the front jump to pieces that it cannot reach, straight across the gap: the nearest pieces first, as
 * farther ones may be reached from them.
 */
function bridge(
  machine: Machine,
  body: Body,
  points: Float32Array,
  slowness: Float32Array,
  arrival: Float64Array,
): void {
  const { triangles } = body.mesh
  const near = 0.02 * Math.sqrt(squaredSize(points))
  for (;;) {
    const reached = triangles.filter((_, k) => arrival[triangles[k - (k % 3)]!]! < Infinity)
    // vertices that touch no triangle are never reached and need not be
    const missing = [...new Set(triangles)].filter((v) => arrival[v] === Infinity)
    if (missing.length === 0 || reached.length === 0) return
    const tree = buildTree(machine.heap, { positions: points, triangles: reached })
    const queries = Float32Array.from(missing.flatMap((v) => [0, 1, 2].map((axis) => points[v * 3 + axis]!)))
    const closest = closestPoints(machine, tree, queries)
    freeTree(machine.heap, tree)
    const reach = Math.max(
      near,
      closest.distances.reduce((a, b) => (a < b ? a : b)),
    )
    const starts: number[] = []
    missing.forEach((v, i) => {
      // only what lies at the gap is jumped to: the rest is reached over the surface
      if (closest.distances[i]! > reach) return
      const corners = [0, 1, 2].map((k) => reached[closest.triangles[i]! * 3 + k]!)
      const there = Math.min(...corners.map((w) => arrival[w]! + edge(points, w, closest.points, i)))
      arrival[v] = there + closest.distances[i]! * slowness[v]!
      starts.push(v)
    })
    march(body.mesh, points, slowness, arrival, starts)
  }
}

function edge(points: Float32Array, v: number, near: Float32Array, i: number): number {
  let squared = 0
  for (let axis = 0; axis < 3; axis++) squared += (points[v * 3 + axis]! - near[i * 3 + axis]!) ** 2
  return Math.sqrt(squared)
}
