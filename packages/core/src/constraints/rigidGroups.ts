/** Which particles are one body of the engine: most are one each; those that bonds hold together are one with several parts. */
import { conjugate, quaternionOf, rotate, unitQuaternion, type Quaternion } from '../math/quaternion.ts'
import { add, cross, scale, subtract, vectorOf, type Vector } from '../math/vector.ts'
import { numberOfPiece, meshOfPiece } from '../scene/pieces.ts'
import type { BodyShape } from './bodyShape.ts'
import type { Bonds, Group } from './bonds.ts'
import { rapierModule } from './rapier.ts'
import { isFree, type RigidMember } from './rigidMembers.ts'
import {
  addShape,
  asQuaternion,
  asVector,
  bodyOf,
  sixesOf,
  weigh,
  type BodyMemory,
  type PartMemory,
  type Pose,
  type RigidWorld,
} from './rigidWorld.ts'

/** Contacts are foreseen so far ahead, in units: about two widths. */
const FORESEEN = 1

/** A body in a substep, with the rows of its parts. */
export interface Mover {
  memory: BodyMemory
  member: RigidMember
  bonds: Bonds | null
  rows: number[]
  /** Row of the held piece that carries it; −1: none. */
  carrier: number
  /** Its parts are other ones than before: it goes on as they say. */
  fresh: boolean
}

/** A body for each group, in an order that stays. Bodies that lose parts go on with those that are left. */
export function enlist(
  world: RigidWorld,
  all: { member: RigidMember; bonds: Bonds | null; groups: Group[] }[],
): Mover[] {
  const { memory, rapier } = world
  const claimed = new Set<Group>()
  const loads = new Map<string, Float64Array>()
  const movers: Mover[] = []
  const numbered = new Map(all.map((one) => [one.member.number, { ...one, groupOf: groupOfRows(one) }]))
  for (const body of memory.bodies) {
    const one = numbered.get(body.population)
    const group = one && mostIn(body, one)
    // what has joined others is made anew
    const parts = group ? partsIn(body, one, group) : []
    const goesOn = group && !claimed.has(group) && group.rows.length === parts.length
    if (!goesOn || group.rows.length < body.parts.length) noteLoads(body, loads)
    if (!goesOn) {
      rapier.removeRigidBody(bodyOf(world, body))
      continue
    }
    claimed.add(group)
    const fresh = parts.length < body.parts.length
    if (fresh) keepOnly(world, body, parts)
    const rows = body.parts.map(({ id }) => one.member.rows.get(id)!)
    movers.push({ memory: body, member: one.member, bonds: one.bonds, rows, carrier: group.carrier, fresh })
  }
  for (const { member, bonds, groups } of all)
    for (const group of groups)
      if (!claimed.has(group)) movers.push(newBody(world, member, bonds, group, loads))
  memory.bodies = movers.map((one) => one.memory)
  return movers
}

/** What parts of a body bear goes with them where it comes apart: its frame and theirs are turned alike. */
function noteLoads({ population, parts, loads }: BodyMemory, noted: Map<string, Float64Array>): void {
  if (loads.length > 0)
    parts.forEach(({ id }, k) => noted.set(`${population} ${id}`, loads.slice(k * 6, k * 6 + 6)))
}
function loadsOf(
  { number, ids }: RigidMember,
  rows: number[],
  noted: Map<string, Float64Array>,
): Float64Array {
  const own = rows.map((row) => noted.get(`${number} ${ids[row]!}`))
  return own.some((one) => one) ? Float64Array.from(own.flatMap((one) => [...(one ?? NO_LOAD)])) : NOTHING
}
const NO_LOAD = new Float64Array(6)
const NOTHING = new Float64Array(0)

interface Grouped {
  member: RigidMember
  groupOf: Group[]
}

function groupOfRows({ member, groups }: { member: RigidMember; groups: Group[] }): Group[] {
  const of: Group[] = new Array<Group>(member.ids.length)
  for (const group of groups) for (const row of group.rows) of[row] = group
  return of
}

