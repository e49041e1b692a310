/** What particles of a population run into in a substep: the records that the kernels of assembly/colliders.ts read. */
import type { Machine } from '@tangle/kernels'
import { feetOn } from '../scene/surfaceProjection.ts'
import { nearSurface } from '../scene/distance.ts'
import { radians } from '../math/functions.ts'
import {
  affine,
  cross,
  inverse,
  multiply,
  scale,
  subtract,
  unit,
  type Affine,
  type Vector,
} from '../math/vector.ts'
import { askInfluences, type ActedRun, type Asked, type Moment } from '../simulation/influencePass.ts'
import type { Body } from '../scene/bodies.ts'
import { floats, MOST_COLLIDERS, placesOfSome, words } from '../state/columns.ts'
import { widestRadius } from '../state/neighbours.ts'
import type { Collider } from './feeds.ts'

export interface Colliders {
  /** Pointer to the records, and how many. */
  at: number
  count: number
  list: Collider[]
  free(): void
}

/** Numbers in a record. */
const RECORD = 48
/** Particles from which on a field of distances is made. */
const FIELD_FROM = 1000
const IDENTITY = affine([0, 0, 0], [0, 0, 0], [1, 1, 1])

/** The colliders that act on a population now, with the influences that they are of. Free those when done. */
export function actingColliders(run: ActedRun, moment: Moment): { collider: Collider; asked: Asked }[] {
  return askInfluences(run, moment, 'collider')
    .slice(0, MOST_COLLIDERS)
    .flatMap((asked) => {
      const collider = asked.kind.collider!(asked.values, asked.substep)
      if (!collider) {
        asked.free()
        return []
      }
      // a mesh with a cover is met where the cover is
      const cover = 'shotMesh' in collider.of && moment.covers.get(collider.of.shotMesh.id)
      return [{ collider: cover ? { ...collider, of: cover.body } : collider, asked }]
    })
}

/** The same as records for the kernels; null: none. Those on the wrong side are found and led out. */
export function collidersOf(run: ActedRun, moment: Moment): Colliders | null {
  const { heap } = moment.machine
  const acting = actingColliders(run, moment)
  if (acting.length === 0) return null
  const at = heap.allocate(acting.length * RECORD * 8)
  const owned: (() => void)[] = [() => heap.free(at)]
  acting.forEach(({ collider, asked }, k) => {
    findWrong(run, moment, collider, asked.substep.amount, k)
    const { record, free } = recordOf(run, moment, collider, asked)
    owned.push(free, asked.free)
    heap.f64(at + k * RECORD * 8, RECORD).set(record)
  })
  const list = acting.map(({ collider }) => collider)
  return { at, count: list.length, list, free: () => owned.forEach((free) => free()) }
}

function recordOf(run: ActedRun, moment: Moment, collider: Collider, { substep }: Asked) {
  const { machine, from, to } = moment
  const { heap } = machine
  const record = new Float64Array(RECORD)
  const owned: (() => void)[] = []
  let into: Affine = IDENTITY
  let carry: Affine = IDENTITY
  if ('normal' in collider.of) {
    const { normal, from: before, to: after } = collider.of
    record.set([...normal, after], 39)
    carry = affine(normal.map((n) => n * (after - before)) as Vector, [0, 0, 0], [1, 1, 1])
  } else {
    const body = collider.of
    // a tree is fitted to one frame at a time: the start of the substep first
    const shift = body.deforms || !body.rigid ? shiftOf(run, moment, body) : null
    if (shift) {
      record[30] = shift.at
      owned.push(shift.free)
    } else if (body.moves) carry = multiply(body.placeAt(to), inverse(body.placeAt(from)))
    const { tree, into: map } = body.treeAt(to)
    if (map) into = map
    record.set([1, 0, tree.bounds, tree.links, tree.vertices, tree.stack])
    // a field is worth its making where it is often asked
    if (run.columns.count >= FIELD_FROM) record[47] = body.fieldAt(to)
  }
  record[1] = substep.amount
  record.set(into, 6)
  record.set(carry, 18)
  record[31] = collider.side
  record.set([collider.bounce, collider.friction, collider.sliding, collider.sticky], 32)
  record.set([radians(collider.deflection), collider.offset, substep.seed], 36)
  record[43] = collider.out
  record.set([substep.factors('bounce'), substep.factors('friction'), substep.factors('sticky')], 44)
  return { record, free: () => owned.forEach((free) => free()) }

  function shiftOf({ columns }: ActedRun, span: Moment, body: Body) {
    const { count, at } = columns
    const shift = heap.allocate(count * 12)
    const reach = 2 * (widestRadius(columns) + Math.abs(collider.offset)) + body.swing(from, to)
    const feet = feetOn(machine, body, span, 'from', at.previous, count, reach)
    const [shifts, velocities] = [heap.f32(shift, count * 3), heap.f32(feet.velocity, count * 3)]
    const distances = heap.f32(feet.distance, count)
    // what is out of reach is not carried along
    for (let k = 0; k < count * 3; k++)
      shifts[k] = distances[Math.floor(k / 3)]! < reach ? velocities[k]! * span.h : 0
    feet.free()
    return { at: shift, free: () => heap.free(shift) }
  }
}

