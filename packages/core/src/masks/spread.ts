import { march } from '../geometry/march.ts'
import { power2 } from '../math/functions.ts'
import { TABLE_BYTES, writeGradients } from '../math/gradients.ts'
import type { Vector } from '../math/vector.ts'
import { integralOf } from '../document/keys.ts'
import { number, origin, type Keyed, type Origin } from '../document/parameters.ts'
import type { Body } from '../scene/body.ts'
import { bridge } from './bridge.ts'
import { sizeOf, startAtBall, startAtPlane, type Ground } from './ground.ts'
import { mask, ON_MESH, type MaskContext } from './mask.ts'

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
  pitfall:
    'It never gets to the end: its speed times the length of the shot is how far it comes. It leaps: the mesh is too coarse, refine it.',
  source: 'Kimmel, Sethian, "Computing geodesic paths on manifolds" (1998)',
  onSurface: true,
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
      moment: true,
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
    context.sample(body, places, [arrival], [at])
    machine.run('maskArrival', places.count, { arrival: at, out, reach, soft: values.soft })
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
  const place = body.placeAt(context.first)
  const seeds = 'mask' in from ? [...seedValues(body, from.mask, context)] : null
  const key = JSON.stringify([from, ragged, raggedScale, [...place], context.seed, seeds && hash(seeds)])
  const kept = known.get(mesh.positions) ?? new Map<string, Float32Array>()
  known.set(mesh.positions, kept)
  const found = kept.get(key)
  if (found) return found
  const points = body.sizedAt(context.first)
  const slowness = slownessOf(context, points, ragged, raggedScale)
  const arrival = new Float64Array(points.length / 3).fill(Infinity)
  const ways = Float32Array.from(spreadOver({ body, points, slowness, arrival, context }, from, seeds))
  if (kept.size > 8) kept.clear()
  kept.set(key, ways)
  return ways
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
  machine.run('noiseAt', count, {
    points: input,
    out: output,
    tables,
    tableBytes: TABLE_BYTES,
    octaves: OCTAVES,
    frequency: 1 / scale,
  })
  const noise = heap.f32(output, count)
  for (let v = 0; v < count; v++) slowness[v] = power2(2 * ragged * Math.min(1, Math.max(-1, noise[v]!)))
  for (const pointer of [input, output, tables]) heap.free(pointer)
  return slowness
}

function spreadOver(ground: Ground, from: Origin, seeds: number[] | null): Float64Array {
  const { body, points, slowness, arrival } = ground
  const far = FAR * sizeOf(points)
  // the way counts from the virtual source: a point has it at 0, a line far behind
  let behind = far
  if ('plane' in from) startAtPlane(ground, from, far)
  else if (seeds) seeds.forEach((value, v) => value >= 0.5 && (arrival[v] = far))
  else {
    const balls = 'ball' in from ? [from.ball] : (from as { points: Vector[] }).points
    const radius = 'ball' in from ? from.radius : 0
    for (const centre of balls) behind = startAtBall(ground, centre, radius)
  }
  const starts = [...arrival.keys()].filter((v) => arrival[v]! < Infinity)
  if (starts.length === 0) return arrival.fill(NEVER)
  march(body.mesh, points, slowness, arrival, starts)
  bridge(ground)
  return arrival.map((a) => Math.min(Math.max(0, a - behind), NEVER))
}
