/** Clusters: the particles that move as one body, most of them alone, and where each is in it. */
import {
  compose,
  conjugate,
  quaternionOf,
  rotate,
  unitQuaternion,
  type Quaternion,
} from '../math/quaternion.ts'
import { add, cross, scale, subtract, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import { floats } from '../state/columns.ts'
import type { ConstrainedPopulation, Feed } from './constraint.ts'
import { rapierModule } from './rapier.ts'
import type { RigidRule } from './rigidBodies.ts'
import type { Hit } from './rigidObstacles.ts'
import {
  addShape,
  asQuaternion,
  asVector,
  bodyOf,
  placeOfMember,
  turnOfMember,
  type ClusterMemory,
  type RigidWorld,
} from './rigidWorld.ts'

/** Contacts are foreseen so far ahead, in units: about two widths. */
const FORESEEN = 1

/** A population among the bodies, in this substep. */
export interface RigidMember {
  number: number
  population: ConstrainedPopulation
  feed: Feed<RigidRule>
  /** Per particle: above 0 it is free; else it is where it is put. */
  amount: Float32Array
  /** Row of each id. */
  rows: Map<number, number>
  /** What it hits; set as obstacles are placed. */
  hits: Hit[]
}

/** A body for each particle that has none, none for those that are gone. */
export function enlist(world: RigidWorld, members: RigidMember[]): void {
  const { memory, rapier } = world
  const memberNumbered = new Map(members.map((one) => [one.number, one]))
  const have = new Map(members.map(({ number }) => [number, new Set<number>()]))
  memory.clusters = memory.clusters.filter((cluster) => {
    const isThere = cluster.ids.every((id, k) => memberNumbered.get(cluster.population[k]!)?.rows.has(id))
    if (isThere) cluster.ids.forEach((id, k) => have.get(cluster.population[k]!)!.add(id))
    else rapier.removeRigidBody(bodyOf(world, cluster.handle))
    return isThere
  })
  for (const member of members)
    for (const [id, i] of member.rows)
      if (!have.get(member.number)!.has(id)) memory.clusters.push(newCluster(world, member, id, i))
}

export function newCluster(
  world: RigidWorld,
  { number, population, feed }: RigidMember,
  id: number,
  i: number,
): ClusterMemory {
  const { RigidBodyDesc } = rapierModule()
  const { columns } = population
  const { unit: units } = world.memory
  const at = asVector(vectorOf(floats(columns, 'startPosition'), i), units)
  const body = world.rapier.createRigidBody(
    RigidBodyDesc.kinematicPositionBased()
      // fast ones are stopped before they are in what they hit
      .setCcdEnabled(true)
      .setSoftCcdPrediction(FORESEEN)
      .setTranslation(at.x, at.y, at.z)
      .setRotation(asQuaternion(quaternionOf(floats(columns, 'orientation'), i))),
  )
  const shape = population.bodyShape(i)
  const mass = 1 / Math.max(1e-30, floats(columns, 'inverseMass')[i]!)
  const collider = addShape(world, body, shape, mass, feed.rule, [0, 0, 0], [0, 0, 0, 1])
  return {
    handle: body.handle,
    population: Float64Array.of(number),
    ids: Float64Array.of(id),
    colliders: Float64Array.of(collider.handle),
    places: new Float64Array(3),
    turns: Float64Array.of(0, 0, 0, 1),
    groups: Float64Array.of(-1),
    mass,
    inertia: scale(shape.inertia, mass),
    axes: shape.axes,
    restedUnder: [0, 0, 0],
  }
}

/** A particle of a cluster. */
export interface Row {
  member: RigidMember
  i: number
}
export const rowsOf = ({ ids, population }: ClusterMemory, members: RigidMember[]): Row[] =>
  Array.from(ids, (id, k) => {
    const member = members.find(({ number }) => number === population[k])!
    return { member, i: member.rows.get(id)! } // enlist has taken out who is gone
  })

/** Who is born within the substep is free from the next one on. */
export const isFree = ({ amount, population }: RigidMember, i: number): boolean =>
  amount[i]! > 0 && floats(population.columns, 'age')[i]! >= 0

/** The pose of a cluster from that of a member. */
export function poseFrom(
  cluster: ClusterMemory,
  { member, i }: Row,
  k: number,
  at: 'position' | 'startPosition',
) {
  const { columns } = member.population
  const own = unitQuaternion(quaternionOf(floats(columns, 'orientation'), i))
  const turned = cluster.ids.length === 1 ? own : compose(own, conjugate(turnOfMember(cluster, k)))
  const place = subtract(vectorOf(floats(columns, at), i), rotate(turned, placeOfMember(cluster, k)))
  return { place, turned }
}

/** Writes to the particles of a cluster where it is and how it moves. */
export function writeCluster(
  cluster: ClusterMemory,
  rows: Row[],
  place: Vector,
  turned: Quaternion,
  velocity: Vector,
  spin: Vector,
): void {
  rows.forEach(({ member, i }, k) => {
    const { columns } = member.population
    const arm = rotate(turned, placeOfMember(cluster, k))
    writeVector(floats(columns, 'position'), i, add(place, arm))
    writeVector(floats(columns, 'velocity'), i, add(velocity, cross(spin, arm)))
    writeVector(floats(columns, 'angularVelocity'), i, spin)
    floats(columns, 'orientation').set(
      rows.length === 1 ? turned : compose(turned, turnOfMember(cluster, k)),
      i * 4,
    )
  })
}
