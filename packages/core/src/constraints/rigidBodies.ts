/**
 * Rigid bodies: particles that have a shape, a mass and an orientation. Forces of influences act on them as on all particles; what touches
 * is solved by Rapier; who touches nothing flies and turns by equations of our own, exactly for even forces (math/freeTop.ts).
 */
import type { RigidBody } from '@dimforge/rapier3d-deterministic-compat'
import { rotate, unitQuaternion, type Quaternion } from '../math/quaternion.ts'
import { add, cross, dot, scale, subtract, vectorOf, type Vector } from '../math/vector.ts'
import { floats, view } from '../state/columns.ts'
import type { ConstrainedPopulation, ConstraintKind, ConstraintMoment, Memory } from './constraint.ts'
import { rapierModule } from './rapier.ts'
import { enlist, isFree, poseFrom, rowsOf, type RigidMember, type Row } from './rigidClusters.ts'
import { readBack, STILL, type Driven } from './rigidResults.ts'
import { moveObstacles, placeObstacles } from './rigidObstacles.ts'
import {
  asQuaternion,
  asVector,
  bodyOf,
  createRigidWorld,
  fromQuaternion,
  fromVector,
  groupsOf,
  PARTICLES,
  placeOfMember,
  restoreRigidWorld,
  setSpin,
  setVelocity,
  spinOf,
  velocityOf,
  type ClusterMemory,
  type RigidMemory,
  type RigidWorld,
} from './rigidWorld.ts'

/** What a Rigid body influence says. */
export interface RigidRule {
  bounce: number
  friction: number
  /** 1/s at which spin dies away. */
  spinDamping: number
}

export const RIGID_BODIES: ConstraintKind<RigidRule> = {
  name: 'rigidBodies',
  does: 'bodies with a shape push, rub, topple, roll and rest',
  couples: false,
  pace: 'bodies',
  // they are solved before all others, in a stage of their own
  prepare: () => null,
  store(memory) {
    const live = worlds.get(memory)
    if (live) live.memory.state = live.rapier.takeSnapshot()
  },
  release(memory) {
    worlds.get(memory)?.rapier.free()
    worlds.delete(memory)
  },
}

/** The engine's worlds, by the memory that tells of them. */
const worlds = new WeakMap<Memory, RigidWorld>()
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
  const members = populations.flatMap((population, number) => memberOf(population, number, moment) ?? [])
  if (members.length === 0) return
  const world = worldFor(memory, members)
  const obstacles = placeObstacles(world, members, moment)
  enlist(world, members)
  const driven = world.memory.clusters.map((cluster) => drive(world, cluster, members, moment))
  const { integrationParameters } = world.rapier
  const time = moment.h * world.memory.pace
  const steps = Math.ceil(time / LONGEST)
  world.rapier.timestep = time / steps
  integrationParameters.numSolverIterations = Math.max(LEAST_ITERATIONS, moment.iterations)
  for (let n = 1; n <= steps; n++) {
    moveObstacles(world, obstacles, moment, n / steps)
    world.memory.clusters.forEach((cluster, k) => moveHeld(world, cluster, driven[k]!, n / steps))
    world.rapier.step()
  }
  world.memory.clusters.forEach((cluster, k) => readBack(world, cluster, driven[k]!, members, moment))
  for (const { feed } of members) feed.free()
}

function memberOf(
  population: ConstrainedPopulation,
  number: number,
  { machine }: ConstraintMoment,
): RigidMember | null {
  const [feed, ...others] = population.feeds(RIGID_BODIES)
  others.forEach((one) => one.free())
  if (!feed) return null
  const { columns } = population
  const ids = view(columns, 'id')
  const rows = new Map<number, number>()
  ids.forEach((id, i) => rows.set(id, i))
  return {
    number,
    population,
    feed,
    amount: machine.heap.f32(feed.amount, columns.count).slice(),
    rows,
    hits: [],
  }
}

function worldFor(memory: Memory, members: RigidMember[]): RigidWorld {
  const known = worlds.get(memory)
  if (known) return known
  const kept = memory[RIGID_BODIES.name] as RigidMemory | undefined
  const world = kept
    ? restoreRigidWorld(kept)
    : createRigidWorld(
        typical(members, 'radius', (r) => 2 * r),
        typical(members, 'inverseMass', (w) => 1 / w),
      )
  memory[RIGID_BODIES.name] = world.memory
  worlds.set(memory, world)
  return world
}

/** Median of what is told by an attribute of bodies. */
function typical(members: RigidMember[], name: 'radius' | 'inverseMass', of: (x: number) => number): number {
  const all = members.flatMap(({ population }) => Array.from(floats(population.columns, name), of))
  return all.sort((a, b) => a - b)[all.length >> 1] ?? 1
}

