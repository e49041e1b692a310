/**
 * Candidates for contact between particles, cut into slabs of space and batches of four. A list is kept for the substeps of a
 * frame in which nobody goes farther than it allows for; each frame begins with a new one, so that it follows from a snapshot.
 * The kernels are assembly/pairs.ts and warmStart.ts.
 */
import { layouts, MOST_THREADS, type Heap, type Machine, type Phase } from '@tangle/kernels'
import { buildGrid } from '../state/neighbours.ts'
import type { ConstraintMoment, SolverBodies } from './constraint.ts'

const { bodyRow, contactStep, OPEN_BATCHES, slab, storedImpulse, F32, F64 } = layouts

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
  /** Most contacts that a particle looks for. */
  most: number
  /** Says what else the candidates depend on. */
  of: string
}

/** What contacts bore; all pointers. The contacts of a body stand side by side, from `first` on. */
export interface StoredContacts {
  count: number
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
const SAMPLE = 256
/** Bodies of a slab at least, and slabs at most. */
const SLAB_BODIES = 256
const MOST_BINS = 1024
const MOST_LAYERS = 256
/** A side of so many bins is wide enough to be cut. */
const FEW_BINS = 4

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
  const places = heap.f32(position, count * 3)
  const [sx, sy, sz] = meanOf(heap, bodies, (i, axis, row) => row[axis]! - places[i * 3 + axis]!)
  const shift = { shiftX: sx, shiftY: sy, shiftZ: sz }
  const allowed = { position, radius, motion, ...shift, ahead, share: SPARE, flag }
  machine.run('outran', count, { starts, moved, ...allowed })
  return heap.u32(flag, 1)[0] === 0
}

/** Mean of what is asked of the places of some bodies at the end of the substep. */
function meanOf(
  heap: Heap,
  { count, starts, moved }: SolverBodies,
  of: (body: number, axis: number, place: number[]) => number,
): [number, number, number] {
  const stride = Math.max(1, Math.ceil(count / SAMPLE))
  const [from, by] = [starts, moved].map((table) => heap.f32(table, count * bodyRow.SIZE)) as [
    Float32Array,
    Float32Array,
  ]
  const sum: [number, number, number] = [0, 0, 0]
  let asked = 0
  for (let i = 0; i < count; i += stride, asked++) {
    const k = i * bodyRow.SIZE
    const place = [0, 1, 2].map((axis) => from[k + axis]! + by[k + axis]!)
    for (let axis = 0; axis < 3; axis++) sum[axis]! += of(i, axis, place)
  }
  return sum.map((x) => x / asked) as [number, number, number]
}

