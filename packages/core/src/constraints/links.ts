/** Links hold two particles at a distance: XPBD with compliance and damping. The kernels are assembly/links.ts, pathBatches.ts, linkPaths.ts and linkImpulses.ts. */
import { layouts, type Heap, type Machine } from '@tangle/kernels'
import type { Columns } from '../state/columns.ts'
import type { Vector } from '../math/vector.ts'
import { eventOf } from '../state/events.ts'
import type { ConstraintKind, ConstraintMoment, Feed, Member, Memory, SolverBodies } from './constraint.ts'
import {
  keepRecords,
  linkNewborn,
  linkTouching,
  noLinks,
  recordsIn,
  releaseRecords,
  type LinkRule,
  type LinkState,
} from './linkTopology.ts'
import { placeOfBody } from './solverBodies.ts'

const { link, linkPath, pathBatch, pathStep, F32, F64 } = layouts
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
  paths: Paths
  /** Pointer to the steps of the paths. */
  steps: number
}

/** The paths of links, for as long as those stand. */
interface Paths {
  /** Says of which links: it changes with every one that comes or goes. */
  of: string
  /** Pointers: batches, and the numbers of the links of each step; how many steps. */
  batches: number
  slots: number
  stepCount: number
  /** Stretches of batches that have no particle twice. */
  stretches: { from: number; count: number }[]
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
    if (all.length === 0) return null
    const { moved, block, count } = bodies
    const [before, kicks, pushes] = [0, 1, 2].map(() => block((count + 1) * 16)) as [number, number, number]
    for (const column of [pushes, kicks]) machine.run('fill', count * 4 + 4, { column, value: 0 })
    return {
      project(round) {
        machine.run('copyRows', count, { from: moved, to: before })
        for (const { feed, paths, steps } of all) {
          const values = { batches: paths.batches, steps, rows: moved, gamma: feed.rule.damping / h }
          const { stretches } = paths
          for (const { from, count: some } of round % 2 === 0 ? stretches : stretches.toReversed())
            machine.run('solvePaths', some, { from, ...values })
        }
        if (round === moment.iterations - 1) finishPaths(all, { rows: moved, kicks }, machine)
        machine.run('addMoves', count, { moved, before, sums: pushes })
      },
      apply() {
        for (const { population, first, count: some } of bodies.members) {
          const { linkHalfKick: halfKick, velocity } = population.columns.at
          machine.run('addKicks', some, { kicks, first, h, velocity })
          if (halfKick) machine.run('halfKickOfLinks', some, { pushes, first, h, halfKick })
        }
        for (const one of all) applyLinks(bodies, one, moment)
        for (const member of bodies.members) addHalfKick(bodies, member, machine)
        for (const { member, feed, state } of all) linkTouching(bodies, member, feed, state, machine)
        for (const { feed } of all) feed.free()
      },
    }
  },
  release(memory, heap) {
    for (const states of Object.values((memory[LINKS.name] ?? {}) as LinkMemory))
      for (const state of Object.values(states)) {
        releaseRecords(heap, state)
        releasePaths(heap, state)
      }
  },
}

function prepareLinks(
  bodies: SolverBodies,
  member: Member,
  feed: Feed<LinkRule>,
  memory: Memory,
  { machine, bodies: meshes, h }: ConstraintMoment,
): Linked {
  const { population, first, count: particles } = member
  const { heap } = machine
  const links = linksOf(memory, population.id)
  const state = (links[feed.influence] ??= noLinks())
  linkNewborn(machine, population, feed, state, meshes)
  const at = recordsIn(heap, state)
  const made = state.records.length / link.SIZE
  const count = machine.call('placeLinks', { links: at, count: made, ids: population.columns.at.id, particles, first }) // prettier-ignore
  keepRecords(heap, state, at, count)
  const paths = pathsOf(bodies, member, state, machine)
  const steps = bodies.block(paths.stepCount * pathStep.SIZE * F32)
  const { compliance, soft } = feed.rule
  machine.run('startSteps', paths.stepCount, {
    links: at,
    slots: paths.slots,
    steps,
    starts: bodies.starts,
    moved: bodies.moved,
    amounts: feed.amount,
    first,
    nobody: bodies.count,
    compliance,
    soft,
    h,
  })
  return { member, feed, state, at, count, paths, steps }
}

/** Held paths that swing farther in a substep than rounds can follow are led; impulses are turned back. */
function finishPaths(
  all: Linked[],
  { rows, kicks }: { rows: number; kicks: number },
  machine: Machine,
): void {
  for (const { paths, steps } of all) {
    const { batches } = paths
    for (const { from, count } of paths.stretches) {
      machine.run('followPaths', count, { from, batches, steps, rows })
      machine.run('turnImpulses', count, { from, batches, steps, rows, kicks })
    }
  }
}

