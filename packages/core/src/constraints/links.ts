/** Links hold two particles at a distance: XPBD with compliance and damping. The kernels are assembly/links.ts, pathBatches.ts, linkPaths.ts and linkImpulses.ts. */
import { layouts, type Heap, type Machine, type Phase } from '@tangle/kernels'
import type { Columns } from '../state/columns.ts'
import type { Vector } from '../math/vector.ts'
import { eventOf } from '../state/events.ts'
import { bladeOf } from './blade.ts'
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
  paths: Paths
}

/** The paths of links, for as long as those stand. */
interface Paths {
  /** Says of which links and bodies: it changes with every one that comes or goes. */
  of: string
  /** Pointers: batches, and steps, which hold what links come to until they are brought into the records; how many steps. */
  batches: number
  steps: number
  stepCount: number
  /** Stretches of batches that have no particle twice. */
  stretches: Phase[]
}

export const LINKS: ConstraintKind<LinkRule> = {
  name: 'links',
  does: 'links keep two particles at the distance they have, more or less stiffly, and break',
  couples: true,
  pace: 'links',
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
    /** 1 + γ of the links of a population, the most damped of them. */
    const dampedBy = (member: Member): number =>
      1 + Math.max(0, ...all.map((one) => (one.member === member ? one.feed.rule.damping / h : 0)))
    return {
      project(round) {
        machine.run('copyRows', count, { from: moved, to: before })
        for (const { feed, paths } of all) {
          const { batches, steps, stretches } = paths
          const values = { batches, steps, rows: moved, gamma: feed.rule.damping / h }
          machine.runPhases('solvePaths', round % 2 === 0 ? stretches : stretches.toReversed(), values)
        }
        if (round === moment.iterations - 1) finishPaths(all, { rows: moved, kicks, h }, machine)
        machine.run('addMoves', count, { moved, before, sums: pushes })
      },
      apply() {
        for (const member of bodies.members) {
          const { population, first, count: some } = member
          const { linkHalfKick: halfKick, velocity } = population.columns.at
          machine.run('addKicks', some, { kicks, first, h, velocity })
          if (halfKick)
            machine.run('halfKickOfLinks', some, { pushes, first, h: h * dampedBy(member), halfKick })
        }
        for (const one of all) applyLinks(bodies, one, moment)
        for (const member of bodies.members) addHalfKick(bodies, member, machine)
        for (const { member, feed, state } of all) {
          if (feed.rule.made !== 'contact') continue
          syncLinks(state, machine)
          const { made } = state
          linkTouching(bodies, member, feed, state, machine)
          if (state.made > made) releasePaths(machine.heap, state)
        }
        for (const { feed } of all) feed.free()
      },
    }
  },
  store(memory, machine) {
    for (const state of statesIn(memory)) syncLinks(state, machine)
  },
  release(memory, heap) {
    for (const state of statesIn(memory)) {
      releaseRecords(heap, state)
      releasePaths(heap, state)
    }
  },
}

const statesIn = (memory: Memory): LinkState[] =>
  Object.values((memory[LINKS.name] ?? {}) as LinkMemory).flatMap((states) => Object.values(states))

function prepareLinks(
  bodies: SolverBodies,
  member: Member,
  feed: Feed<LinkRule>,
  memory: Memory,
  { machine, bodies: meshes, h }: ConstraintMoment,
): Linked {
  const { population, first, count: particles } = member
  const links = linksOf(memory, population.id)
  const state = (links[feed.influence] ??= noLinks())
  const who = `${population.nextId} ${first} ${particles}`
  if (pathsNow.get(state)?.of !== nameOf(state, who)) {
    syncLinks(state, machine)
    linkNewborn(machine, population, feed, state, meshes)
    const at = recordsIn(machine.heap, state)
    const made = countOf(state)
    const count = machine.call('placeLinks', { links: at, count: made, ids: population.columns.at.id, particles, first }) // prettier-ignore
    keepRecords(machine.heap, state, at, count)
    layPaths(bodies, member, state, nameOf(state, who), machine)
  }
  const paths = pathsNow.get(state)!
  const { compliance, soft } = feed.rule
  const { starts, moved } = bodies
  const acts = { amounts: feed.amount, first, compliance, soft, h }
  machine.run('startSteps', paths.stepCount, { steps: paths.steps, starts, moved, ...acts })
  return { member, feed, state, paths }
}

const countOf = ({ records }: LinkState): number => records.length / link.SIZE
const nameOf = (state: LinkState, who: string): string =>
  `${who} ${state.made} ${state.broken} ${countOf(state)}`

/** Held paths that swing farther in a substep than rounds can follow are led; impulses are turned back. */
function finishPaths(
  all: Linked[],
  { rows, kicks, h }: { rows: number; kicks: number; h: number },
  machine: Machine,
): void {
  for (const { feed, paths } of all) {
    const { batches, steps, stretches } = paths
    machine.runPhases('followPaths', stretches, { batches, steps, rows, gamma: feed.rule.damping / h })
    machine.runPhases('turnImpulses', stretches, { batches, steps, rows, kicks })
  }
}

