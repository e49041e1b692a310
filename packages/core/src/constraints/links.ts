/** Links hold two particles at a distance: XPBD with compliance and damping. The kernel is assembly/links.ts. */
import { layouts, type Machine } from '@tangle/kernels'
import type { Columns } from '../state/columns.ts'
import { eventOf } from '../state/events.ts'
import type { ConstraintKind, ConstraintMoment, Feed, Member, Memory, SolverBodies } from './constraint.ts'
import {
  linkNewborn,
  linkTouching,
  noLinks,
  placeEnds,
  removeBroken,
  type LinkRule,
  type LinkState,
} from './linkTopology.ts'

const { link, F64 } = layouts
const UNMOVED = Float64Array.of(1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0)

/** By id of the population, then by id of the influence. */
type LinkMemory = Record<string, Record<string, LinkState>>

/** The links of a population, by id of the influence; part of snapshots. */
export function linksOf(memory: Memory, population: string): Record<string, LinkState> {
  const all = (memory[LINKS.name] ??= {}) as LinkMemory
  return (all[population] ??= {})
}

/** The links of one influence in a substep. */
interface Linked {
  member: Member
  feed: Feed<LinkRule>
  state: LinkState
  /** Pointer to the records, and how many. */
  at: number
  count: number
}

export const LINKS: ConstraintKind<LinkRule> = {
  name: 'links',
  does: 'links keep two particles at the distance they have, more or less stiffly, and break',
  couples: true,
  prepare(bodies, memory, moment) {
    const { machine, h } = moment
    const all = bodies.members.flatMap((member) =>
      member.population.feeds(LINKS).map((feed) => prepareLinks(bodies, member, feed, memory, moment)),
    )
    bodies.partners = partnersOf(bodies, all, machine)
    return {
      warmStart() {
        for (const { at, count } of all) machine.call('startLinks', { links: at, from: 0, to: count })
      },
      project(round) {
        for (const { member, feed, at, count } of all) {
          const { compliance, soft, damping } = feed.rule
          machine.call('solveLinks', {
            links: at,
            from: 0,
            to: count,
            bodies: bodies.at,
            amounts: feed.amount,
            first: member.first,
            compliance,
            soft,
            damping,
            h,
            backward: round % 2,
          })
        }
      },
      apply() {
        for (const one of all) applyLinks(bodies, one, moment)
        for (const member of bodies.members) addHalfKick(bodies, member, machine)
        for (const { member, feed, state } of all) linkTouching(bodies, member, feed, state, machine)
        for (const { feed } of all) feed.free()
      },
    }
  },
}

function prepareLinks(
  bodies: SolverBodies,
  member: Member,
  feed: Feed<LinkRule>,
  memory: Memory,
  { machine, bodies: meshes }: ConstraintMoment,
): Linked {
  const { population, first } = member
  const links = linksOf(memory, population.id)
  const state = (links[feed.influence] ??= noLinks())
  linkNewborn(machine, population, feed, state, meshes)
  placeEnds(state, population.columns, first)
  const at = bodies.block(state.records.byteLength)
  machine.heap.f64(at, state.records.length).set(state.records)
  return { member, feed, state, at, count: state.records.length / link.SIZE }
}

/** After the rounds: what links gave in velocity, which of them are cut or break, and what they store. */
function applyLinks(bodies: SolverBodies, linked: Linked, moment: ConstraintMoment): void {
  const { member, feed, state, at, count } = linked
  const { machine, h } = moment
  const { heap } = machine
  const { linkHalfKick: halfKick } = member.population.columns.at
  const links = { links: at, from: 0, to: count, bodies: bodies.at }
  if (halfKick) machine.call('halfKickOfLinks', { ...links, first: member.first, h, halfKick })
  cut(bodies, linked, moment)
  const { breaks, yields, creep, compliance, soft } = feed.rule
  machine.call('strainLinks', { ...links, breaks, yields, creep: Math.min(1, creep * 24 * h) })
  state.elastic = machine.call('energyOfLinks', { ...links, compliance, soft, h })
  state.records = heap.f64(at, count * link.SIZE).slice()
  recordBreaks(bodies, linked, moment)
  removeBroken(state)
}

