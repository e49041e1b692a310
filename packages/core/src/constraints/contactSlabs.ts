/** Candidates for contact in slabs of space, and in each in batches of four. The kernels are assembly/pairs.ts. */
import { layouts, MOST_THREADS, type Machine, type Phase } from '@tangle/kernels'
import type { SolverBodies } from './constraint.ts'

const { PAIR_COLOURS, slab } = layouts

/** Bodies of a slab at least, and bins at most. */
const SLAB_BODIES = 256
const MOST_BINS = 1024

/** Where bodies are, and the greatest radius. */
export interface Bounds {
  low: number[]
  high: number[]
  widest: number
}

/** Of each body the ones that it may touch: pointers to how many (i32), and to `most` places (i32) for each. */
export interface Pairs {
  counts: number
  slots: number
  most: number
}

/** Bodies by slabs: pointers to the slab of each, and to all in the order of slabs. */
interface Slabs {
  of: number
  count: number
  first: number
  order: number
}

interface Batches {
  /** Pointers: to the records of slabs (slab), to where those of each begin in `batches`, and to these; how many of each. */
  slabRecords: number
  count: number
  offsets: number
  batches: number
  total: number
  /** Slabs that may be solved at once: all even ones, all odd ones, and the one of what bridges more. */
  phases: Phase[]
}

/** Slabs along the longest side, as wide as `width`, a reach, or more, with enough bodies each. */
export function cutIntoSlabs(
  { count, starts, block }: SolverBodies,
  { low, high }: Bounds,
  width: number,
  machine: Machine,
): Slabs {
  const { heap } = machine
  const sides = high.map((x, axis) => x - low[axis]!)
  const longest = Math.max(...sides)
  const axis = sides.indexOf(longest)
  const bins = Math.max(1, Math.min(MOST_BINS, Math.floor(longest / width)))
  const cut = { starts, axis, low: low[axis]!, perMetre: longest > 0 ? bins / longest : 0, bins }
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
  const [of, first, order] = [count, slabs + 1, count].map((words) => block(words * 4)) as [
    number,
    number,
    number,
  ]
  machine.run('slabsOfBodies', count, { ...cut, slabOfBin, slabs: of })
  machine.call('sortCells', { count, keys: of, buckets: slabs, first, order })
  return { of, count: slabs, first, order }
}

/** The candidates of slabs in batches of four without a common body, in the order in which slabs are solved. */
export function batchPairs(
  { count: nobody, block }: SolverBodies,
  pairs: Pairs,
  { of: slabs, count: slabCount, first, order }: Slabs,
  keep: (bytes: number) => number,
  machine: Machine,
): Batches {
  const { heap } = machine
  const scope = { slabs, slabCount, first, order, ...pairs }
  const [found, bridging] = [block(slabCount * 4), block(slabCount * 4)]
  machine.run('countPairs', slabCount, { ...scope, out: found, bridging })
  const sizes = Array.from(heap.u32(found, slabCount))
  const far = heap.u32(bridging, slabCount).reduce((a, b) => a + b, 0)
  if (far > 0) sizes.push(far)
  const { order: which, phases } = phasesOf(slabCount, far > 0)
  const count = which.length
  const [solved, offsets, made] = [count * 4, count * 4, count * 4].map(block) as [number, number, number]
  heap.u32(solved, count).set(which)
  const all = sumUp(
    which.map((s) => sizes[s]!),
    heap.u32(offsets, count),
  )
  const [batches, colours, masks] = [all * 32, all * 4, nobody * 4].map(block) as [number, number, number]
  const scratch = block(MOST_THREADS * PAIR_COLOURS * 4)
  const room = { masks, colours, scratch }
  machine.runPhases('batchPairs', phases, { ...scope, solved, nobody, offsets, batches, out: made, ...room })
  const slabRecords = keep(count * slab.SIZE * 4)
  const numbers = Array.from(heap.u32(made, count))
  const begins = new Uint32Array(count)
  const total = sumUp(numbers, begins)
  heap.u32(slabRecords, count * slab.SIZE).set(numbers.flatMap((size, n) => [begins[n]!, size, size]))
  return { slabRecords, count, offsets, batches, total, phases: withContent(phases, slabRecords, machine) }
}

/** Phases with the number of batches in their slabs in which any may touch, which is what they cost. */
export function withContent(phases: Phase[], slabRecords: number, { heap }: Machine): Phase[] {
  return phases.map(({ from, count }) => {
    const records = heap.u32(slabRecords + from * slab.SIZE * 4, count * slab.SIZE)
    let content = 0
    for (let n = 0; n < count; n++) content += records[n * slab.SIZE + slab.active]!
    return { from, count, content }
  })
}

/** Where each begins, when so many follow one another. Returns how many there are. */
function sumUp(sizes: number[], begins: Uint32Array): number {
  let sum = 0
  sizes.forEach((size, n) => {
    begins[n] = sum
    sum += size
  })
  return sum
}

/** Slabs in the order in which they are solved: those of a phase side by side. */
function phasesOf(count: number, bridges: boolean): { order: number[]; phases: Phase[] } {
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
