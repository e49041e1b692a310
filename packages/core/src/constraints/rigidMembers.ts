/** The populations that are rigid bodies in a substep, and the engine's body of each of their particles. */
import type { Machine } from '@tangle/kernels'
import { quaternionOf } from '../math/quaternion.ts'
import { scale, vectorOf } from '../math/vector.ts'
import { floats, view } from '../state/columns.ts'
import type { ConstrainedPopulation, Feed } from './constraint.ts'
import { rapierModule } from './rapier.ts'
import { RIGID_BODIES, type RigidRule } from './rigidKind.ts'
import { addShape, asQuaternion, asVector, bodyOf, type BodyMemory, type RigidWorld } from './rigidWorld.ts'

/** Contacts are foreseen so far ahead, in units: about two widths. */
const FORESEEN = 1

const READ = [
  'position',
  'startPosition',
  'velocity',
  'startVelocity',
  'orientation',
  'angularVelocity',
  'contactNormal',
  'inverseMass',
  'radius',
  'age',
] as const

/** What a population hits: the bit by which it is known, and per particle above 0 who feels it. */
export interface Hit {
  bit: number
  amount: Float32Array
}

/** A population among the bodies, in this substep. */
export interface RigidMember {
  /** Among the populations of the shot. */
  number: number
  population: ConstrainedPopulation
  feed: Feed<RigidRule>
  /** Per particle: above 0 it is free; else it is where it is put. */
  amount: Float32Array
  /** Views of its columns. */
  columns: Record<(typeof READ)[number], Float32Array>
  ids: Uint32Array
  /** Row of each id. */
  rows: Map<number, number>
  /** What it hits; set as obstacles are placed. */
  hits: Hit[]
}

export function rigidMembers(populations: ConstrainedPopulation[], { heap }: Machine): RigidMember[] {
  const fed = populations.flatMap((population, number) => {
    const [feed, ...others] = population.feeds(RIGID_BODIES)
    others.forEach((one) => one.free())
    return feed ? [{ population, number, feed }] : []
  })
  return fed.map(({ population, number, feed }) => {
    const { columns } = population
    const ids = view(columns, 'id') as Uint32Array
    const rows = new Map<number, number>()
    ids.forEach((id, i) => rows.set(id, i))
    const views = Object.fromEntries(READ.map((name) => [name, floats(columns, name)]))
    return {
      number,
      population,
      feed,
      amount: heap.f32(feed.amount, columns.count),
      columns: views as RigidMember['columns'],
      ids,
      rows,
      hits: [],
    }
  })
}

/** A particle that is a body. */
export interface Row {
  member: RigidMember
  i: number
}

/** Who is born within the substep is free from the next one on. */
export const isFree = ({ member: { amount, columns }, i }: Row): boolean =>
  amount[i]! > 0 && columns.age[i]! >= 0

/** A body for each particle that has none, none for those that are gone. Gives the particle of each body, in their order. */
export function enlist(world: RigidWorld, members: RigidMember[]): Row[] {
  const { memory, rapier } = world
  const numbered = new Map(members.map((one) => [one.number, one]))
  const waiting = new Map(members.map((one) => [one.number, new Set(one.ids)]))
  const rowOf = ({ population, id }: BodyMemory): Row | null => {
    const member = numbered.get(population)
    const i = member?.rows.get(id)
    return member && i !== undefined ? { member, i } : null
  }
  memory.bodies = memory.bodies.filter((body) => {
    if (!rowOf(body)) {
      rapier.removeRigidBody(bodyOf(world, body))
      return false
    }
    waiting.get(body.population)!.delete(body.id)
    return true
  })
  for (const member of members)
    for (const id of waiting.get(member.number)!)
      memory.bodies.push(newBody(world, { member, i: member.rows.get(id)! }))
  // whoever has no row was taken out
  return memory.bodies.map((body) => rowOf(body)!)
}

function newBody(world: RigidWorld, { member, i }: Row): BodyMemory {
  const { RigidBodyDesc } = rapierModule()
  const { population, number, feed, columns, ids } = member
  const at = asVector(vectorOf(columns.startPosition, i), world.memory.unit)
  const body = world.rapier.createRigidBody(
    RigidBodyDesc.kinematicPositionBased()
      // fast ones are stopped before they are in what they hit
      .setCcdEnabled(true)
      .setSoftCcdPrediction(FORESEEN)
      .setTranslation(at.x, at.y, at.z)
      .setRotation(asQuaternion(quaternionOf(columns.orientation, i))),
  )
  const shape = population.bodyShape(i)
  const mass = 1 / Math.max(1e-30, columns.inverseMass[i]!)
  addShape(world, body, shape, mass, feed.rule)
  return {
    handle: body.handle,
    population: number,
    id: ids[i]!,
    groups: -1,
    inertia: scale(shape.inertia, mass),
    axes: shape.axes,
    restedUnder: [0, 0, 0],
  }
}