/** Links through which the surface of a mesh passes are cut. */
function cut(
  bodies: SolverBodies,
  { feed, at, count }: Linked,
  { machine, bodies: meshes, from, to }: ConstraintMoment,
): void {
  const blade = feed.rule.cut === undefined ? undefined : meshes.get(feed.rule.cut)
  if (!blade || count === 0) return
  const { heap } = machine
  const maps = heap.allocate(24 * F64)
  const { tree, into } = blade.treeAt(to)
  const now = into ?? UNMOVED
  const middle = into ? blade.treeAt((from + to) / 2).into! : now // rigid at one moment, rigid at all
  heap.f64(maps, 24).set([...now, ...middle])
  const { quads, vertices, stack } = tree
  const blades = { quads, vertices, stack, into: maps, back: maps + 12 * F64 }
  machine.run('cutLinks', count, { links: at, from: 0, bodies: bodies.at, ...blades })
  heap.free(maps)
}

function recordBreaks(
  bodies: SolverBodies,
  { member, state }: Linked,
  { machine, to }: ConstraintMoment,
): void {
  const { records } = state
  const { population } = member
  for (let n = 0; n < records.length; n += link.SIZE) {
    const holds = records[n + link.holds]!
    if (holds === 1) continue
    const [a, b] = [link.bodyA, link.bodyB].map((side) =>
      machine.heap.f64(bodies.at + records[n + side]! * layouts.body.SIZE * F64, 3),
    ) as [Float64Array, Float64Array]
    population.events.add(
      eventOf('break', to, records[n + link.idA]!, {
        other: records[n + link.idB]!,
        of: population.id,
        place: [0, 1, 2].map((axis) => (a[axis]! + b[axis]!) / 2) as [number, number, number],
        normal: directionTo(b, a),
        detail: holds === 2 ? 1 : 0,
      }),
    )
  }
}
function directionTo(from: Float64Array, to: Float64Array): [number, number, number] {
  const way = [0, 1, 2].map((axis) => to[axis]! - from[axis]!)
  const length = Math.sqrt(way[0]! ** 2 + way[1]! ** 2 + way[2]! ** 2) || 1
  return way.map((x) => x / length) as [number, number, number]
}

/** What lies on something needs no half kick; the others have theirs back. See `removeLinkHalfKick`. */
function addHalfKick(bodies: SolverBodies, { population, first, count }: Member, machine: Machine): void {
  const { velocity, linkHalfKick: halfKick } = population.columns.at
  if (!halfKick) return
  machine.run('clearHalfKick', count, { marks: bodies.marks, first, halfKick })
  machine.run('addHalfKick', count, { column: velocity, halfKick, factor: 1 })
}

/**
 * Links move particles by h²·a where h²·a/2 is due: they are solved at the end of the substep. So half of the velocity
 * that they gave last time is taken back on the way (leapfrog), and periods, springs and what hangs at rest are right to
 * second order.
 */
export function removeLinkHalfKick({ at, count }: Columns, machine: Machine, h: number): void {
  const { position, velocity, linkHalfKick: halfKick } = at
  if (!halfKick) return
  machine.run('addHalfKick', count, { column: velocity, halfKick, factor: -1 })
  machine.run('addHalfKick', count, { column: position, halfKick, factor: -h })
  machine.run('fill', count * 3, { column: halfKick, value: 0 })
}

/** Whom links hold already: they do not collide. All links stand side by side for this. */
function partnersOf(bodies: SolverBodies, all: Linked[], machine: Machine): SolverBodies['partners'] {
  const { heap } = machine
  const count = all.reduce((sum, one) => sum + one.count, 0)
  if (count === 0) return { first: 0, list: 0 }
  const [first, list] = [bodies.block((bodies.count + 1) * 4), bodies.block(count * 8)]
  let links = all[0]!.at
  if (all.length > 1) {
    links = bodies.block(count * link.SIZE * F64)
    let to = 0
    for (const one of all) {
      heap.f64(links, count * link.SIZE).set(heap.f64(one.at, one.count * link.SIZE), to)
      to += one.count * link.SIZE
    }
  }
  machine.call('linkPartners', { links, count, particles: bodies.count, first, partners: list })
  return { first, list }
}
