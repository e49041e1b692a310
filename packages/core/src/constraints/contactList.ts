/**
 * Candidates for contact between particles, cut into slabs of space and batches of four. A list is kept for the substeps of a
 * frame in which nobody goes farther than it allows for; each frame begins with a new one, so that it follows from a snapshot.
 * The kernels are assembly/pairs.ts and warmStart.ts.
 */
import { layouts, type Heap, type Machine, type Phase } from '@tangle/kernels'
import { buildGrid } from '../state/neighbours.ts'
import { batchPairs, cutIntoSlabs, type Bounds, type Pairs } from './contactSlabs.ts'
import type { ConstraintMoment, SolverBodies } from './constraint.ts'

const { bodyRow, contactStep, storedImpulse, F32, F64 } = layouts

/** Who may touch whom, and by which rule. */
export interface ContactTable {
  /** Numbers of each rule (contactRule). */
  rules: number[]
  /** Pointers: i32 of two populations; i32, u32 and f32 of each body. */
  allowed: number
  kinds: number
  ids: number
  amounts: number
  populations: number
  /** Ids of the populations, by the numbers that `kinds` has. */
  names: string[]
  /** Most contacts that a particle looks for. */
  most: number
  /** Says what else the candidates depend on. */
  of: string
}

/** What contacts bore; all pointers. The contacts of a body stand side by side, from `first` on. */
export interface StoredContacts {
  count: number
  names: string[]
  kinds: number
  ids: number
  first: number
  impulses: number
  bearing: number
}

export interface ContactList {
  /** Pointers to the steps and to the slabs, and how many steps there are. */
  steps: number
  slabRecords: number
  batches: number
  /** Slabs that may be solved at once: all even ones, all odd ones, and the one of what bridges more. */
  phases: Phase[]
  /** Pointers: where bodies stood when it was made, their radii, and what they moved. */
  position: number
  radius: number
  motion: number
  /** How many times that they may go; 0: it is good for one substep. */
  ahead: number
  /** Greatest radius. */
  widest: number
  /** Substeps for which it was good. */
  used: number
  table: ContactTable
  count: number
  free(): void
}

/** Candidates are looked for within this many times the sum of the radii. */
const MARGIN = 1.1
/** Of a list that is kept: that, and the share of its radius that each may go beyond what was foreseen. */
const KEPT_MARGIN = 1.3
const SPARE = 0.2
/** It foresees that most go no farther than this share of their radii, and the fastest no farther than that. */
const MOST_FORESEEN = { typical: 0.15, fastest: 2 }
/** The fastest of a list that is kept moves less than this share of its radius in a substep. */
const FAST = 0.5
/** As many bodies tell how all move. */
const SAMPLE = 128
/** Whether a list still holds all that may touch in this substep. */
export function isCurrent(
  list: ContactList,
  bodies: SolverBodies,
  table: ContactTable,
  { machine }: ConstraintMoment,
): boolean {
  if (list.ahead === 0 || list.table.of !== table.of) return false
  const { count, starts, moved, block } = bodies
  const { position, radius, motion, ahead } = list
  if (machine.call('differ', { count, one: list.table.amounts, other: table.amounts }) === 1) return false
  const flag = block(4)
  machine.heap.u32(flag, 1)[0] = 0
  const { heap } = machine
  const [shiftX, shiftY, shiftZ] = meanWay(bodies, heap, heap.f32(position, count * 3))
  const allowed = { position, radius, motion, shiftX, shiftY, shiftZ, ahead, share: SPARE, flag }
  machine.run('outran', count, { starts, moved, ...allowed })
  return heap.u32(flag, 1)[0] === 0
}

