/**
 * Rigid bodies: particles that have a shape, a mass and an orientation. Forces of influences act on them as on all particles; what touches
 * is solved by Rapier; who touches nothing flies and turns by equations of our own, exactly for even forces (math/freeTop.ts).
 */
import type { RigidBody } from '@dimforge/rapier3d-deterministic-compat'
import { quaternionOf, rotate, unitQuaternion, type Quaternion } from '../math/quaternion.ts'
import { add, cross, dot, length, scale, subtract, vectorOf, type Vector } from '../math/vector.ts'
import { meshOfPiece, numberOfPiece } from '../scene/pieces.ts'
import { breakUnderLoad, showBonds } from './bondBreaking.ts'
import { actBonds, endsFrame, groupsOf, type Bonds } from './bonds.ts'
import type { ConstrainedPopulation, ConstraintMoment, Memory } from './constraint.ts'
import { rapierModule } from './rapier.ts'
import { addImpulses, type Impulses, type Touch } from './rigidContacts.ts'
import { chooseFriction } from './rigidFriction.ts'
import { enlist, isDynamic, motionOf, poseOf, type Mover } from './rigidGroups.ts'
import { RIGID_BODIES, WORLDS } from './rigidKind.ts'
import { rigidMembers, type RigidMember } from './rigidMembers.ts'
import { moveObstacles, placeObstacles, putObstacles } from './rigidObstacles.ts'
import { keepOnSide } from './rigidSides.ts'
import { readBack, type Driven } from './rigidResults.ts'
import {
  asQuaternion,
  asVector,
  bodyOf,
  createRigidWorld,
  fromQuaternion,
  groupsOf as collisionGroups,
  PARTICLES,
  placeOf,
  restoreRigidWorld,
  setPose,
  setSpin,
  setVelocity,
  spinOf,
  velocityOf,
  type BodyMemory,
  type Pose,
  type RigidMemory,
  type RigidWorld,
} from './rigidWorld.ts'

/** Forces that differ by less than this share do not wake a sleeper. */
const SAME_FORCE = 0.02

/** Longest step of the engine, in its time; small bodies take several in a substep. */
const LONGEST = 0.0215
/** Fewest small steps of the engine's solver in a substep. */
const LEAST_ITERATIONS = 4

/** One substep of all rigid bodies. */
export function stepRigidBodies(
  populations: ConstrainedPopulation[],
  memory: Memory,
  moment: ConstraintMoment,
): void {
  const members = rigidMembers(populations, moment.machine)
  if (members.length === 0) return
  if (!members.some(isAnyFree)) return rest(members, memory, moment)
  const world = worldFor(memory, members)
  const obstacles = placeObstacles(world, members, moment)
  const all = members.map((member) => grouped(world, member, memory, moment))
  const movers = enlist(world, all)
  if (world.memory.rested) {
    putObstacles(world, obstacles)
    for (const mover of movers)
      if (!isDynamic(mover)) setPose(world, bodyOf(world, mover.memory), poseOf(mover, 'startPosition'), true)
    world.memory.rested = false
  }
  const { rapier } = world
  const time = moment.h * world.memory.pace
  const steps = Math.ceil(time / LONGEST)
  const moving = movers.map((mover) => drive(world, mover, moment))
  rapier.timestep = time / steps
  rapier.integrationParameters.numSolverIterations = Math.max(LEAST_ITERATIONS, moment.iterations)
  for (let n = 1; n <= steps; n++) {
    moveObstacles(world, obstacles, n / steps)
    for (const { mover, driven } of moving) movePut(world, mover, driven, n / steps)
    rapier.step()
    for (const one of moving)
      if (one.impulses) one.touches = addImpulses(world, one.mover.memory, one.impulses)
  }
  for (const one of moving) readBack(world, one, moment)
  keepOnSide(world, movers, moment)
  chooseFriction(world, movers, new Map(obstacles.map(({ handle, collider }) => [handle, collider])), moment)
  breakUnderLoad(world, moving, moment)
  for (const { bonds } of all) if (bonds) showBonds(bonds)
  for (const { feed } of members) feed.free()
}