const pathsNow = new WeakMap<LinkState, Paths>()

/** Lays links out in paths, which stand while no link comes or goes. */
function layPaths(
  { block, count: nobody }: SolverBodies,
  member: Member,
  state: LinkState,
  of: string,
  machine: Machine,
): void {
  const { heap } = machine
  releasePaths(heap, state)
  const count = countOf(state)
  const { first, count: particles } = member
  const links = state.records.byteOffset
  const [masks, paths] = [block(particles * 8), block(count * linkPath.SIZE * F32)]
  const found = machine.call('findPaths', { links, count, particles, first, masks, paths })
  const [order, sorted, counts] = [found, found, linkPath.LENGTHS + 1].map((words) => block(words * 4)) as [number, number, number] // prettier-ignore
  const colours = linkPath.COLOURS + 2
  const [starts, slots] = [block(colours * 4), block(count * 16)]
  const batches = heap.allocate(Math.max(1, found) * pathBatch.SIZE * 4)
  machine.call('batchPaths', { paths, count: found, order, sorted, counts, batches, slots, starts })
  const firsts = heap.u32(starts, colours)
  const stepCount = firsts[colours - 1]!
  const stretches = stretchesOf(firsts)
  const steps = heap.allocate(Math.max(1, stepCount) * pathStep.SIZE * F32)
  machine.run('laySteps', stepCount, { links, slots, nobody, steps })
  pathsNow.set(state, { of, batches, steps, stepCount, stretches })
}

/** Brings what links have come to into their records. */
function syncLinks(state: LinkState, machine: Machine): void {
  const paths = pathsNow.get(state)
  if (!paths) return
  const { stepCount, steps } = paths
  const most = machine.call('syncSteps', { count: stepCount, steps, links: state.records.byteOffset })
  state.most = Math.max(state.most, most)
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
  heap.free(known.steps)
  pathsNow.delete(state)
}

/** After the rounds: how far links stretch, and which of them are cut or break. */
function applyLinks(bodies: SolverBodies, linked: Linked, moment: ConstraintMoment): void {
  const { feed, state, paths } = linked
  const { machine, h, from, to } = moment
  const { heap } = machine
  const { starts, moved, block } = bodies
  const { breaks, yields, creep, compliance, soft } = feed.rule
  const links = state.records.byteOffset
  const flag = block(4)
  heap.u32(flag, 1)[0] = 0
  cut(bodies, linked, flag, moment)
  const strains = { breaks, yields, creep: Math.min(1, creep * 24 * h) }
  machine.run('strainSteps', paths.stepCount, { steps: paths.steps, links, starts, moved, ...strains, flag })
  const endsFrame = from === to || Number.isInteger(to)
  const goes = heap.u32(flag, 1)[0] === 1
  if (!goes && !endsFrame) return
  syncLinks(state, machine)
  const count = countOf(state)
  state.elastic = machine.call('energyOfLinks', { links, count, moved, compliance, soft, h })
  if (!goes) return
  const broken = block(count * link.SIZE * F64)
  const left = machine.call('removeBroken', { links, count, broken })
  state.broken += count - left
  releasePaths(heap, state)
  keepRecords(heap, state, links, left)
  recordBreaks(bodies, linked, heap.f64(broken, (count - left) * link.SIZE), moment)
}

/** Links through which the surface of a mesh passes are cut. */
function cut(
  { starts, moved }: SolverBodies,
  { feed, state }: Linked,
  flag: number,
  { machine, bodies: meshes, from, to }: ConstraintMoment,
): void {
  const blade = feed.rule.cut === undefined ? undefined : meshes.get(feed.rule.cut)
  const count = countOf(state)
  if (!blade || count === 0) return
  const { cutter, free } = bladeOf(machine.heap, blade, { from, to })
  machine.run('cutLinks', count, { links: state.records.byteOffset, starts, moved, ...cutter, flag })
  free()
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
    const [a, b] = [link.bodyA, link.bodyB].map((side) =>
      placeOfBody(bodies, machine, records[n + side]!),
    ) as [Vector, Vector]
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

/** Whom links hold already: they do not collide. */
function partnersOf(
  { count: particles, block }: SolverBodies,
  all: Linked[],
  machine: Machine,
): SolverBodies['partners'] {
  const count = all.reduce((sum, { state }) => sum + countOf(state), 0)
  const of = all.map(({ paths }) => paths.of).join()
  const list = (): { first: number; list: number } => {
    if (count === 0) return { first: 0, list: 0 }
    const [ends, first, partners] = [count * 8, (particles + 1) * 4, count * 8].map(block) as [number, number, number] // prettier-ignore
    let at = ends
    for (const { member, state } of all) {
      const { population, first: from, count: some } = member
      const among = { ids: population.columns.at.id, particles: some, first: from }
      machine.run('linkEnds', countOf(state), { links: state.records.byteOffset, ...among, ends: at })
      at += countOf(state) * 8
    }
    machine.call('partnersOfEnds', { count, ends, particles, first, partners })
    return { first, list: partners }
  }
  return { of, list }
}
