/** Who may touch whom in a substep, and what they bore in the last one. The kernels are assembly/pairs.ts. */
import type { Machine } from '@tangle/kernels'
import type { Moment } from '../simulation/influencePass.ts'
import { LINK } from './linkTopology.ts'
import { buildGrid, type Crowd } from '../state/neighbours.ts'
import type { TouchRule } from './feeds.ts'
import type { Block, Ready, World } from './solverBodies.ts'

/** Candidates for contact are looked for within this many times the sum of the radii. */
const MARGIN = 1.1
/** Numbers in the record of a pair. */
export const PAIR = 16
/** Numbers that are remembered of a contact. */
const KNOWN = 8
export interface Pairs {
  at: number
  count: number
  rules: number
  /** u32 and i32 of each particle in the bundle. */
  ids: number
  kinds: number
}

export function warm(
  { at, count, ids, kinds }: Pairs,
  { contacts }: World,
  bundle: number,
  machine: Machine,
  block: Block,
) {
  const { heap } = machine
  const before = contacts.length / KNOWN
  if (before === 0 || count === 0) return
  const known = block(contacts.byteLength)
  heap.f64(known, contacts.length).set(contacts)
  const room = 2 ** Math.ceil(Math.log2(2 * before))
  machine.call('warmPairs', at, count, bundle, ids, kinds, known, before, block(room * 4), room - 1)
}
export function know({ at, count, ids, kinds }: Pairs, world: World, machine: Machine, block: Block): void {
  const known = block(Math.max(1, count) * KNOWN * 8)
  const bearing = machine.call('knowPairs', at, count, ids, kinds, known)
  world.contacts = machine.heap.f64(known, bearing * KNOWN).slice()
}

/** Who may touch whom, and the rules of all of them. */
export function findPairs(
  ready: Ready[],
  total: number,
  bundle: number,
  moment: Moment,
  block: Block,
): Pairs {
  const { machine } = moment
  const { heap } = machine
  const rules: TouchRule[] = []
  const populations = ready.length
  const allowed = block(populations * populations * 4)
  const allow = new Int32Array(
    heap.u32(allowed, populations * populations).buffer,
    allowed,
    populations * populations,
  ).fill(-1)
  const amounts = block(total * 4)
  const kinds = block(total * 4)
  ready.forEach(({ run, first, touches }, n) => {
    const { count } = run.columns
    heap.u32(kinds, total).fill(n, first, first + count)
    const own = heap.f32(amounts, total).subarray(first, first + count)
    own.fill(touches.length > 0 ? 0 : 1)
    for (const { kind, values, substep } of touches) {
      const rule = kind.touch!(values)
      const other = rule.with === undefined ? n : ready.findIndex((one) => one.run.source.id === rule.with)
      if (other < 0) continue
      allow[n * populations + other] = rules.length
      allow[other * populations + n] = rules.length
      rules.push(rule)
      const given = heap.f32(substep.amount, count)
      for (let i = 0; i < count; i++) own[i] = Math.max(own[i]!, given[i]!)
    }
  })
  const table = block(Math.max(1, rules.length) * 32)
  heap
    .f64(table, rules.length * 4)
    .set(rules.flatMap(({ bounce, friction, sliding, sticky }) => [bounce, friction, sliding, sticky]))
  const ids = block(total * 4)
  for (const { run, first } of ready)
    heap.u32(ids, total).set(heap.u32(run.columns.at.id, run.columns.count), first)
  if (rules.length === 0) return { at: 0, count: 0, rules: table, ids, kinds }
  const most = Math.max(...rules.map((rule) => rule.most))
  const crowd = crowdTogether(ready, total, moment, block)
  const widest = heap.f32(crowd.radius, total).reduce((a, b) => (b > a ? b : a), 0)
  const grid = buildGrid(machine, crowd, 2 * widest * MARGIN, 24)
  const [counts, slots] = [block(total * 4), block(total * most * 4)]
  const partners = partnersOf(ready, total, machine, block)
  const who = [kinds, allowed, populations, amounts, partners.first, partners.list]
  const { position, radius, velocity } = crowd
  const balls = [position, radius, velocity, widest, MARGIN, most]
  machine.run('listPairs', total, grid.at, ...balls, ...who, counts, slots, moment.h)
  grid.free()
  const listed = heap.u32(counts, total).reduce((sum, n) => sum + n, 0)
  const at = block(listed * PAIR * 8)
  const count = machine.call('packPairs', total, most, counts, slots, kinds, allowed, populations, bundle, at)
  return { at, count, rules: table, ids, kinds }
}

/** The particles of all members side by side: half-way through the substep, with what they move in it as velocity. */
function crowdTogether(ready: Ready[], total: number, { machine, h }: Moment, block: Block): Crowd {
  const { heap } = machine
  const crowd = {
    count: total,
    position: block(total * 12),
    radius: block(total * 4),
    velocity: block(total * 12),
  }
  for (const { run, first } of ready) {
    const { count, at } = run.columns
    heap.f32(crowd.radius, total).set(heap.f32(at.radius, count), first)
    const places = [crowd.position + first * 12, crowd.velocity + first * 12]
    machine.run('halfWay', count, at.previous, at.position, h, ...places)
  }
  return crowd
}

/** Whom links hold already: they do not collide. All links stand side by side for this. */
function partnersOf(
  ready: Ready[],
  total: number,
  machine: Machine,
  block: Block,
): { first: number; list: number } {
  const { heap } = machine
  const all = ready.flatMap(({ links }) => links)
  const count = all.reduce((sum, one) => sum + one.count, 0)
  if (count === 0) return { first: 0, list: 0 }
  const [first, list] = [block((total + 1) * 4), block(count * 8)]
  let together = all[0]!.at
  if (all.length > 1) {
    together = block(count * LINK * 8)
    let to = 0
    for (const one of all) {
      heap.f64(together, count * LINK).set(heap.f64(one.at, one.count * LINK), to)
      to += one.count * LINK
    }
  }
  machine.call('linkPartners', together, count, total, first, list)
  return { first, list }
}