function drive(
  world: RigidWorld,
  cluster: ClusterMemory,
  members: RigidMember[],
  { h }: ConstraintMoment,
): Driven {
  const { RigidBodyType } = rapierModule()
  const body = bodyOf(world, cluster.handle)
  const { unit: units, heft, pace } = world.memory
  const rows = rowsOf(cluster, members)
  setGroups(world, cluster, rows)
  const held = rows.findIndex(({ member, i }) => !isFree(member, i))
  if (held >= 0) {
    const { place, turned } = poseFrom(cluster, rows[held]!, held, 'position')
    if (body.isDynamic()) body.setBodyType(RigidBodyType.KinematicPositionBased, true)
    const from = { place: fromVector(body.translation(), units), turned: fromQuaternion(body.rotation()) }
    return { ...STILL, place, turned, from }
  }
  const { place, turned } = poseFrom(cluster, rows[0]!, 0, 'startPosition')
  if (!body.isDynamic()) {
    body.setBodyType(RigidBodyType.Dynamic, true)
    if (rows.length > 1) giveMotion(world, body, cluster, rows)
  }
  if (rows.length === 1) follow(world, body, rows[0]!, place, turned, units)
  const before = velocityOf(world, body)
  const spin = spinOf(world, body)
  let force: Vector = [0, 0, 0]
  let torque: Vector = [0, 0, 0]
  rows.forEach(({ member, i }, k) => {
    const { columns } = member.population
    const gained = subtract(
      vectorOf(floats(columns, 'velocity'), i),
      vectorOf(floats(columns, 'startVelocity'), i),
    )
    const own = scale(gained, 1 / (h * floats(columns, 'inverseMass')[i]!))
    force = add(force, own)
    if (rows.length > 1) torque = add(torque, cross(rotate(turned, placeOfMember(cluster, k)), own))
  })
  const acceleration = scale(force, 1 / cluster.mass)
  if (body.isSleeping()) {
    const change = subtract(acceleration, cluster.restedUnder)
    if (dot(change, change) <= SAME_FORCE ** 2 * dot(cluster.restedUnder, cluster.restedUnder) + 1e-12)
      return { ...STILL, place, turned }
    body.wakeUp()
  }
  body.resetForces(false)
  body.resetTorques(false)
  body.addForce(asVector(force, (units * heft) / (pace * pace)), false)
  if (rows.length > 1) body.addTorque(asVector(torque, (units * units * heft) / (pace * pace)), false)
  return { still: false, place, turned, velocity: before, angularVelocity: spin, acceleration, torque }
}

/** A body takes over what influences have done to its particle since the last substep. */
function follow(
  world: RigidWorld,
  body: RigidBody,
  { member, i }: Row,
  place: Vector,
  turned: Quaternion,
  units: number,
): void {
  const { columns } = member.population
  const [velocity, spin] = [
    vectorOf(floats(columns, 'startVelocity'), i),
    vectorOf(floats(columns, 'angularVelocity'), i),
  ]
  if (differs(fromVector(body.translation(), units), place)) body.setTranslation(asVector(place, units), true)
  const now = fromQuaternion(body.rotation())
  if (Math.abs(now[0] * turned[0] + now[1] * turned[1] + now[2] * turned[2] + now[3] * turned[3]) < 1 - 1e-7)
    body.setRotation(asQuaternion(turned), true)
  if (differs(velocityOf(world, body), velocity)) setVelocity(world, body, velocity, true)
  if (differs(spinOf(world, body), spin)) setSpin(world, body, spin, true)
}
const differs = (a: Vector, b: Vector): boolean =>
  a.some((x, k) => Math.abs(x - b[k]!) > 1e-6 * (Math.abs(x) + Math.abs(b[k]!)) + 1e-9)

/** Puts a body that is held a part of its way on. */
function moveHeld(
  world: RigidWorld,
  { handle }: ClusterMemory,
  { place, turned, from }: Driven,
  part: number,
): void {
  const body = bodyOf(world, handle)
  if (body.isDynamic()) return
  const { unit: units } = world.memory
  const start = from ?? { place, turned }
  body.setNextKinematicTranslation(
    asVector(add(start.place, scale(subtract(place, start.place), part)), units),
  )
  body.setNextKinematicRotation(asQuaternion(part === 1 ? turned : between(start.turned, turned, part)))
}

/** A part of the shortest turn from one orientation to another, which are near. */
function between(a: Quaternion, b: Quaternion, part: number): Quaternion {
  const sign = a[0] * b[0] + a[1] * b[1] + a[2] * b[2] + a[3] * b[3] < 0 ? -1 : 1
  return unitQuaternion(a.map((x, k) => x + (sign * b[k]! - x) * part) as Quaternion)
}

/** Several that come loose together set out as their first member does. */
function giveMotion(world: RigidWorld, body: RigidBody, cluster: ClusterMemory, rows: Row[]): void {
  const { columns } = rows[0]!.member.population
  const spin = vectorOf(floats(columns, 'angularVelocity'), rows[0]!.i)
  const { turned } = poseFrom(cluster, rows[0]!, 0, 'startPosition')
  const arm = rotate(turned, placeOfMember(cluster, 0))
  const velocity = subtract(vectorOf(floats(columns, 'startVelocity'), rows[0]!.i), cross(spin, arm))
  setVelocity(world, body, velocity, true)
  setSpin(world, body, spin, true)
}

function setGroups(world: RigidWorld, cluster: ClusterMemory, rows: Row[]): void {
  rows.forEach(({ member, i }, k) => {
    let filter = PARTICLES
    for (const { bit, amount } of member.hits) if (amount[i]! > 0) filter |= bit
    const groups = groupsOf(PARTICLES, filter)
    if (cluster.groups[k] === groups) return
    cluster.groups[k] = groups
    const body = bodyOf(world, cluster.handle)
    for (let n = 0; n < body.numColliders(); n++) body.collider(n).setCollisionGroups(groups)
  })
}
