/** Particles that touch one another, of one population or of several. The kernels are assembly/particleContacts.ts. */
import { layouts, type Heap, type Machine } from '@tangle/kernels'
import { eventOf } from '../state/events.ts'
import { view } from '../state/columns.ts'
import type { ConstraintKind, ConstraintMoment, Memory, SolverBodies } from './constraint.ts'
import {
  isCurrent,
  listContacts,
  storeContacts,
  type ContactList,
  type ContactTable,
  type StoredContacts,
} from './contactList.ts'
import { withContent } from './contactSlabs.ts'
import { contactSweeps, FIRMNESS, type Material } from './materials.ts'
import { placeOfBody, typicalGain } from './solverBodies.ts'

const { contactStep, storedImpulse, F32 } = layouts

/** How particles of a population touch one another, or those of another population. */
export interface ContactRule extends Material {
  /** Id of the other population. */
  with?: string
  /** Most contacts that a particle looks for. */
  most: number
}

/** What bore in the last substep, as it stands in snapshots: StoredContacts. */
interface ContactMemory {
  names: string[]
  ids: Uint32Array
  kinds: Uint32Array
  first: Uint32Array
  impulses: Uint32Array
}

export const PARTICLE_CONTACTS: ConstraintKind<ContactRule> = {
  name: 'particleContacts',
  does: 'particles hold one another apart by their radii and masses, and rub',
  couples: true,
  pace: 'touch',
  prepare(bodies, memory, moment) {
    const { machine, h } = moment
    const list = contactsNow(bodies, memory, moment)
    if (!list) return null
    const { steps, slabRecords, batches, phases: all } = list
    bodies.contacts = { steps, batches }
    const { starts, moved, speeds, sleeps, awakeMass, marks, touches, wakeSpeed } = bodies
    const which = { slabRecords, steps, active: bodies.block(batches * 4) }
    if (wakeSpeed < Infinity)
      machine.runPhases('wakePairs', all, { slabRecords, steps, starts, moved, speeds, sleeps, awakeMass, speed: wakeSpeed }) // prettier-ignore
    machine.runPhases('startPairs', all, { ...which, starts, moved, speeds, marks })
    const phases = withContent(all, slabRecords, machine)
    /** Every other round goes backward. */
    const turned = [phases, phases.toReversed()] as const
    return {
      warmStart: () => machine.runPhases('warmStartPairs', phases, { ...which, moved }),
      sweeps: contactSweeps(h, (typicalGain(bodies) * h) / list.widest),
      project(sweep) {
        const backward = sweep % 2
        machine.runPhases('solvePairs', turned[backward]!, { ...which, moved, h, backward })
      },
      solveVelocities(rest) {
        for (const backward of [0, 1])
          machine.runPhases('solvePairVelocities', turned[backward]!, { ...which, speeds, rest, backward })
      },
      depenetrate(round) {
        const backward = round % 2
        machine.runPhases('depenetratePairs', turned[backward]!, { ...which, moved, firm: FIRMNESS, backward }) // prettier-ignore
      },
      finish() {
        const fresh = bodies.block(batches * 4)
        machine.runPhases('finishPairs', phases, { ...which, moved, touches, fresh })
        recordTouches(bodies, fresh, moment)
      },
    }
  },
  store(memory, machine) {
    const list = listNow.get(memory)
    if (!list) return
    const { heap } = machine
    const owned: number[] = []
    const block = (bytes: number): number => {
      owned.push(heap.allocate(Math.max(8, bytes)))
      return owned.at(-1)!
    }
    const { count, names, ids, kinds, first, impulses, bearing } = storeContacts(list, block, machine)
    const copy = (pointer: number, words: number): Uint32Array => heap.u32(pointer, words).slice()
    memory[PARTICLE_CONTACTS.name] = {
      names,
      ids: copy(ids, count),
      kinds: copy(kinds, count),
      first: copy(first, count + 1),
      impulses: copy(impulses, bearing * storedImpulse.SIZE),
    } satisfies ContactMemory
    owned.forEach((pointer) => heap.free(pointer))
  },
  release: (memory) => dropList(memory),
}

/** A list that lasts no longer was not worth its making. */
const FEW_SUBSTEPS = 2

/** The candidates that are at work. */
const listNow = new WeakMap<Memory, ContactList>()

function dropList(memory: Memory): void {
  listNow.get(memory)?.free()
  listNow.delete(memory)
}

