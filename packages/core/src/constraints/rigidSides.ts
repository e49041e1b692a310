/** Bodies stay on their side of meshes: the engine lets one in some hundred wedges slip through a triangle when others press on it. */
import { quaternionOf, rotate } from '../math/quaternion.ts'
import { add, dot, scale, subtract, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import type { Collider } from './collider.ts'
import { rightSide } from './colliders.ts'
import type { ConstraintMoment } from './constraint.ts'
import { isDynamic, type Mover } from './rigidGroups.ts'
import type { Hit, RigidMember } from './rigidMembers.ts'
import { bodyOf, type RigidWorld } from './rigidWorld.ts'

/** Feet so far to the side are on the rim of a sheet, around which bodies may go. */
const UPRIGHT = 0.7

/** Puts bodies back that have come through a mesh in this substep with the middle of one of their hulls: a ring may well lie about a post. */
export function keepOnSide(world: RigidWorld, movers: Mover[], moment: ConstraintMoment): void {
  const awake = movers.filter((one) => isDynamic(one) && !bodyOf(world, one.memory).isSleeping())
  const members = new Set(awake.map(({ member }) => member))
  for (const member of members)
    for (const hit of member.hits) if (!('normal' in hit.collider.of)) putBack(member, hit, awake, moment)
}

/** A hull of a body, turned as it is now: its points from its middle, and that from the centre of its part. */
interface Hull {
  mover: Mover
  row: number
  arm: Vector
  points: Vector[]
}

function hullsOf(mover: Mover, row: number): Hull[] {
  const { columns, population } = mover.member
  const { hulls, reach } = population.bodyShape(row)
  const turned = quaternionOf(columns.orientation, row)
  if (hulls.length === 0) return [{ mover, row, arm: NOWHERE, points: ballPoints(reach) }]
  return hulls.map((own) => {
    const points = Array.from({ length: own.length / 3 }, (_, k) => rotate(turned, vectorOf(own, k)))
    const arm = scale(
      points.reduce((sum, p) => add(sum, p), NOWHERE),
      1 / points.length,
    )
    return { mover, row, arm, points: points.map((p) => subtract(p, arm)) }
  })
}
const ballPoints = (r: number): Vector[] => [[r, 0, 0], [-r, 0, 0], [0, r, 0], [0, -r, 0], [0, 0, r], [0, 0, -r]] // prettier-ignore

function putBack(member: RigidMember, { amount, collider }: Hit, movers: Mover[], moment: ConstraintMoment): void {
  const { columns } = member
  const own = movers.filter((one) => one.member === member)
  const hulls = own.flatMap((mover) => mover.rows.flatMap((row) => (amount[row]! > 0 ? hullsOf(mover, row) : [])))
  const reach = Math.max(0, ...own.map(({ memory }) => memory.reach))
  const places = (of: Hull[], name: 'position' | 'startPosition') => of.map(({ row, arm }) => add(vectorOf(columns[name], row), arm)) // prettier-ignore
  const now = sidesOf(collider, places(hulls, 'position'), moment.to, reach, moment)
  const beyond = [...hulls.keys()].filter((n) => (collider.side === 0 ? now[n]!.side !== 0 : now[n]!.side < 0))
  if (beyond.length === 0) return
  const before = sidesOf(collider, places(beyond.map((n) => hulls[n]!), 'startPosition'), moment.from, reach, moment)
  beyond.forEach((n, k) => {
    const [at, came] = [now[n]!, before[k]!.side]
    if (at.side * came < 0) moveOff(hulls[n]!, at.foot, scale(at.off, Math.sign(came)), at.velocity())
  })
} // prettier-ignore

/** Where places are to a mesh: how far off on the right side (of a sheet, on that of its normals; 0: beside it), the foot, the way off. */
function sidesOf(collider: Collider, places: Vector[], frame: number, reach: number, { machine, from, h }: ConstraintMoment) {
  const points = machine.heap.allocate(Math.max(1, places.length) * 12)
  machine.heap.f32(points, places.length * 3).set(places.flat())
  const sheet = collider.side === 0
  const found = rightSide(machine, sheet ? { ...collider, side: 1 } : collider, frame, points, places.length, reach) // prettier-ignore
  machine.heap.free(points)
  return places.map((place, n) => {
    const distance = found.distance[n]!
    const far = Math.abs(distance) > reach
    const [foot, off] = [vectorOf(found.feet, n), far ? NOWHERE : found.off(n)]
    const height = dot(subtract(place, foot), off)
    const side = !sheet ? distance : far || Math.abs(height) < UPRIGHT * Math.abs(distance) ? 0 : height
    return { side, foot, off, velocity: () => found.velocity(n, from, h) }
  })
} // prettier-ignore
const NOWHERE: Vector = [0, 0, 0]

/** Moves a body until a hull of it stands on a place, and lets it come no nearer. */
function moveOff({ mover, row, arm, points }: Hull, foot: Vector, off: Vector, surface: Vector): void {
  const { member, rows, memory } = mover
  const { columns } = member
  const deepest = points.reduce((least, p) => Math.min(least, dot(p, off)), 0)
  const middle = add(vectorOf(columns.position, row), arm)
  const lift = Math.min(2 * memory.reach, dot(subtract(foot, middle), off) - deepest)
  const sinking = Math.min(0, dot(subtract(vectorOf(columns.velocity, row), surface), off))
  for (const one of rows) {
    writeVector(columns.position, one, add(vectorOf(columns.position, one), scale(off, Math.max(0, lift))))
    writeVector(columns.velocity, one, add(vectorOf(columns.velocity, one), scale(off, -sinking)))
  }
}