const pathsNow = new WeakMap<LinkState, Paths>()

/** The paths of links: those of the last substep while no link has come or gone. */
function pathsOf(bodies: SolverBodies, member: Member, state: LinkState, machine: Machine): Paths {
  const count = state.records.length / link.SIZE
  const of = `${state.made} ${state.broken} ${count}`
  const known = pathsNow.get(state)
  if (known?.of === of) return known
  const { heap } = machine
  releasePaths(heap, state)
  const { first, count: particles } = member
  const [links, masks] = [state.records.byteOffset, bodies.block(particles * 8)]
  const paths = bodies.block(count * linkPath.SIZE * F32)
  const found = machine.call('findPaths', { links, count, particles, first, masks, paths })
  const [order, sorted, counts] = [
    bodies.block(found * 4),
    bodies.block(found * 4),
    bodies.block((linkPath.LENGTHS + 1) * 4),
  ]
  const colours = linkPath.COLOURS + 2
  const starts = bodies.block(colours * 4)
  const [batches, slots] = [heap.allocate(found * pathBatch.SIZE * 4), heap.allocate(Math.max(1, count) * 16)]
  machine.call('batchPaths', { paths, count: found, order, sorted, counts, batches, slots, starts })
  const firsts = heap.u32(starts, colours)
  const made = { of, batches, slots, stepCount: firsts[colours - 1]!, stretches: stretchesOf(firsts) }
  pathsNow.set(state, made)
  return made
}

/** A stretch for each colour, by the first batch of each; those of the last colour wait for one another. */
function stretchesOf(firsts: Uint32Array): Paths['stretches'] {
  const last = linkPath.COLOURS - 1
  return Array.from({ length: linkPath.COLOURS }, (_, c) => {
    const [from, to] = [firsts[c]!, firsts[c + 1]!]
    if (c < last) return to > from ? [{ from, count: to - from }] : []
    return Array.from({ length: to - from }, (_, n) => ({ from: from + n, count: 1 }))
  }).flat()
}

function releasePaths(heap: Heap, state: LinkState): void {
  const known = pathsNow.get(state)
  if (!known) return
  heap.free(known.batches)
  heap.free(known.slots)
  pathsNow.delete(state)
}

/** After the rounds: what links bore, which of them are cut or break, and what they store. */
function applyLinks(bodies: SolverBodies, linked: Linked, moment: ConstraintMoment): void {
  const { feed, state, at, count, paths, steps } = linked
  const { machine, h } = moment
  const { heap } = machine
  const { starts, moved } = bodies
  machine.run('finishSteps', paths.stepCount, { links: at, steps })
  cut(bodies, linked, moment)
  const { breaks, yields, creep, compliance, soft } = feed.rule
  machine.run('strainLinks', count, { links: at, starts, moved, breaks, yields, creep: Math.min(1, creep * 24 * h) })
  state.elastic = machine.call('energyOfLinks', { links: at, count, moved, compliance, soft, h })
  const [broken, most] = [bodies.block(count * link.SIZE * F64), bodies.block(8)]
  heap.f64(most, 1)[0] = state.most
  const left = machine.call('removeBroken', { links: at, count, broken, most })
  state.most = heap.f64(most, 1)[0]!
  state.broken += count - left
  keepRecords(heap, state, at, left)
  recordBreaks(bodies, linked, heap.f64(broken, (count - left) * link.SIZE), moment)
}

/** Links through which the surface of a mesh passes are cut. */
function cut(
  { starts, moved }: SolverBodies,
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
  machine.run('cutLinks', count, { links: at, starts, moved, ...blades })
  heap.free(maps)
}

function recordBreaks(
  bodies: SolverBodies,
  { member }: Linked,
  records: Float64Array,
  { machine, to }: ConstraintMoment,
): void {
  const { population } = member
  for (let n = 0; n < records.length; n += link.SIZE) {
    const holds = records[n + link.holds]!
    const [a, b] = [link.bodyA, link.bodyB].map((side) => placeOfBody(bodies, machine, records[n + side]!)) as [
      Vector,
      Vector,
    ]
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
function directionTo(from: Vector, to: Vector): Vector {
  const way = [0, 1, 2].map((axis) => to[axis]! - from[axis]!)
  const length = Math.sqrt(way[0]! ** 2 + way[1]! ** 2 + way[2]! ** 2) || 1
  return way.map((x) => x / length) as Vector
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
  if (count === 0) return { first: 0, list: 0, of: '' }
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
  return { first, list, of: all.map(({ state, count: some }) => `${state.made} ${state.broken} ${some}`).join() }
}