const isAnyFree = ({ amount }: RigidMember): boolean => amount.some((x) => x > 0)

/** Where nobody is free the engine has nothing to do: all are where they are put. Bonds may still be cut, or part. */
function rest(members: RigidMember[], memory: Memory, moment: ConstraintMoment): void {
  const told = memory[RIGID_BODIES.name] as RigidMemory | undefined
  if (told) told.rested = true
  for (const body of told?.bodies ?? []) body.carried = false
  for (const member of members) {
    member.columns.contactNormal.fill(0)
    const bonds = actBonds(member, () => false, memory, moment)
    if (bonds && endsFrame(moment)) showBonds(bonds)
    member.feed.free()
  }
}

/** A body in a substep: what drives it, and what contacts do to its parts where bonds have to bear that. */
export interface Moving {
  mover: Mover
  driven: Driven
  impulses: Impulses | null
  /** Where it touches what the engine tells no impulses of. */
  touches: Touch[]
  /** How it was as the substep began, and what velocity forces have given each part since then. */
  before: { velocity: Vector; spin: Vector }
  turned: Quaternion
  gained: Vector[]
  /** Whether a held piece carried it in the last substep, too. */
  wasCarried: boolean
}

/** The particles of a member that are one body. */
function grouped(world: RigidWorld, member: RigidMember, memory: Memory, moment: ConstraintMoment) {
  const bodyOfRow = new Int32Array(member.ids.length).fill(-1)
  for (const { population, parts, handle } of world.memory.bodies)
    if (population === member.number && parts.length > 1)
      for (const { id } of parts) {
        const row = member.rows.get(id)
        if (row !== undefined) bodyOfRow[row] = handle
      }
  const together = (a: number, b: number): boolean => bodyOfRow[a] !== -1 && bodyOfRow[a] === bodyOfRow[b]
  const bonds = actBonds(member, together, memory, moment)
  return { member, bonds, groups: groupsOf(member, bonds, moment) }
}

function worldFor(memory: Memory, members: RigidMember[]): RigidWorld {
  const known = WORLDS.get(memory)
  if (known) return known
  const kept = memory[RIGID_BODIES.name] as RigidMemory | undefined
  const world = kept
    ? restoreRigidWorld(kept)
    : createRigidWorld(2 * median(members, 'radius'), 1 / median(members, 'inverseMass'))
  memory[RIGID_BODIES.name] = world.memory
  WORLDS.set(memory, world)
  return world
}

function median(members: RigidMember[], name: 'radius' | 'inverseMass'): number {
  const all = members.flatMap(({ columns }) => [...columns[name]])
  return all.sort((a, b) => a - b)[all.length >> 1] ?? 1
}