/** Lists who may touch whom from now on; contacts go on from what they bore. */
export function listContacts(
  bodies: SolverBodies,
  table: ContactTable,
  stored: StoredContacts | null,
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
  const { ahead, bounds } = lookAhead(bodies, crowd, machine)
  const pairs = findPairs(bodies, table, crowd, ahead, bounds.widest, machine)
  const slabs = cutIntoSlabs(
    bodies,
    bounds,
    upOf(bodies, machine),
    ahead === 0 ? MARGIN : KEPT_MARGIN,
    machine,
  )
  const { block } = bodies
  const scope = {
    slabs: slabs.of,
    slabCount: slabs.count,
    layers: slabs.layers,
    first: slabs.first,
    order: slabs.order,
    ...pairs,
  }
  const [found, bridging] = [block(slabs.count * 4), block(slabs.count * 4)]
  machine.run('countPairs', slabs.count, { ...scope, out: found, bridging })
  const sizes = Array.from(heap.u32(found, slabs.count))
  const far = heap.u32(bridging, slabs.count).reduce((a, b) => a + b, 0)
  if (far > 0) sizes.push(far)
  const offsets = block(sizes.length * 4)
  let all = 0
  sizes.forEach((size, s) => {
    heap.u32(offsets, sizes.length)[s] = all
    all += size
  })
  const [batches, made, open] = [block(all * 32), block(sizes.length * 4), block(MOST_THREADS * OPEN_BATCHES * 4)] // prettier-ignore
  machine.run('batchPairs', sizes.length, { ...scope, nobody: count, offsets, batches, out: made, open })
  const { order, phases } = phasesOf(slabs.count, far > 0)
  const [slabRecords, starts] = [keep(order.length * slab.SIZE * 4), block(order.length * 4)]
  let total = 0
  order.forEach((s, n) => {
    const size = heap.u32(made, sizes.length)[s]!
    heap.u32(slabRecords, order.length * slab.SIZE).set([total, size], n * slab.SIZE)
    heap.u32(starts, order.length)[n] = heap.u32(offsets, sizes.length)[s]!
    total += size
  })
  const steps = keep(total * contactStep.SIZE * F32)
  const ruleTable = block(table.rules.length * F64)
  heap.f64(ruleTable, table.rules.length).set(table.rules)
  const { kinds, ids, allowed, populations } = table
  machine.run('layPairs', order.length, {
    slabRecords,
    offsets: starts,
    batches,
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
    slabRecords,
    batches: total,
    phases,
    ahead,
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
interface Bounds {
  low: number[]
  high: number[]
  /** Greatest radius. */
  widest: number
}

/**
 * For how many times what bodies move now a list is to be good, 0 for this substep only, and where they are. A list that
 * foresees much holds many who never meet.
 */
function lookAhead(bodies: SolverBodies, crowd: Crowd, machine: Machine): { ahead: number; bounds: Bounds } {
  const { heap } = machine
  const { count, starts, moved, block } = bodies
  const out = block(32)
  machine.call('boundBodies', { count, starts, out })
  const [lowX, lowY, lowZ, , highX, highY, highZ, widest] = heap.f32(out, 8)
  const bounds = { low: [lowX!, lowY!, lowZ!], high: [highX!, highY!, highZ!], widest: widest! }
  const by = heap.f32(moved, count * bodyRow.SIZE)
  const [meanX, meanY, meanZ] = meanOf(heap, bodies, (i, axis) => by[i * bodyRow.SIZE + axis]!)
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
  const typical = typicalShare(heap, crowd)
  const { typical: most, fastest: farthest } = MOST_FORESEEN
  const ahead = Math.floor(Math.min(most / typical, farthest / fastest, 64))
  if (fastest < FAST && ahead >= 2) return { ahead, bounds }
  fill(0.5)
  return { ahead: 0, bounds }
}
/** What half of all move at most, as a share of their radii. */
function typicalShare(heap: Heap, { count, motion, radius }: Crowd): number {
  const [by, r] = [heap.f32(motion, count * 3), heap.f32(radius, count)]
  const stride = Math.max(1, Math.ceil(count / SAMPLE))
  const shares: number[] = []
  for (let i = 0; i < count; i += stride)
    shares.push(Math.sqrt(by[i * 3]! ** 2 + by[i * 3 + 1]! ** 2 + by[i * 3 + 2]! ** 2) / r[i]!)
  return shares.sort((a, b) => a - b)[shares.length >> 1]!
}

/** Of each body the ones that it may touch. */
function findPairs(
  { count, partners, block }: SolverBodies,
  table: ContactTable,
  { position, radius, motion }: Crowd,
  ahead: number,
  widest: number,
  machine: Machine,
): { counts: number; slots: number; most: number } {
  const { kinds, allowed, populations, amounts } = table
  const most = 2 * table.most
  const linked = partners.list()
  const margin = ahead === 0 ? MARGIN : KEPT_MARGIN
  const grid = buildGrid(machine, { count, position, radius, velocity: motion }, 2 * widest * margin, 24)
  const [counts, slots] = [block(count * 4), block(count * most * 4)]
  machine.run('listPairs', count, {
    cells: grid.at,
    position,
    radius,
    motion,
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

/** The axis along which influences pull most. */
function upOf({ members }: SolverBodies, { heap }: Machine): number {
  const pull = [0, 0, 0]
  for (const { population } of members) {
    const { count, at } = population.columns
    if (!at.startVelocity) continue
    const [now, before] = [heap.f32(at.velocity, count * 3), heap.f32(at.startVelocity, count * 3)]
    const stride = Math.max(1, Math.ceil(count / SAMPLE))
    for (let i = 0; i < count; i += stride)
      for (let axis = 0; axis < 3; axis++) pull[axis]! += now[i * 3 + axis]! - before[i * 3 + axis]!
  }
  const sizes = pull.map(Math.abs)
  const most = Math.max(...sizes)
  return most > 0 ? sizes.indexOf(most) : 1
}

/**
 * Slabs along the longest side, as wide as a reach or more, with enough bodies each; not along the axis of the pull, if there is another
 * that is wide enough. In a slab bodies stand in layers along that: then a round carries what presses through all of them.
 */
function cutIntoSlabs(
  { count, starts, block }: SolverBodies,
  { low, high, widest }: Bounds,
  up: number,
  margin: number,
  machine: Machine,
) {
  const { heap } = machine
  const sides = high.map((x, axis) => x - low[axis]!)
  const binsOf = (axis: number): number =>
    Math.max(1, Math.min(MOST_BINS, Math.floor(sides[axis]! / (2 * widest * margin))))
  const [across, along] = [0, 1, 2].sort((a, b) => sides[b]! - sides[a]!) as [number, number]
  const axis = across === up && binsOf(along) >= FEW_BINS ? along : across
  const bins = binsOf(axis)
  const perMetre = sides[axis]! > 0 ? bins / sides[axis]! : 0
  const cut = { starts, axis, low: low[axis]!, perMetre, bins }
  const [counts, slabOfBin] = [block(bins * 4), block(bins * 4)]
  machine.call('countBins', { count, ...cut, out: counts })
  let [made, inSlab] = [0, 0]
  heap.u32(counts, bins).forEach((size, b) => {
    // what is left at the end goes to the last one
    if (inSlab >= SLAB_BODIES) [made, inSlab] = [made + 1, 0]
    inSlab += size
    heap.u32(slabOfBin, bins)[b] = made
  })
  const slabs = made + 1
  const layers = Math.max(1, Math.min(MOST_LAYERS, Math.ceil(sides[up]! / widest)))
  const layersPerMetre = sides[up]! > 0 ? layers / sides[up]! : 0
  const [of, keys, first, order] = [count, count, slabs * layers + 1, count].map((words) => block(words * 4)) as [number, number, number, number] // prettier-ignore
  const layered = { up, lowest: low[up]!, layersPerMetre, layers }
  machine.run('slabsOfBodies', count, { ...cut, slabOfBin, ...layered, slabs: of, keys })
  machine.call('sortCells', { count, keys, buckets: slabs * layers, first, order })
  return { of, count: slabs, layers, first, order }
}

/** Slabs in the order in which they are solved: those of a phase side by side. */
function phasesOf(count: number, bridges: boolean): { order: number[]; phases: ContactList['phases'] } {
  const all = Array.from({ length: count }, (_, s) => s)
  const parts = [all.filter((s) => s % 2 === 0), all.filter((s) => s % 2 === 1), bridges ? [count] : []]
  let from = 0
  const phases = parts.flatMap(({ length }) => {
    const phase = { from, count: length }
    from += length
    return length > 0 ? [phase] : []
  })
  return { order: parts.flat(), phases }
}

/** The number that each body had when contacts were stored. */
function oldNumbers(
  { count, block }: SolverBodies,
  { kinds, ids }: ContactTable,
  stored: StoredContacts | null,
  machine: Machine,
): number {
  const out = block(count * 4)
  if (stored) {
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
  return { count, kinds, ids, first, impulses, bearing }
}
