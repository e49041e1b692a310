/** Which links there are: how they come to be and go. The constraint is links.ts. */
import { layouts, type Heap, type Machine } from '@tangle/kernels'
import { randoms, STREAM } from '../math/random.ts'
import type { Body } from '../scene/body.ts'
import { RIGID } from '../scene/points.ts'
import { floats, words, type Columns } from '../state/columns.ts'
import { buildGrid, widestRadius } from '../state/neighbours.ts'
import { inPaths, type Pair } from './paths.ts'
import type { ConstrainedPopulation, Feed, Member, SolverBodies } from './constraint.ts'

const { contactStep, link } = layouts

/** How particles are linked. */
export interface LinkRule {
  /** When they are made: as particles are born, or as they touch. */
  made: string
  /** To whom: near neighbours, those on the grid of a birth, those along the edges of the mesh. */
  to: string
  /** Radii within which neighbours are looked for, how much that varies (a share), and how many of them count. */
  reach: number
  varies: number
  most: number
  /** m/N beside what the stiffness says. */
  compliance: number
  /** σ/2g; see the kernel. */
  soft: number
  /** Seconds. */
  damping: number
  /** Stretch at which it breaks (0: never), and how much that varies, a share. */
  breaks: number
  spread: number
  /** Stretch from which it stays stretched, and the share of the excess that stays each 1/24 s. */
  yields: number
  creep: number
  /** A mesh whose surface cuts them. */
  cut?: string
}

/** The links of one influence; part of a snapshot. */
export interface LinkState {
  /** `link` in the kernels' layouts: a view of the heap where links are at work, a copy in a snapshot. */
  records: Float64Array
  /** Ids below this have been linked at birth. */
  linkedTo: number
  made: number
  broken: number
  /** Energy of those that hold, joule. */
  elastic: number
  /** Greatest stretch that one has borne. */
  most: number
}
export const noLinks = (): LinkState => ({
  records: new Float64Array(0),
  linkedTo: 0,
  made: 0,
  broken: 0,
  elastic: 0,
  most: 0,
})

/** Records that stand in the heap, where kernels change them. */
const inHeap = new WeakSet<Float64Array>()

/** Puts records into the heap where they are not yet. Returns the pointer. */
export function recordsIn(heap: Heap, state: LinkState): number {
  if (!inHeap.has(state.records)) {
    const { records } = state
    const at = heap.allocate(Math.max(8, records.byteLength))
    heap.f64(at, records.length).set(records)
    keepRecords(heap, state, at, records.length / link.SIZE)
  }
  return state.records.byteOffset
}
/** The records are now the first `count` of those at a place in the heap. */
export function keepRecords(heap: Heap, state: LinkState, at: number, count: number): void {
  state.records = heap.f64(at, count * link.SIZE)
  inHeap.add(state.records)
}
/** Gives their place in the heap back; they are a copy again. */
export function releaseRecords(heap: Heap, state: LinkState): void {
  if (!inHeap.has(state.records)) return
  const at = state.records.byteOffset
  state.records = state.records.slice()
  heap.free(at)
}

/** Links those who have been born since: numbers of particles, `a` below `b`. */
export function linkNewborn(
  machine: Machine,
  population: ConstrainedPopulation,
  { rule, amount, seed }: Feed<LinkRule>,
  state: LinkState,
  bodies: Map<string, Body>,
): void {
  const { columns, nextId } = population
  if (state.linkedTo >= nextId || columns.count === 0) return
  const id = words(columns, 'id')
  const amounts = machine.heap.f32(amount, columns.count)
  const isNew = (i: number): boolean => id[i]! >= state.linkedTo
  if (rule.made === 'birth') {
    const found = rule.to === 'edges' ? alongEdges(columns, bodies) : nearby(machine, population, rule, seed)
    const wanted = found.filter(({ a, b }) => amounts[a]! > 0 && amounts[b]! > 0 && (isNew(a) || isNew(b)))
    makeLinks(machine.heap, columns, rule, state, wanted, seed)
  }
  state.linkedTo = nextId
}

