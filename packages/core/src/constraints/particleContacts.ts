/** Particles that touch one another, of one population or of several. The kernels are assembly/particleContacts.ts. */
import { layouts, type Machine } from '@tangle/kernels'
import { buildGrid, type Crowd } from '../state/neighbours.ts'
import { eventOf } from '../state/events.ts'
import { view } from '../state/columns.ts'
import type { ConstraintKind, ConstraintMoment, Memory, SolverBodies } from './constraint.ts'
import { FIRMNESS, type Material } from './materials.ts'

const { contact, contactRule, storedImpulse, F64 } = layouts

/** How particles of a population touch one another, or those of another population. */
export interface ContactRule extends Material {
  /** Id of the other population. */
  with?: string
  /** Most contacts that a particle looks for. */
  most: number
}

/** Candidates for contact are looked for within this many times the sum of the radii. */
const MARGIN = 1.1

/** Contacts of a substep, as pointers. */
interface Contacts {
  at: number
  count: number
  rules: number
  /** u32 and i32 of each body. */
  ids: number
  kinds: number
}
interface ContactMemory {
  /** What bore in the last substep: storedImpulse. */
  impulses: Float64Array
}

export const PARTICLE_CONTACTS: ConstraintKind<ContactRule> = {
  name: 'particleContacts',
  does: 'particles hold one another apart by their radii and masses, and rub',
  couples: true,
  prepare(bodies, memory, moment) {
    const { machine, h } = moment
    const contacts = findContacts(bodies, moment)
    bodies.contacts = contacts
    const { at, count, rules } = contacts
    const pairs = { pairs: at, count, bodies: bodies.at }
    const { wakeSpeed, marks } = bodies
    if (wakeSpeed < Infinity) machine.call('wakePairs', { ...pairs, speed: wakeSpeed })
    machine.call('markContacts', { ...pairs, particles: bodies.count, marks })
    return {
      warmStart: () => warmStart(bodies, contacts, memory, machine),
      project: (round) => void machine.call('solvePairs', { ...pairs, rules, h, backward: round % 2 }),
      solveVelocities(rest) {
        for (const backward of [0, 1])
          machine.call('solvePairVelocities', { ...pairs, rules, rest, backward })
      },
      depenetrate: (round) =>
        void machine.call('depenetratePairs', { ...pairs, firm: FIRMNESS, backward: round % 2 }),
      finish() {
        storeImpulses(bodies, contacts, memory, machine)
        machine.call('countTouches', { ...pairs, particles: bodies.count, touches: bodies.touches })
        recordTouches(bodies, contacts, moment)
      },
    }
  },
}

/** Contacts go on from what they bore in the last substep. */
function warmStart(
  bodies: SolverBodies,
  { at, count, ids, kinds }: Contacts,
  memory: Memory,
  machine: Machine,
): void {
  const { impulses } = (memory[PARTICLE_CONTACTS.name] ?? { impulses: [] }) as ContactMemory
  const storedCount = impulses.length / storedImpulse.SIZE
  if (storedCount === 0 || count === 0) return
  const stored = bodies.block(impulses.byteLength)
  machine.heap.f64(stored, impulses.length).set(impulses)
  const room = 2 ** Math.ceil(Math.log2(2 * storedCount))
  machine.call('warmStartPairs', {
    pairs: at,
    count,
    bodies: bodies.at,
    ids,
    kinds,
    stored,
    storedCount,
    table: bodies.block(room * 4),
    mask: room - 1,
  })
}

function storeImpulses(bodies: SolverBodies, contacts: Contacts, memory: Memory, machine: Machine): void {
  const { at, count, ids, kinds } = contacts
  const stored = bodies.block(count * storedImpulse.SIZE * F64)
  const bearing = machine.call('storeImpulses', { pairs: at, count, ids, kinds, stored })
  const impulses = machine.heap.f64(stored, bearing * storedImpulse.SIZE).slice()
  memory[PARTICLE_CONTACTS.name] = { impulses } satisfies ContactMemory
}

