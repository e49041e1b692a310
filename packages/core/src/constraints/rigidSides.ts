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

/** Puts bodies back whose parts have come through a mesh with their middles in this substep. */
export function keepOnSide(world: RigidWorld, movers: Mover[], moment: ConstraintMoment): void {
  const awake = movers.filter((one) => isDynamic(one) && !bodyOf(world, one.memory).isSleeping())
  const members = new Set(awake.map(({ member }) => member))
  for (const member of members)
    for (const hit of member.hits) if (!('normal' in hit.collider.of)) putBack(member, hit, awake, moment)
}

function putBack(member: RigidMember, { amount, collider }: Hit, movers: Mover[], moment: ConstraintMoment): void {
  const { columns } = member
  const own = movers.filter((one) => one.member === member)
  const parts = own.flatMap((mover) => mover.rows.flatMap((row) => (amount[row]! > 0 ? [{ mover, row }] : [])))
  const reach = Math.max(0, ...own.map(({ memory }) => memory.reach))
  const places = (of: typeof parts, name: 'position' | 'startPosition') => of.map(({ row }) => vectorOf(columns[name], row)) // prettier-ignore
  const now = sidesOf(collider, places(parts, 'position'), moment.to, reach, moment)
  const beyond = parts.filter((_, n) => (collider.side === 0 ? now[n]!.side !== 0 : now[n]!.side < 0))
  if (beyond.length === 0) return
  const before = sidesOf(collider, places(beyond, 'startPosition'), moment.from, reach, moment)
  beyond.forEach(({ mover, row }, n) => {
    const at = now[parts.findIndex((one) => one.row === row)]!
    const came = before[n]!.side
    if (at.side * came >= 0) return
    const off = scale(at.off, Math.sign(came))
    moveOff(mover, row, at.foot, off, at.velocity())
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

/** Moves a body until a part of it stands on a place, and lets it come no nearer. */
function moveOff(mover: Mover, row: number, foot: Vector, off: Vector, surface: Vector): void {
  const { member, rows, memory } = mover
  const { columns, population } = member
  const [place, turned] = [vectorOf(columns.position, row), quaternionOf(columns.orientation, row)]
  const { hulls, reach } = population.bodyShape(row)
  const points = hulls.flatMap((one) => Array.from({ length: one.length / 3 }, (_, k) => vectorOf(one, k)))
  const deepest = points.reduce((least, p) => Math.min(least, dot(rotate(turned, p), off)), hulls.length > 0 ? 0 : -reach) // prettier-ignore
  const lift = Math.min(2 * memory.reach, dot(subtract(foot, place), off) - deepest)
  const sinking = Math.min(0, dot(subtract(vectorOf(columns.velocity, row), surface), off))
  for (const one of rows) {
    writeVector(columns.position, one, add(vectorOf(columns.position, one), scale(off, Math.max(0, lift))))
    writeVector(columns.velocity, one, add(vectorOf(columns.velocity, one), scale(off, -sinking)))
  }
}