function makeLinks(
  heap: Heap,
  columns: Columns,
  rule: LinkRule,
  state: LinkState,
  pairs: Pair[],
  seed: number,
): void {
  if (pairs.length === 0) return
  const id = words(columns, 'id')
  const x = floats(columns, 'startPosition')
  const added = new Float64Array(pairs.length * link.SIZE)
  inPaths(x, columns.count, pairs).forEach(({ a, b, joined }, n) => {
    const length = Math.sqrt(
      (x[a * 3]! - x[b * 3]!) ** 2 +
        (x[a * 3 + 1]! - x[b * 3 + 1]!) ** 2 +
        (x[a * 3 + 2]! - x[b * 3 + 2]!) ** 2,
    )
    // of the two as they are numbered, whichever way the path goes
    const draw = randoms(seed, id[Math.min(a, b)]!, STREAM.link, id[Math.max(a, b)]!)[0]
    const factor = Math.max(0, 1 + rule.spread * (2 * draw - 1))
    added.set(
      [id[a]!, id[b]!, a, b, Math.max(length, 1e-9), Math.max(length, 1e-9), factor, 0, 0, 1, joined],
      n * link.SIZE,
    )
  })
  releaseRecords(heap, state)
  const all = new Float64Array(state.records.length + added.length)
  all.set(state.records)
  all.set(added, state.records.length)
  state.records = all
  state.made += pairs.length
}

/** Of each particle the numbers of those that it is linked to: from firsts[i] to firsts[i + 1] in `linked`. */
export function linkedOnes(
  machine: Machine,
  { at: { id }, count: particles }: Columns,
  links: LinkState[],
): { firsts: Uint32Array; linked: Uint32Array } {
  const { heap } = machine
  const counts = links.map(({ records }) => records.length / link.SIZE)
  const count = counts.reduce((a, b) => a + b, 0)
  const [ends, first, partners] = [count * 8, (particles + 1) * 4, count * 8].map((bytes) =>
    heap.allocate(Math.max(4, bytes)),
  ) as [number, number, number]
  let at = ends
  links.forEach((state, n) => {
    const among = { ids: id, particles, first: 0 }
    machine.run('linkEnds', counts[n]!, { links: recordsIn(heap, state), ...among, ends: at })
    at += counts[n]! * 8
  })
  machine.call('partnersOfEnds', { count, ends, particles, first, partners })
  const firsts = heap.u32(first, particles + 1).slice()
  const linked = heap.u32(partners, firsts[particles]!).slice()
  for (const pointer of [ends, first, partners]) heap.free(pointer)
  return { firsts, linked }
}

/** Steps to the neighbours on a grid: along its axes, and across faces and bodies of its cells too. */
const GRID_REACH: Record<string, number> = { grid: 1.05, faces: 1.46, cells: 1.78 }

function nearby(
  machine: Machine,
  { columns, gridSpacing }: ConstrainedPopulation,
  rule: LinkRule,
  seed: number,
): Pair[] {
  const { heap } = machine
  const onGrid = GRID_REACH[rule.to]
  const widest = widestRadius(columns)
  // a grid that is laid by something else is as wide as two radii
  const fixed = onGrid === undefined ? null : onGrid * (gridSpacing() ?? 2 * widest)
  const reach = fixed ?? widest * rule.reach * (1 + rule.varies)
  const most = fixed === null ? rule.most : 26
  const { count, at } = columns
  const grid = buildGrid(
    machine,
    { count, position: at.startPosition, radius: at.radius, velocity: at.velocity },
    reach,
    most,
  )
  const out = heap.allocate(count * most * 4)
  machine.run('namedNeighbours', count, { position: at.startPosition, cells: grid.at, reach, most, out })
  const lists = new Int32Array(heap.u32(out, count * most).slice().buffer)
  heap.free(out)
  grid.free()
  const x = floats(columns, 'startPosition')
  const radius = floats(columns, 'radius')
  const id = words(columns, 'id')
  const ownReach = (i: number): number =>
    fixed ?? radius[i]! * rule.reach * (1 + rule.varies * (2 * randoms(seed, id[i]!, STREAM.link)[1] - 1))
  const pairs: Pair[] = []
  for (let i = 0; i < count; i++) {
    const within = ownReach(i)
    for (let k = 0; k < most; k++) {
      const j = lists[i * most + k]!
      if (j < 0) break
      const far = Math.sqrt(
        (x[i * 3]! - x[j * 3]!) ** 2 +
          (x[i * 3 + 1]! - x[j * 3 + 1]!) ** 2 +
          (x[i * 3 + 2]! - x[j * 3 + 2]!) ** 2,
      )
      if (far > within) continue
      // one that both find is made once, by the lower number
      if (j < i && far <= ownReach(j) && lists.subarray(j * most, j * most + most).includes(i)) continue
      pairs.push(i < j ? { a: i, b: j } : { a: j, b: i })
    }
  }
  return pairs
}