/** The candidates of a substep: those of the last one where they will do. Null where nobody touches another. */
function contactsNow(bodies: SolverBodies, memory: Memory, moment: ConstraintMoment): ContactList | null {
  const { machine, from, to } = moment
  const table = contactTable(bodies, machine)
  const known = listNow.get(memory)
  // what settles before the first frame is not taken up half-way
  const isFirst = from !== to && Number.isInteger(from)
  if (table && known && !isFirst && isCurrent(known, bodies, table, moment)) {
    known.used++
    return known
  }
  // where lists do not last, those that are good for one substep are shorter
  const mayKeep = isFirst || !known || known.used > FEW_SUBSTEPS
  const stored = known ? storeContacts(known, bodies.block, machine) : storedIn(memory, bodies, machine.heap)
  const list = table && listContacts(bodies, table, stored, mayKeep, moment)
  dropList(memory)
  delete memory[PARTICLE_CONTACTS.name]
  if (list) listNow.set(memory, list)
  return list
}

function storedIn(memory: Memory, { block }: SolverBodies, heap: Heap): StoredContacts | null {
  const stored = memory[PARTICLE_CONTACTS.name] as ContactMemory | undefined
  if (!stored) return null
  const put = (values: Uint32Array): number => {
    const pointer = block(values.byteLength)
    heap.u32(pointer, values.length).set(values)
    return pointer
  }
  const { names, ids, kinds, first, impulses } = stored
  return {
    count: ids.length,
    names,
    ids: put(ids),
    kinds: put(kinds),
    first: put(first),
    impulses: put(impulses),
    bearing: impulses.length / storedImpulse.SIZE,
  }
}

/** Contacts that bear now and did not in the last substep. */
function recordTouches(bodies: SolverBodies, fresh: number, { machine, to }: ConstraintMoment): void {
  const { heap } = machine
  const { steps, batches } = bodies.contacts
  if (batches === 0) return
  const out = bodies.block(batches * 16)
  const found = machine.call('pairsOfBits', { count: batches, bits: fresh, out })
  const memberOf = (one: number) => bodies.members.findLast(({ first }) => first <= one) ?? bodies.members[0]! // every body has a member
  for (const n of heap.u32(out, found)) {
    const step = heap.u32(steps + (n >> 2) * contactStep.SIZE * F32, contactStep.SIZE)
    const [a, b] = [step[contactStep.bodyA + (n & 3)]!, step[contactStep.bodyB + (n & 3)]!]
    const [one, other] = [memberOf(a), memberOf(b)]
    const [p, q] = [placeOfBody(bodies, machine, a), placeOfBody(bodies, machine, b)]
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

/** Who may touch whom by which rule, a table of populations²; null where nobody does. */
function contactTable(bodies: SolverBodies, machine: Machine): ContactTable | null {
  const { heap } = machine
  const { members, count: total, block, partners } = bodies
  const populations = members.length
  const rules: ContactRule[] = []
  const allowed = block(populations * populations * 4)
  const allow = heap.u32(allowed, populations * populations).fill(2 ** 32 - 1)
  const [amounts, kinds, ids] = [block(total * 4), block(total * 4), block(total * 4)]
  members.forEach(({ population, first, count }, n) => {
    heap.u32(kinds, total).fill(n, first, first + count)
    heap.u32(ids, total).set(heap.u32(population.columns.at.id, count), first)
    const feeds = population.feeds(PARTICLE_CONTACTS)
    const own = heap.f32(amounts, total).subarray(first, first + count)
    own.fill(feeds.length > 0 ? 0 : 1)
    feeds.forEach(({ rule, amount, free }, k) => {
      const other = rule.with === undefined ? n : members.findIndex((one) => one.population.id === rule.with)
      if (other >= 0) {
        allow[n * populations + other] = rules.length
        allow[other * populations + n] = rules.length
        rules.push(rule)
        const given = heap.f32(amount, count)
        if (k === 0) own.set(given)
        else for (let i = 0; i < count; i++) own[i] = Math.max(own[i]!, given[i]!)
      }
      free()
    })
  })
  if (rules.length === 0) return null
  const numbers = rules.flatMap(({ bounce, friction, sliding, sticky }) => [
    bounce,
    friction,
    sliding,
    sticky,
  ])
  const who = members.map(({ population: { id, nextId }, count }) => `${id} ${nextId} ${count}`)
  return {
    rules: numbers,
    allowed,
    kinds,
    ids,
    amounts,
    populations,
    names: members.map(({ population }) => population.id),
    most: Math.max(...rules.map((rule) => rule.most)),
    of: [partners.of, ...who, Array.from(allow), numbers].join(' '),
  }
}