/** Mean way of some bodies in this substep; with `before` (3 × f32 each) their mean way from there to where it ends. */
function meanWay(
  { count, starts, moved }: SolverBodies,
  heap: Heap,
  before?: Float32Array,
): [number, number, number] {
  const stride = Math.max(1, Math.ceil(count / SAMPLE))
  const [from, by] = [heap.f32(starts, count * bodyRow.SIZE), heap.f32(moved, count * bodyRow.SIZE)]
  let [x, y, z, asked] = [0, 0, 0, 0]
  for (let i = 0; i < count; i += stride, asked++) {
    const k = i * bodyRow.SIZE
    x += by[k]!
    y += by[k + 1]!
    z += by[k + 2]!
    if (!before) continue
    x += from[k]! - before[i * 3]!
    y += from[k + 1]! - before[i * 3 + 1]!
    z += from[k + 2]! - before[i * 3 + 2]!
  }
  return [x / asked, y / asked, z / asked]
}

/** Lists who may touch whom from now on; contacts go on from what they bore. */
export function listContacts(
  bodies: SolverBodies,
  table: ContactTable,
  stored: StoredContacts | null,
  mayKeep: boolean,
  { machine }: ConstraintMoment,
): ContactList {
  const { heap } = machine
  const { count } = bodies
  const owned: number[] = []
  const keep = (bytes: number): number => {
    const pointer = heap.allocate(Math.max(8, bytes))
    owned.push(pointer)
    return pointer
  }
  const crowd = { count, position: keep(count * 12), radius: keep(count * 4), motion: keep(count * 12) }
  const { ahead, bounds, fastest } = lookAhead(bodies, crowd, mayKeep, machine)
  const pairs = findPairs(bodies, table, crowd, { ahead, fastest, widest: bounds.widest }, machine)
  const width = 2 * bounds.widest * (ahead === 0 ? MARGIN : KEPT_MARGIN)
  const cut = batchPairs(bodies, pairs, cutIntoSlabs(bodies, bounds, width, machine), keep, machine)
  const { block } = bodies
  const steps = keep(cut.total * contactStep.SIZE * F32)
  const ruleTable = block(table.rules.length * F64)
  heap.f64(ruleTable, table.rules.length).set(table.rules)
  const { kinds, ids, allowed, populations } = table
  machine.run('layPairs', cut.count, {
    slabRecords: cut.slabRecords,
    offsets: cut.offsets,
    batches: cut.batches,
    nobody: count,
    kinds,
    ids,
    allowed,
    populations,
    rules: ruleTable,
    oldOf: oldNumbers(bodies, table, stored, machine),
    storedFirst: stored?.first ?? 0,
    stored: stored?.impulses ?? 0,
    steps,
  })
  const copies = {
    amounts: copyOf(heap, keep, table.amounts, count),
    kinds: copyOf(heap, keep, kinds, count),
    ids: copyOf(heap, keep, ids, count),
  }
  return {
    ...crowd,
    steps,
    slabRecords: cut.slabRecords,
    batches: cut.total,
    phases: cut.phases,
    ahead,
    widest: bounds.widest,
    used: 1,
    table: { ...table, ...copies },
    free: () => owned.forEach((pointer) => heap.free(pointer)),
  }
}

function copyOf(heap: Heap, keep: (bytes: number) => number, from: number, count: number): number {
  const to = keep(count * 4)
  heap.u32(to, count).set(heap.u32(from, count))
  return to
}

interface Crowd {
  count: number
  position: number
  radius: number
  motion: number
}

/**
 * For how many times what bodies move now a list is to be good, 0 for this substep only, and where they are. A list that
 * foresees much holds many who never meet.
 */