/** The group to which most parts of a body belong; of as many, the first. */
function mostIn({ parts }: BodyMemory, { member, groupOf }: Grouped): Group | undefined {
  const only = parts.length === 1 ? member.rows.get(parts[0]!.id) : undefined
  if (only !== undefined) return groupOf[only]
  const counts = new Map<Group, number>()
  for (const { id } of parts) {
    const row = member.rows.get(id)
    if (row !== undefined) counts.set(groupOf[row]!, (counts.get(groupOf[row]!) ?? 0) + 1)
  }
  const most = Math.max(...counts.values())
  return [...counts].find(([, count]) => count === most)?.[0]
}

const partsIn = ({ parts }: BodyMemory, { member, groupOf }: Grouped, group: Group): PartMemory[] =>
  parts.filter(({ id }) => {
    const row = member.rows.get(id)
    return row !== undefined && groupOf[row] === group
  })

function keepOnly(world: RigidWorld, memory: BodyMemory, parts: PartMemory[]): void {
  const { rapier } = world
  const kept = new Set(parts)
  const places = memory.parts.flatMap((one, k) => (kept.has(one) ? [k] : []))
  for (const part of memory.parts)
    if (!kept.has(part))
      for (const one of part.colliders) rapier.removeCollider(rapier.getCollider(one), true)
  memory.parts = parts
  if (memory.loads.length > 0) memory.loads = sixesOf(places, memory.loads)
  memory.stress = null
  memory.lies = null
  weigh(world, bodyOf(world, memory), memory)
}

function newBody(
  world: RigidWorld,
  member: RigidMember,
  bonds: Bonds | null,
  { rows, carrier }: Group,
  noted: Map<string, Float64Array>,
): Mover {
  const { RigidBodyDesc } = rapierModule()
  const { population, columns, ids, pieces, feed } = member
  const masses = rows.map((i) => 1 / Math.max(1e-30, columns.inverseMass[i]!))
  const turned = unitQuaternion(quaternionOf(columns.orientation, rows[0]!))
  const middle = (of: (row: number) => Vector): Vector => {
    const total = masses.reduce((a, b) => a + b, 0)
    return rows.reduce((sum, row, k) => add(sum, scale(of(row), masses[k]! / total)), [0, 0, 0] as Vector)
  }
  // of pieces that are bonded, how they lie in their mesh tells it best
  const home = (row: number): Vector =>
    rows.length === 1 ? [0, 0, 0] : bonds!.meshes.get(meshOfPiece(pieces[row]!))!.masses[numberOfPiece(pieces[row]!)]!.centre // prettier-ignore
  const middleHome = middle(home)
  const place = rows.length === 1 ? vectorOf(columns.startPosition, rows[0]!) : middle((row) => vectorOf(columns.startPosition, row)) // prettier-ignore
  const { x, y, z } = asVector(place, world.memory.unit)
  const body = world.rapier.createRigidBody(
    RigidBodyDesc.kinematicPositionBased()
      // fast ones are stopped before they are in what they hit
      .setCcdEnabled(true)
      .setSoftCcdPrediction(FORESEEN)
      .setTranslation(x, y, z)
      .setRotation(asQuaternion(turned)),
  )
  const parts = rows.map((row, k) => {
    const shape = population.bodyShape(row)
    const offset = subtract(home(row), middleHome)
    const colliders = addShape(world, body, shape, offset, feed.rule).map(({ handle }) => handle)
    return { id: ids[row]!, colliders, groups: -1, offset, mass: masses[k]!, tensor: tensorOf(shape, masses[k]!), reach: shape.reach } // prettier-ignore
  })
  const memory: BodyMemory = {
    handle: body.handle,
    population: member.number,
    parts,
    centre: [0, 0, 0],
    mass: 0,
    inertia: [0, 0, 0],
    axes: [0, 0, 0, 1],
    restedUnder: [0, 0, 0],
    lies: null,
    loads: rows.length > 1 || carrier >= 0 ? loadsOf(member, rows, noted) : NOTHING,
    stress: null,
    carried: false,
    reach: 0,
    slides: 1,
  }
  weigh(world, body, memory)
  return { memory, member, bonds, rows, carrier, fresh: true }
}