/** Prepares a body for the step: puts it where it is held, or hands on the force on it. */
function drive(world: RigidWorld, mover: Mover, { h }: ConstraintMoment): Moving {
  const { RigidBodyType } = rapierModule()
  const { memory, member: { columns }, rows, bonds, carrier } = mover // prettier-ignore
  const { unit, heft, pace } = world.memory
  const body = bodyOf(world, memory)
  setCollisions(world, mover)
  if (isDynamic(mover) && isLeftAlone(mover, h) && body.isSleeping())
    return { mover, driven: ASLEEP, impulses: null, touches: [], before: AT_REST, turned: memory.lies!.turned, gained: [], wasCarried: false } // prettier-ignore
  const start = poseOf(mover, 'startPosition')
  const bonded = bonds !== null && (rows.length > 1 || carrier >= 0)
  const moving: Moving = {
    mover,
    driven: ASLEEP,
    impulses: bonded ? new Float64Array(rows.length * 6) : null,
    touches: [],
    before: AT_REST,
    turned: start.turned,
    gained: rows.map((row) =>
      subtract(vectorOf(columns.velocity, row), vectorOf(columns.startVelocity, row)),
    ),
    wasCarried: memory.carried,
  }
  if (!isDynamic(mover)) {
    if (body.isDynamic()) body.setBodyType(RigidBodyType.KinematicPositionBased, true)
    const from = { place: placeOf(world, body), turned: fromQuaternion(body.rotation()) }
    const held = carrier < 0 ? poseOf(mover, 'position') : carriedPose(mover, bonds!)
    if (bonded) moving.before = motionOf(mover, start.turned)
    moving.driven = { held, from, carried: carrier >= 0 }
    return moving
  }
  if (!body.isDynamic()) body.setBodyType(RigidBodyType.Dynamic, true)
  const { velocity, spin } = follow(world, body, mover, start)
  moving.before = { velocity, spin }
  const { acceleration, torque } = actingOn(mover, moving, h)
  if (body.isSleeping()) {
    if (isSameForce(memory, acceleration)) return moving
    body.wakeUp()
  }
  body.resetForces(false)
  body.resetTorques(false)
  body.addForce(asVector(acceleration, (heft * memory.mass * unit) / (pace * pace)), false)
  if (dot(torque, torque) > 0) body.addTorque(asVector(torque, (heft * unit * unit) / (pace * pace)), false)
  moving.driven = { place: start.place, turned: start.turned, velocity, spin, acceleration, torque }
  return moving
}
const ASLEEP: Driven = { asleep: true }
const AT_REST = { velocity: [0, 0, 0] as Vector, spin: [0, 0, 0] as Vector }

const isSameForce = ({ restedUnder }: BodyMemory, acceleration: Vector): boolean =>
  length(subtract(acceleration, restedUnder)) <= SAME_FORCE * length(restedUnder) + 1e-6

/** Whether a body that fell asleep still lies as its particle was told, pulled as then: nobody has to ask the engine more. */
function isLeftAlone({ memory, member: { columns }, rows, fresh }: Mover, h: number): boolean {
  const { lies } = memory
  const row = rows[0]!
  if (!lies || fresh || rows.length > 1) return false
  const { startPosition, startVelocity, velocity, angularVelocity, orientation } = columns
  for (let k = 0; k < 3; k++)
    if (startPosition[row * 3 + k] !== Math.fround(lies.place[k]!) || startVelocity[row * 3 + k] !== 0 || angularVelocity[row * 3 + k] !== 0) return false
  for (let k = 0; k < 4; k++) if (orientation[row * 4 + k] !== Math.fround(lies.turned[k]!)) return false
  return isSameForce(memory, scale(vectorOf(velocity, row), 1 / h))
} // prettier-ignore

/** The mean acceleration that influences give the parts of a body, m/s², and the torque of their forces about its centre, N·m. */
function actingOn(
  { memory, rows, member: { columns } }: Mover,
  { turned, gained }: Pick<Moving, 'turned' | 'gained'>,
  h: number,
) {
  const gains = gained.map((v) => scale(v, 1 / h))
  let torque = rows.reduce((sum, row) => add(sum, vectorOf(columns.torque, row)), [0, 0, 0] as Vector)
  if (gains.length === 1) return { acceleration: gains[0]!, torque }
  const { parts, mass, centre } = memory
  let acceleration: Vector = [0, 0, 0]
  parts.forEach((one, k) => (acceleration = add(acceleration, scale(gains[k]!, one.mass / mass))))
  parts.forEach((one, k) => {
    const arm = rotate(turned, subtract(one.offset, centre))
    torque = add(torque, cross(arm, scale(subtract(gains[k]!, acceleration), one.mass)))
  })
  return { acceleration, torque }
}