/** Signed distances, metres, to what a collider is of: positive on the right side; the feet, and the way off there. Beyond a limit
 * only the side is told. */
export function rightSide(
  machine: Machine,
  { of, side }: Collider,
  frame: number,
  points: number,
  count: number,
  limit?: number,
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
    return { distance, feet, off: () => normal }
  }
  const near = nearSurface(machine, of, frame, points, count, true, limit)
  const { into } = of.treeAt(frame)
  if (into) {
    const map = heap.allocate(96)
    heap.f64(map, 12).set(inverse(into))
    machine.run('transformPoints', count, near.point, near.point, map)
    heap.free(map)
  }
  const distance = heap.f32(near.distance, count).map((d) => d * side)
  const feet = heap.f32(near.point, count * 3).slice()
  const triangles = heap.u32(near.triangle, count).slice()
  near.free()
  const off = (n: number): Vector => scale(normalOf(of, frame, triangles[n]!), side)
  return { distance, feet, off }
}

/** Unit normal of a triangle in the world. */
function normalOf({ mesh, worldView }: Body, frame: number, triangle: number): Vector {
  const points = worldView(frame)
  const [a, b, c] = [0, 1, 2].map((corner) => {
    const v = mesh.triangles[triangle * 3 + corner]! * 3
    return [points[v]!, points[v + 1]!, points[v + 2]!] as Vector
  }) as [Vector, Vector, Vector]
  return unit(cross(subtract(b, a), subtract(c, a)))
}

/**
 * Who is on the wrong side of a collider does not feel it; if the artist wants that, it is led out to the nearest
 * place on the surface. Sides are asked for when a particle first meets the collider, and until it is right.
 */
function findWrong(run: ActedRun, moment: Moment, collider: Collider, amount: number, k: number): void {
  const { columns } = run
  const { machine, from, h } = moment
  const { heap } = machine
  const amounts = heap.f32(amount, columns.count)
  const flags = words(columns, 'wrong')
  const [wrong, known] = [1 << k, 1 << (k + 16)]
  const asked: number[] = []
  for (let i = 0; i < columns.count; i++) {
    if (amounts[i] === 0) flags[i] = flags[i]! & ~(wrong | known)
    else if (collider.side !== 0 && (!(flags[i]! & known) || flags[i]! & wrong)) asked.push(i)
  }
  if (asked.length === 0) return
  const [previous, position, velocity] = [
    floats(columns, 'previous'),
    floats(columns, 'position'),
    floats(columns, 'velocity'),
  ]
  const radius = floats(columns, 'radius')
  const points = placesOfSome(columns, asked, 'previous')
  const { distance, feet, off } = rightSide(machine, collider, from, points, asked.length)
  heap.free(points)
  asked.forEach((i, n) => {
    const isWrong = distance[n]! < 0
    flags[i] = (flags[i]! & ~wrong) | known | (isWrong ? wrong : 0)
    if (!isWrong || collider.out === 0) return
    const o = i * 3
    const foot: Vector = [feet[n * 3]!, feet[n * 3 + 1]!, feet[n * 3 + 2]!]
    const x: Vector = [previous[o]!, previous[o + 1]!, previous[o + 2]!]
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
      if (step === far) previous[o + axis] = position[o + axis]!
    }
    if (columns.at.before && step === far) floats(columns, 'before').fill(0, o, o + 3)
  })
}
