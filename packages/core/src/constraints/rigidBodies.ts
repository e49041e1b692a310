/**
 * Rigid bodies: particles that have a shape, a mass and an orientation. Forces of influences act on them as on all particles; what touches
 * is solved by Rapier; who touches nothing flies and turns by equations of our own, exactly for even forces (math/freeTop.ts).
 */
import type { RigidBody } from '@dimforge/rapier3d-deterministic-compat'
import { quaternionOf, unitQuaternion, type Quaternion } from '../math/quaternion.ts'
import { add, length, scale, subtract, vectorOf, type Vector } from '../math/vector.ts'
import type { ConstrainedPopulation, ConstraintMoment, Memory } from './constraint.ts'
import { rapierModule } from './rapier.ts'
import { RIGID_BODIES, WORLDS } from './rigidKind.ts'
import { enlist, isFree, rigidMembers, type RigidMember, type Row } from './rigidMembers.ts'
import { moveObstacles, placeObstacles } from './rigidObstacles.ts'
import { readBack, type Driven } from './rigidResults.ts'
import {
  asQuaternion,
  asVector,
  bodyOf,
  createRigidWorld,
  fromQuaternion,
  groupsOf,
  PARTICLES,
  placeOf,
  restoreRigidWorld,
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
  const world = worldFor(memory, members)
  const obstacles = placeObstacles(world, members, moment)
  const rows = enlist(world, members)
  const { bodies, pace } = world.memory
  const driven = bodies.map((body, k) => drive(world, body, rows[k]!, moment))
  const { rapier } = world
  const time = moment.h * pace
  const steps = Math.ceil(time / LONGEST)
  rapier.timestep = time / steps
  rapier.integrationParameters.numSolverIterations = Math.max(LEAST_ITERATIONS, moment.iterations)
  for (let n = 1; n <= steps; n++) {
    moveObstacles(world, obstacles, moment, n / steps)
    bodies.forEach((body, k) => moveHeld(world, body, driven[k]!, n / steps))
    rapier.step()
  }
  bodies.forEach((body, k) => readBack(world, body, driven[k]!, rows[k]!, moment))
  for (const { feed } of members) feed.free()
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
function drive(world: RigidWorld, memory: BodyMemory, row: Row, { h }: ConstraintMoment): Driven {
  const { RigidBodyType } = rapierModule()
  const { columns } = row.member
  const { unit, heft, pace } = world.memory
  const body = bodyOf(world, memory)
  setGroups(body, memory, row)
  const turned = unitQuaternion(quaternionOf(columns.orientation, row.i))
  if (!isFree(row)) {
    if (body.isDynamic()) body.setBodyType(RigidBodyType.KinematicPositionBased, true)
    const from = { place: placeOf(world, body), turned: fromQuaternion(body.rotation()) }
    return { held: { place: vectorOf(columns.position, row.i), turned }, from }
  }
  if (!body.isDynamic()) body.setBodyType(RigidBodyType.Dynamic, true)
  const pose = { place: vectorOf(columns.startPosition, row.i), turned }
  follow(world, body, row, pose)
  const gained = subtract(vectorOf(columns.velocity, row.i), vectorOf(columns.startVelocity, row.i))
  const acceleration = scale(gained, 1 / h)
  if (body.isSleeping()) {
    const change = length(subtract(acceleration, memory.restedUnder))
    if (change <= SAME_FORCE * length(memory.restedUnder) + 1e-6) return { asleep: true }
    body.wakeUp()
  }
  body.resetForces(false)
  const force = heft / columns.inverseMass[row.i]!
  body.addForce(asVector(acceleration, (force * unit) / (pace * pace)), false)
  return { ...pose, velocity: velocityOf(world, body), spin: spinOf(world, body), acceleration }
}

/** A body takes over what influences have done to its particle since the last substep. */
function follow(
  world: RigidWorld,
  body: RigidBody,
  { member: { columns }, i }: Row,
  { place, turned }: Pose,
): void {
  const [velocity, spin] = [vectorOf(columns.startVelocity, i), vectorOf(columns.angularVelocity, i)]
  if (differs(placeOf(world, body), place)) body.setTranslation(asVector(place, world.memory.unit), true)
  if (Math.abs(inner(fromQuaternion(body.rotation()), turned)) < 1 - 1e-7)
    body.setRotation(asQuaternion(turned), true)
  if (differs(velocityOf(world, body), velocity)) setVelocity(world, body, velocity, true)
  if (differs(spinOf(world, body), spin)) setSpin(world, body, spin, true)
}
const differs = (a: Vector, b: Vector): boolean =>
  a.some((x, k) => Math.abs(x - b[k]!) > 1e-6 * (Math.abs(x) + Math.abs(b[k]!)) + 1e-9)
const inner = (a: Quaternion, b: Quaternion): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3]

/** Puts a body that is held a part of its way on. */
function moveHeld(world: RigidWorld, memory: BodyMemory, driven: Driven, part: number): void {
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

/** Whom a body collides with follows from what its population hits now. */
function setGroups(body: RigidBody, memory: BodyMemory, { member, i }: Row): void {
  const hit = member.hits.reduce((bits, { bit, amount }) => (amount[i]! > 0 ? bits | bit : bits), PARTICLES)
  const groups = groupsOf(PARTICLES, hit)
  if (memory.groups === groups) return
  memory.groups = groups
  for (let n = 0; n < body.numColliders(); n++) body.collider(n).setCollisionGroups(groups)
}