/** Where the frame of a body is that goes with a held piece, as they lie in their mesh. */
function carriedPose({ memory, member: { columns, pieces }, rows, carrier }: Mover, bonds: Bonds): Pose {
  const home = (row: number): Vector => bonds.meshes.get(meshOfPiece(pieces[row]!))!.masses[numberOfPiece(pieces[row]!)]!.centre // prettier-ignore
  const turned = unitQuaternion(quaternionOf(columns.orientation, carrier))
  const frame = subtract(home(rows[0]!), memory.parts[0]!.offset)
  const arm = rotate(turned, subtract(frame, home(carrier)))
  return { place: add(vectorOf(columns.position, carrier), arm), turned }
}

/** A body takes over what influences have done to its particles since the last substep, and what has become of its parts: how it moves then. */
function follow(world: RigidWorld, body: RigidBody, mover: Mover, start: Pose): { velocity: Vector; spin: Vector } {
  const { memory, member: { columns }, rows, fresh } = mover // prettier-ignore
  const place = placeOf(world, body)
  const turned = fromQuaternion(body.rotation())
  const [velocity, spin] = [velocityOf(world, body), spinOf(world, body)]
  const reach = length(subtract(memory.parts[0]!.offset, memory.centre))
  // in f32 places and speeds are as exact as the largest that they are made of
  const movedAway = rows.some((row, k) => {
    const { offset } = memory.parts[k]!
    const q = unitQuaternion(quaternionOf(columns.orientation, row))
    return (
      differs(add(place, rotate(turned, offset)), vectorOf(columns.startPosition, row), reach) ||
      Math.abs(inner(turned, q)) < 1 - 1e-7
    )
  })
  if (fresh || movedAway) setPose(world, body, start, true)
  const sped = rows.some((row, k) => {
    const arm = rotate(turned, subtract(memory.parts[k]!.offset, memory.centre))
    const own = add(velocity, cross(spin, arm))
    const swing = length(spin) * length(arm)
    return differs(own, vectorOf(columns.startVelocity, row), swing) || differs(spin, vectorOf(columns.angularVelocity, row), 0) // prettier-ignore
  })
  if (!fresh && !sped) return { velocity, spin }
  const motion = motionOf(mover, start.turned)
  setVelocity(world, body, motion.velocity, true)
  setSpin(world, body, motion.spin, true)
  return { velocity: velocityOf(world, body), spin: spinOf(world, body) }
} // prettier-ignore
const differs = (a: Vector, b: Vector, size: number): boolean =>
  a.some((x, k) => Math.abs(x - b[k]!) > 1e-6 * (Math.abs(x) + Math.abs(b[k]!) + size) + 1e-9)
const inner = (a: Quaternion, b: Quaternion): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3]

/** Puts a body that is held or carried a part of its way on. */
function movePut(world: RigidWorld, { memory }: Mover, driven: Driven, part: number): void {
  if (!('held' in driven)) return
  const { held, from } = driven
  const body = bodyOf(world, memory)
  const place = add(from.place, scale(subtract(held.place, from.place), part))
  body.setNextKinematicTranslation(asVector(place, world.memory.unit))
  body.setNextKinematicRotation(
    asQuaternion(part === 1 ? held.turned : between(from.turned, held.turned, part)),
  )
}

/** A part of the shortest turn from one orientation to another, which are near. */
function between(a: Quaternion, b: Quaternion, part: number): Quaternion {
  const sign = inner(a, b) < 0 ? -1 : 1
  return unitQuaternion(a.map((x, k) => x + (sign * b[k]! - x) * part) as Quaternion)
}

/** Whom a part collides with follows from what its population hits now. */
function setCollisions({ rapier }: RigidWorld, { memory, member, rows }: Mover): void {
  memory.parts.forEach((part, k) => {
    const hit = member.hits.reduce((bits, { bit, amount }) => (amount[rows[k]!]! > 0 ? bits | bit : bits), PARTICLES) // prettier-ignore
    const groups = collisionGroups(PARTICLES, hit)
    if (part.groups === groups) return
    part.groups = groups
    for (const one of part.colliders) rapier.getCollider(one).setCollisionGroups(groups)
  })
}