function lookAhead(
  bodies: SolverBodies,
  crowd: Crowd,
  mayKeep: boolean,
  machine: Machine,
): { ahead: number; bounds: Bounds; fastest: number } {
  const { heap } = machine
  const { count, starts, moved, block } = bodies
  const out = block(32)
  machine.call('boundBodies', { count, starts, out })
  const [lowX, lowY, lowZ, , highX, highY, highZ, widest] = heap.f32(out, 8)
  const bounds = { low: [lowX!, lowY!, lowZ!], high: [highX!, highY!, highZ!], widest: widest! }
  const [meanX, meanY, meanZ] = meanWay(bodies, heap)
  const { position, radius, motion } = crowd
  const fill = (share: number): void =>
    machine.run('crowdOfBodies', count, {
      starts,
      moved,
      meanX,
      meanY,
      meanZ,
      share,
      position,
      radius,
      motion,
    })
  fill(0)
  const fastest = machine.call('mostMotion', { count, motion, radius })
  if (!mayKeep) {
    fill(0.5)
    return { ahead: 0, bounds, fastest }
  }
  const typical = typicalShare(heap, crowd)
  const { typical: most, fastest: farthest } = MOST_FORESEEN
  const ahead = Math.floor(Math.min(most / typical, farthest / fastest, 64))
  if (fastest < FAST && ahead >= 2) return { ahead, bounds, fastest }
  fill(0.5)
  return { ahead: 0, bounds, fastest }
}
/** What half of all move at most, as a share of their radii. */
function typicalShare(heap: Heap, { count, motion, radius }: Crowd): number {
  const [by, r] = [heap.f32(motion, count * 3), heap.f32(radius, count)]
  const stride = Math.max(1, Math.ceil(count / SAMPLE))
  const shares = new Float64Array(Math.ceil(count / stride))
  for (let n = 0; n < shares.length; n++) {
    const i = n * stride
    const [x, y, z] = [by[i * 3]!, by[i * 3 + 1]!, by[i * 3 + 2]!]
    shares[n] = Math.sqrt(x * x + y * y + z * z) / r[i]!
  }
  return shares.sort()[shares.length >> 1]!
}

/** Of each body the ones that it may touch. */
function findPairs(
  { count, partners, block }: SolverBodies,
  table: ContactTable,
  { position, radius, motion }: Crowd,
  { ahead, fastest, widest }: { ahead: number; fastest: number; widest: number },
  machine: Machine,
): Pairs {
  const { kinds, allowed, populations, amounts } = table
  const most = 2 * table.most
  const linked = partners.list()
  const margin = ahead === 0 ? MARGIN : KEPT_MARGIN
  const reach = 2 * widest * margin
  const farthest = reach + Math.max(1, 2 * ahead) * fastest * widest
  const grid = buildGrid(machine, { count, position, radius, velocity: motion }, reach, 24, farthest)
  const [counts, slots] = [block(count * 4), block(count * most * 4)]
  machine.run('listPairs', count, {
    cells: grid.at,
    widest,
    margin,
    ahead,
    most,
    kinds,
    allowed,
    populations,
    amounts,
    partnerFirst: linked.first,
    partners: linked.list,
    counts,
    slots,
  })
  grid.free()
  return { counts, slots, most }
}

/** The number that each body had when contacts were stored. */
function oldNumbers(
  { count, block }: SolverBodies,
  { kinds, ids, names }: ContactTable,
  stored: StoredContacts | null,
  machine: Machine,
): number {
  const out = block(count * 4)
  // where a population has come or gone the numbers mean others
  if (stored && stored.names.join() === names.join()) {
    const { count: oldCount, kinds: oldKinds, ids: oldIds } = stored
    machine.call('matchBodies', { count, kinds, ids, oldCount, oldKinds, oldIds, out })
  } else machine.heap.u32(out, count).fill(2 ** 32 - 1)
  return out
}

/** What the contacts of a list bear, in blocks of the heap. */
export function storeContacts(
  { steps, slabRecords, phases, table, count }: ContactList,
  block: (bytes: number) => number,
  machine: Machine,
): StoredContacts {
  const [counts, first, next] = [block(count * 4), block((count + 1) * 4), block(count * 4)]
  machine.heap.u32(counts, count).fill(0)
  const { kinds, ids } = table
  machine.runPhases('countBearing', phases, { slabRecords, steps, counts })
  const bearing = machine.call('firstsOf', { count, counts, first, next })
  const impulses = block(bearing * storedImpulse.SIZE * 4)
  machine.runPhases('storeBearing', phases, { slabRecords, steps, kinds, ids, next, stored: impulses })
  return { count, names: table.names, kinds, ids, first, impulses, bearing }
}
