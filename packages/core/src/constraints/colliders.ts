/** What particles of a population run into in a substep: the records that the kernels of assembly/colliders.ts read. */
import { layouts, type Machine } from '@tangle/kernels'
import { radians } from '../math/functions.ts'
import {
  add,
  affine,
  cross,
  inverse,
  multiply,
  scale,
  subtract,
  unit,
  vectorOf,
  type Affine,
  type Vector,
} from '../math/vector.ts'
import type { Body } from '../scene/body.ts'
import { FIELD_FROM } from '../scene/distance.ts'
import { FAR } from '../geometry/tree.ts'
import { projectToSurface, surfaceNear } from '../scene/surfaceProjection.ts'
import { MOST_COLLIDERS } from '../state/attributes.ts'
import { floats, positionsOfSome, words, type Columns } from '../state/columns.ts'
import { widestRadius } from '../state/neighbours.ts'
import type { ConstrainedPopulation, ConstraintMoment, Feed } from './constraint.ts'
import type { Collider, Colliders } from './collider.ts'
import { LIQUID } from './fluid.ts'

const { collider } = layouts

const IDENTITY = affine([0, 0, 0], [0, 0, 0], [1, 1, 1])

/** The colliders of a population as records for the kernels; null: none. Who is on a wrong side is found and led out. */
export function prepareColliders(
  population: ConstrainedPopulation,
  feeds: Feed<Collider>[],
  moment: ConstraintMoment,
): Colliders | null {
  const { heap } = moment.machine
  const acting = feeds.slice(0, MOST_COLLIDERS)
  if (acting.length === 0) return null
  // what flows neither rubs nor bounces
  const firm = population.isLiquid() ? firmOf(population, moment) : 0
  const at = heap.allocate(acting.length * collider.SIZE * layouts.F64)
  const owned: (() => void)[] = [() => heap.free(at), () => heap.free(firm), ...feeds.map(({ free }) => free)]
  acting.forEach((feed, k) => {
    updateSides(population.columns, moment, feed.rule, feed.amount, k)
    const { record, free } = recordOf(population.columns, moment, feed, firm)
    owned.push(free)
    heap.f64(at + k * collider.SIZE * layouts.F64, collider.SIZE).set(record)
  })
  const list = acting.map(({ rule }) => rule)
  return { at, count: list.length, list, free: () => owned.forEach((free) => free()) }
}

/** Pointer, f32 per particle: 0 where it is liquid, else 1. */
function firmOf(
  { columns: { count }, feeds }: ConstrainedPopulation,
  { machine: { heap } }: ConstraintMoment,
): number {
  const firm = heap.allocate(count * 4)
  const values = heap.f32(firm, count).fill(1)
  for (const { amount, free } of feeds(LIQUID)) {
    heap.f32(amount, count).forEach((one, i) => {
      if (one > 0) values[i] = 0
    })
    free()
  }
  return firm
}

function recordOf(
  columns: Columns,
  moment: ConstraintMoment,
  { rule, amount, seed, factors }: Feed<Collider>,
  firm: number,
) {
  const record = new Float64Array(collider.SIZE)
  let free = (): void => {}
  let into: Affine = IDENTITY
  let carry: Affine = IDENTITY
  if ('normal' in rule.of) {
    const { normal, from, to } = rule.of
    record.set([...normal, to], collider.normalX)
    carry = affine(normal.map((n) => n * (to - from)) as Vector, [0, 0, 0], [1, 1, 1])
  } else {
    const body = rule.of
    // a tree is fitted to one frame at a time: the start of the substep first
    const shift = body.rigid ? null : shiftOf(columns, moment, body, rule.offset)
    if (shift) {
      record[collider.shift] = shift.at
      free = shift.free
    } else if (body.moves) carry = multiply(body.placeAt(moment.to), inverse(body.placeAt(moment.from)))
    const { tree, into: map } = body.treeAt(moment.to)
    if (map) into = map
    record[collider.shape] = 1
    record.set([tree.quads, tree.vertices, tree.stack], collider.quads)
    // a field is worth its making where it is often asked
    if (columns.count >= FIELD_FROM) record[collider.field] = body.fieldAt(moment.to)
  }
  record[collider.amount] = amount
  record.set(into, collider.intoTree)
  record.set(carry, collider.carry)
  record[collider.side] = rule.side
  record.set([rule.bounce, rule.friction, rule.sliding, rule.sticky], collider.bounce)
  record[collider.deflection] = radians(rule.deflection)
  record[collider.offset] = rule.offset
  record[collider.seed] = seed
  record[collider.pushOut] = rule.out
  const [bounce, friction] = (['bounce', 'friction'] as const).map((name) => {
    const factor = factors(name)
    if (factor === 0 || firm === 0) return factor || firm
    const [values, by] = [
      moment.machine.heap.f32(factor, columns.count),
      moment.machine.heap.f32(firm, columns.count),
    ]
    values.forEach((one, i) => (values[i] = one * by[i]!))
    return factor
  }) as [number, number]
  record.set([bounce, friction, factors('sticky')], collider.bounceFactor)
  return { record, free }
}

/** How far the surface nearest to each particle goes in the substep, 3 × f32; what is out of reach is not carried along. */
function shiftOf(columns: Columns, moment: ConstraintMoment, body: Body, offset: number) {
  const { machine, from, to, h } = moment
  const { heap } = machine
  const { count, at } = columns
  const shift = heap.allocate(count * 12)
  const reach = 2 * (widestRadius(columns) + Math.abs(offset)) + body.swing(from, to)
  const near = projectToSurface(machine, body, moment, 'from', at.startPosition, count, reach)
  const [shifts, velocities] = [heap.f32(shift, count * 3), heap.f32(near.velocity, count * 3)]
  const distances = heap.f32(near.distance, count)
  for (let k = 0; k < count * 3; k++)
    shifts[k] = distances[Math.floor(k / 3)]! < reach ? velocities[k]! * h : 0
  near.free()
  return { at: shift, free: () => heap.free(shift) }
}