/** Inertia in the frame of a shape, kg·m²: xx, yy, zz, xy, yz, zx. */
function tensorOf({ inertia, axes }: BodyShape, mass: number): number[] {
  const [x, y, z] = [rotate(axes, [1, 0, 0]), rotate(axes, [0, 1, 0]), rotate(axes, [0, 0, 1])]
  const at = (i: number, j: number): number =>
    mass * (inertia[0] * x[i]! * x[j]! + inertia[1] * y[i]! * y[j]! + inertia[2] * z[i]! * z[j]!)
  return [at(0, 0), at(1, 1), at(2, 2), at(0, 1), at(1, 2), at(2, 0)]
}

/** Whether a body moves by itself: not held, and carried by nobody. */
export const isDynamic = ({ member, rows, carrier }: Mover): boolean =>
  carrier < 0 && isFree({ member, i: rows[0]! })

/** The pose of a body's frame as its particles have it, at the start of the substep or where they are put. */
export function poseOf({ memory, member: { columns }, rows }: Mover, at: 'startPosition' | 'position'): Pose {
  const turned = unitQuaternion(quaternionOf(columns.orientation, rows[0]!))
  let place: Vector = [0, 0, 0]
  memory.parts.forEach(({ offset, mass }, k) => {
    const own = subtract(vectorOf(columns[at], rows[k]!), rotate(turned, offset))
    place = rows.length === 1 ? own : add(place, scale(own, mass / memory.mass))
  })
  return { place, turned }
}

/** Its velocity and spin as its particles have them: with their momentum and their angular momentum. */
export function motionOf(mover: Mover, turned: Quaternion): { velocity: Vector; spin: Vector } {
  const { memory, member: { columns }, rows } = mover // prettier-ignore
  const [velocities, spins] = [columns.startVelocity, columns.angularVelocity].map((of) =>
    rows.map((row) => vectorOf(of, row)),
  ) as [Vector[], Vector[]]
  if (rows.length === 1) return { velocity: velocities[0]!, spin: spins[0]! }
  const { parts, mass } = memory
  let velocity: Vector = [0, 0, 0]
  parts.forEach((one, k) => (velocity = add(velocity, scale(velocities[k]!, one.mass / mass))))
  let momentum: Vector = [0, 0, 0]
  parts.forEach((one, k) => {
    const arm = rotate(turned, subtract(one.offset, memory.centre))
    const own = rotate(turned, product(one.tensor, rotate(conjugate(turned), spins[k]!)))
    momentum = add(momentum, add(cross(arm, scale(subtract(velocities[k]!, velocity), one.mass)), own))
  })
  return { velocity, spin: turnedBy(memory, turned, momentum) }
}

/** A symmetric matrix xx, yy, zz, xy, yz, zx times a vector. */
export const product = (t: number[], [x, y, z]: Vector): Vector => [
  t[0]! * x + t[3]! * y + t[5]! * z,
  t[3]! * x + t[1]! * y + t[4]! * z,
  t[5]! * x + t[4]! * y + t[2]! * z,
]

/** The spin that an angular momentum is, or the change of spin that a torque makes, in the world. */
export function turnedBy({ axes, inertia }: Pick<BodyMemory, 'axes' | 'inertia'>, turned: Quaternion, momentum: Vector): Vector {
  const inBody = rotate(conjugate(axes), rotate(conjugate(turned), momentum))
  return rotate(turned, rotate(axes, inBody.map((l, i) => l / Math.max(inertia[i]!, 1e-300)) as Vector))
} // prettier-ignore
