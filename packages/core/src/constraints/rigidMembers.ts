/** The populations that are rigid bodies in a substep. */
import type { Machine } from '@tangle/kernels'
import { floats, view } from '../state/columns.ts'
import type { Collider } from './collider.ts'
import type { ConstrainedPopulation, Feed } from './constraint.ts'
import { RIGID_BODIES, type RigidRule } from './rigidKind.ts'

const READ = [
  'position',
  'startPosition',
  'velocity',
  'startVelocity',
  'orientation',
  'angularVelocity',
  'torque',
  'contactNormal',
  'inverseMass',
  'radius',
  'age',
] as const

/** What a population hits: the bit by which it is known, and per particle above 0 who feels it. */
export interface Hit {
  collider: Collider
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
  /** What bonds tell of themselves; null where there are none. */
  bondColumns: { stress: Float32Array; bonds: Uint32Array } | null
  ids: Uint32Array
  /** `piece` of each. */
  pieces: Uint32Array
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
      bondColumns: columns.at.stress ? { stress: floats(columns, 'stress'), bonds: view(columns, 'bonds') as Uint32Array } : null, // prettier-ignore
      columns: views as RigidMember['columns'],
      ids,
      pieces: view(columns, 'piece') as Uint32Array,
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