/** Links along the edges of the meshes at whose vertices particles were born. */
function alongEdges(columns: Columns, bodies: Map<string, Body>): Pair[] {
  if (!columns.at.anchor) return []
  const anchor = words(columns, 'anchor')
  const at = floats(columns, 'anchorAt')
  const pairs: Pair[] = []
  for (const body of bodies.values()) {
    const { triangles } = body.mesh
    const bornAt = new Map<number, number>()
    for (let i = 0; i < columns.count; i++) {
      const triangle = anchor[i * 2 + 1]!
      if (anchor[i * 2] !== body.number || triangle === RIGID) continue
      const corner = at[i * 3]! > 0.5 ? 1 : at[i * 3 + 1]! > 0.5 ? 2 : 0
      bornAt.set(triangles[triangle * 3 + corner]!, i)
    }
    const done = new Set<number>()
    const vertices = body.mesh.positions.length / 3
    for (let t = 0; t < triangles.length && bornAt.size > 0; t++) {
      const [p, q] = [triangles[t]!, triangles[t % 3 === 2 ? t - 2 : t + 1]!]
      const key = Math.min(p, q) * vertices + Math.max(p, q)
      const [a, b] = [bornAt.get(p), bornAt.get(q)]
      if (done.has(key) || a === undefined || b === undefined) continue
      done.add(key)
      pairs.push({ a: Math.min(a, b), b: Math.max(a, b) })
    }
  }
  return pairs.sort((one, other) => one.a - other.a || one.b - other.b)
}

/** New links between those that touch, where the rule wants that. */
export function linkTouching(
  { contacts }: SolverBodies,
  { population, first, count }: Member,
  { rule, amount, seed }: Feed<LinkRule>,
  state: LinkState,
  { heap }: Machine,
): void {
  if (contacts.batches === 0) return
  const amounts = heap.f32(amount, count)
  const held = new Uint8Array(count)
  for (let n = 0; n < state.records.length; n += link.SIZE) {
    for (const side of [link.bodyA, link.bodyB]) held[state.records[n + side]! - first]!++
  }
  const { steps, batches } = contacts
  const [numbers, impulses] = [
    heap.u32(steps, batches * contactStep.SIZE),
    heap.f32(steps, batches * contactStep.SIZE),
  ]
  const found: Pair[] = []
  for (let n = 0; n < 4 * batches; n++) {
    const lane = (n >> 2) * contactStep.SIZE + (n & 3)
    const [a, b] = [numbers[lane + contactStep.bodyA]! - first, numbers[lane + contactStep.bodyB]! - first]
    if (impulses[lane + contactStep.normalImpulse] === 0 || a < 0 || b < 0 || a >= count || b >= count)
      continue
    if (amounts[a] === 0 || amounts[b] === 0 || held[a]! >= rule.most || held[b]! >= rule.most) continue
    held[a]!++
    held[b]!++
    found.push({ a, b })
  }
  makeLinks(heap, population.columns, rule, state, found, seed)
}