/** Contacts that bear now and did not in the last substep. */
function recordTouches(
  bodies: SolverBodies,
  { at, count }: Contacts,
  { machine, to }: ConstraintMoment,
): void {
  const { heap } = machine
  if (count === 0) return
  const out = bodies.block(count * 4)
  const fresh = machine.call('newTouches', { pairs: at, count, out })
  const records = heap.f64(at, count * contact.SIZE)
  const memberOf = (one: number) => bodies.members.findLast(({ first }) => first <= one) ?? bodies.members[0]! // every body has a member
  for (const n of heap.u32(out, fresh)) {
    const [a, b] = [records[n * contact.SIZE + contact.a]!, records[n * contact.SIZE + contact.b]!]
    const [one, other] = [memberOf(a), memberOf(b)]
    const place = (body: number): [number, number, number] => {
      const [x, y, z] = heap.f64(bodies.at + body * layouts.body.SIZE * F64, 3)
      return [x!, y!, z!]
    }
    const [p, q] = [place(a), place(b)]
    const apart = p.map((x, axis) => x - q[axis]!)
    const far = Math.sqrt(apart[0]! ** 2 + apart[1]! ** 2 + apart[2]! ** 2) || 1
    const id = view(one.population.columns, 'id')[a - one.first]!
    one.population.events.add(
      eventOf('touch', to, id, {
        other: view(other.population.columns, 'id')[b - other.first]!,
        of: other.population.id,
        place: [0, 1, 2].map((axis) => (p[axis]! + q[axis]!) / 2) as [number, number, number],
        normal: [0, 1, 2].map((axis) => apart[axis]! / far) as [number, number, number],
      }),
    )
  }
}

/** Who may touch whom by which rule: a table of populations². */
function contactTable(bodies: SolverBodies, machine: Machine) {
  const { heap } = machine
  const { members, count: total, block } = bodies
  const populations = members.length
  const rules: ContactRule[] = []
  const allowed = block(populations * populations * 4)
  const allow = new Int32Array(heap.memory.buffer, allowed, populations * populations).fill(-1)
  const [amounts, kinds, ids] = [block(total * 4), block(total * 4), block(total * 4)]
  members.forEach(({ population, first, count }, n) => {
    heap.u32(kinds, total).fill(n, first, first + count)
    heap.u32(ids, total).set(heap.u32(population.columns.at.id, count), first)
    const feeds = population.feeds(PARTICLE_CONTACTS)
    const own = heap.f32(amounts, total).subarray(first, first + count)
    own.fill(feeds.length > 0 ? 0 : 1)
    for (const { rule, amount, free } of feeds) {
      const other = rule.with === undefined ? n : members.findIndex((one) => one.population.id === rule.with)
      if (other >= 0) {
        allow[n * populations + other] = rules.length
        allow[other * populations + n] = rules.length
        rules.push(rule)
        const given = heap.f32(amount, count)
        for (let i = 0; i < count; i++) own[i] = Math.max(own[i]!, given[i]!)
      }
      free()
    }
  })
  return { rules, allowed, populations, amounts, kinds, ids }
}

/** Who may touch whom in this substep, and by which rule. */
function findContacts(bodies: SolverBodies, { machine, h }: ConstraintMoment): Contacts {
  const { heap } = machine
  const { count: total, block, partners } = bodies
  const { rules, allowed, populations, amounts, kinds, ids } = contactTable(bodies, machine)
  const table = block(rules.length * contactRule.SIZE * F64)
  heap
    .f64(table, rules.length * contactRule.SIZE)
    .set(rules.flatMap(({ bounce, friction, sliding, sticky }) => [bounce, friction, sliding, sticky]))
  if (rules.length === 0) return { at: 0, count: 0, rules: table, ids, kinds }
  const most = Math.max(...rules.map((rule) => rule.most))
  const crowd = crowdOfAll(bodies, machine, h)
  const widest = heap.f32(crowd.radius, total).reduce((a, b) => (b > a ? b : a), 0)
  const grid = buildGrid(machine, crowd, 2 * widest * MARGIN, 24)
  const [counts, slots] = [block(total * 4), block(total * most * 4)]
  const { position, radius, velocity } = crowd
  machine.run('listPairs', total, {
    cells: grid.at,
    position,
    radius,
    velocity,
    widest,
    margin: MARGIN,
    most,
    kinds,
    allowed,
    populations,
    amounts,
    partnerFirst: partners.first,
    partners: partners.list,
    counts,
    slots,
    h,
  })
  grid.free()
  const listed = heap.u32(counts, total).reduce((sum, n) => sum + n, 0)
  const at = block(listed * contact.SIZE * F64)
  const pairs = { most, counts, slots, kinds, allowed, populations, bodies: bodies.at, pairs: at }
  return { at, count: machine.call('packPairs', { count: total, ...pairs }), rules: table, ids, kinds }
}

/** The particles of all members side by side: half-way through the substep, with what they move in it as velocity. */
function crowdOfAll({ members, count: total, block }: SolverBodies, machine: Machine, h: number): Crowd {
  const { heap } = machine
  const crowd = {
    count: total,
    position: block(total * 12),
    radius: block(total * 4),
    velocity: block(total * 12),
  }
  for (const { population, first, count } of members) {
    const { startPosition, position, radius } = population.columns.at
    heap.f32(crowd.radius, total).set(heap.f32(radius, count), first)
    const [middle, velocity] = [crowd.position + first * 12, crowd.velocity + first * 12]
    machine.run('halfWay', count, { from: startPosition, to: position, h, middle, velocity })
  }
  return crowd
}
