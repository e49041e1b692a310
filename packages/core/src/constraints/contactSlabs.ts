/** Candidates for contact in slabs of space, and in each in batches of four. The kernels are assembly/pairs.ts. */
import { layouts, MOST_THREADS, type Machine, type Phase } from '@tangle/kernels'
import type { SolverBodies } from './constraint.ts'

const { OPEN_BATCHES, slab } = layouts

/** Bodies of a slab at least, and bins and layers at most. */
const SLAB_BODIES = 256
const MOST_BINS = 1024
const MOST_LAYERS = 256
/** A side of so many bins is wide enough to be cut. */
const FEW_BINS = 4
/** As many bodies tell whither all are pulled. */
const SAMPLE = 128

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

/** Bodies by slabs: pointers to the slab of each, and to all in the order of slabs and layers. */
interface Slabs {
  of: number
  count: number
  layers: number
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
 * Slabs along the longest side, as wide as `width`, a reach, or more, with enough bodies each; not along the axis of the pull, if there is another
 * that is wide enough. In a slab bodies stand in layers along that: then a round carries what presses through all of them.
 */
export function cutIntoSlabs(
  bodies: SolverBodies,
  { low, high, widest }: Bounds,
  width: number,
  machine: Machine,
): Slabs {
  const { heap } = machine
  const { count, starts, block } = bodies
  const up = upOf(bodies, machine)
  const sides = high.map((x, axis) => x - low[axis]!)
  const binsOf = (axis: number): number => Math.max(1, Math.min(MOST_BINS, Math.floor(sides[axis]! / width)))
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

/** The candidates of slabs in batches of four without a common body, in the order in which slabs are solved. */
export function batchPairs(
  { count: nobody, block }: SolverBodies,
  pairs: Pairs,
  { of: slabs, count: slabCount, layers, first, order }: Slabs,
  keep: (bytes: number) => number,
  machine: Machine,
): Batches {
  const { heap } = machine
  const scope = { slabs, slabCount, layers, first, order, ...pairs }
  const [found, bridging] = [block(slabCount * 4), block(slabCount * 4)]
  machine.run('countPairs', slabCount, { ...scope, out: found, bridging })
  const sizes = Array.from(heap.u32(found, slabCount))
  const far = heap.u32(bridging, slabCount).reduce((a, b) => a + b, 0)
  if (far > 0) sizes.push(far)
  const all = sizes.reduce((a, b) => a + b, 0)
  const made = block(sizes.length * 4)
  const [batches, open] = [block(all * 32), block(MOST_THREADS * OPEN_BATCHES * 4)]
  const offsets = block(sizes.length * 4)
  let at = 0
  sizes.forEach((size, s) => {
    heap.u32(offsets, sizes.length)[s] = at
    at += size
  })
  machine.run('batchPairs', sizes.length, { ...scope, nobody, offsets, batches, out: made, open })
  const solved = phasesOf(slabCount, far > 0)
  const count = solved.order.length
  const [slabRecords, begins] = [keep(count * slab.SIZE * 4), block(count * 4)]
  let total = 0
  solved.order.forEach((s, n) => {
    const size = heap.u32(made, sizes.length)[s]!
    heap.u32(slabRecords, count * slab.SIZE).set([total, size], n * slab.SIZE)
    heap.u32(begins, count)[n] = heap.u32(offsets, sizes.length)[s]!
    total += size
  })
  return { slabRecords, count, offsets: begins, batches, total, phases: solved.phases }
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