/**
 * Signed distances, metres, to what a collider is of: positive on the right side; the feet, and the way off there. Beyond `reach`
 * only the side is told (±1e30).
 */
export function rightSide(
  machine: Machine,
  { of, side }: Collider,
  frame: number,
  points: number,
  count: number,
  reach = FAR,
) {
  const { heap } = machine
  if ('normal' in of) {
    const { normal, from } = of
    const places = heap.f32(points, count * 3)
    const distance = Float32Array.from(
      { length: count },
      (_, i) =>
        places[i * 3]! * normal[0] + places[i * 3 + 1]! * normal[1] + places[i * 3 + 2]! * normal[2] - from,
    )
    const feet = Float32Array.from({ length: count * 3 }, (_, i) => {
      const k = Math.floor(i / 3)
      return places[i]! - normal[i % 3]! * distance[k]!
    })
    return { distance, feet, off: () => normal, velocity: (): Vector => scale(normal, 0) }
  }
  const near = surfaceNear(machine, of, frame, points, count, reach, true)
  const distance = heap.f32(near.distance, count).map((d) => d * side)
  const feet = heap.f32(near.point, count * 3).slice()
  const triangles = heap.u32(near.triangle, count).slice()
  near.free()
  const off = (n: number): Vector => scale(normalOf(of, frame, triangles[n]!), side)
  /** m/s of the surface at the foot, from a frame on. */
  const velocity = (n: number, since: number, h: number): Vector =>
    scale(subtract(middleOf(of, frame, triangles[n]!), middleOf(of, since, triangles[n]!)), 1 / h)
  return { distance, feet, off, velocity }
}

/** Unit normal of a triangle in the world. */
function normalOf(body: Body, frame: number, triangle: number): Vector {
  const [a, b, c] = cornersAt(body, frame, triangle)
  return unit(cross(subtract(b, a), subtract(c, a)))
}
function middleOf(body: Body, frame: number, triangle: number): Vector {
  const [a, b, c] = cornersAt(body, frame, triangle)
  return scale(add(a, add(b, c)), 1 / 3)
}
function cornersAt({ outward, worldView }: Body, frame: number, triangle: number): [Vector, Vector, Vector] {
  const points = worldView(frame)
  return [0, 1, 2].map((corner) => vectorOf(points, outward[triangle * 3 + corner]!)) as [Vector, Vector, Vector] // prettier-ignore
}

/** As `rightSide`; where somebody is deeper than `reach` on the wrong side, all have their whole distance. */
export function depths(
  machine: Machine,
  collider: Collider,
  frame: number,
  points: number,
  count: number,
  reach: number,
) {
  const near = rightSide(machine, collider, frame, points, count, reach)
  return near.distance.some((d) => d < -reach) ? rightSide(machine, collider, frame, points, count) : near
}

/**
 * Who is on the wrong side of a collider does not feel it; if the artist wants that, it is led out to the nearest
 * place on the surface. Sides are asked for when a particle first meets the collider, and until it is right.
 */
function updateSides(
  columns: Columns,
  moment: ConstraintMoment,
  collider: Collider,
  amount: number,
  k: number,
): void {
  const { machine, from, h } = moment
  const { heap } = machine
  const { count, at } = columns
  const [wrong, known] = [1 << k, 1 << (k + 16)]
  const rows = heap.allocate(count * 4)
  const found = machine.call('selectUnsided', { count, amount, sideFlags: at.sideFlags!, wrong, known, out: rows }) // prettier-ignore
  const asked = collider.side === 0 ? [] : [...heap.u32(rows, found)]
  heap.free(rows)
  if (asked.length === 0) return
  const flags = words(columns, 'sideFlags')
  const [startPosition, position, velocity] = [
    floats(columns, 'startPosition'),
    floats(columns, 'position'),
    floats(columns, 'velocity'),
  ]
  const radius = floats(columns, 'radius')
  const points = positionsOfSome(columns, asked, 'startPosition')
  const reach = widestRadius(columns) + Math.abs(collider.offset)
  const { distance, feet, off } = (collider.out > 0 ? depths : rightSide)(machine, collider, from, points, asked.length, reach) // prettier-ignore
  heap.free(points)
  asked.forEach((i, n) => {
    const isWrong = distance[n]! < 0
    flags[i] = (flags[i]! & ~wrong) | known | (isWrong ? wrong : 0)
    if (!isWrong || collider.out === 0) return
    const o = i * 3
    const foot: Vector = [feet[n * 3]!, feet[n * 3 + 1]!, feet[n * 3 + 2]!]
    const x: Vector = [startPosition[o]!, startPosition[o + 1]!, startPosition[o + 2]!]
    // so near to the surface the way to it is nothing but rounding
    const near = -distance[n]! < 1e-3 * radius[i]!
    const way = near ? off(n) : unit(subtract(foot, x))
    const far = radius[i]! + Math.max(0, collider.offset) - distance[n]!
    const step = Math.min(far, collider.out * h)
    if (step === far) flags[i] = flags[i]! & ~wrong
    for (let axis = 0; axis < 3; axis++) {
      position[o + axis] = x[axis]! + way[axis]! * step
      velocity[o + axis] = 0
      // out at once: from there it moves on as if it had always been there
      if (step === far) startPosition[o + axis] = position[o + axis]!
    }
    if (columns.at.startVelocity && step === far) floats(columns, 'startVelocity').fill(0, o, o + 3)
  })
}
