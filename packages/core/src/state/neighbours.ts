/** Who is near whom: the grid that the kernels of assembly/neighbours.ts ask. */
import { layouts, type Machine } from '@tangle/kernels'
import { floats, type Columns } from './columns.ts'

const LIST = layouts.MOST_NEIGHBOURS
const LIST_BYTES = layouts.neighbourSearch.SIZE * 4
/** Cells are this part of the reach at least. */
const FINEST = 32
/** The widest cells are no wider than so many times the reach. */
const WIDEST = 4096
/** Below this a cell would be finer than f32 tells places apart. */
const LEAST_REACH = 1e-6

/** Pointers to what is laid on a grid: 3 × f32, f32, 3 × f32. */
export interface Crowd {
  count: number
  position: number
  radius: number
  velocity: number
}
export const crowdOf = ({ count, at }: Columns): Crowd => ({ count, ...at })

export interface Grid {
  /** Pointer for the kernels. */
  at: number
  free(): void
}

/**
 * A grid over the particles as they are now, to find neighbours within `reach` metres, of which the nearest
 * `most` are wanted. Linear in their number. Cells are as wide as the reach; in a crowd, where a particle shares its cell with more than
 * half of those that it wants, there are finer ones, too, each half as wide as the one before; where some look farther than the others,
 * up to `farthest`, there are wider ones.
 */
export function buildGrid(
  machine: Machine,
  crowd: Crowd,
  reach: number,
  most: number,
  farthest = reach,
): Grid {
  const { heap } = machine
  const { count, position } = crowd
  const owned: number[] = []
  const block = (bytes: number): number => {
    const pointer = heap.allocate(bytes)
    owned.push(pointer)
    return pointer
  }
  let buckets = 64
  while (buckets < count) buckets *= 2
  const [places, lists] = [block(count * 4), block(machine.threads * LIST_BYTES)]
  for (let thread = 0; thread < machine.threads; thread++)
    heap.u32(lists + thread * LIST_BYTES, 1)[layouts.neighbourSearch.level] = 0
  const keys = heap.allocate(count * 4)
  const entries = block(count * layouts.gridEntry.SIZE * 4)
  const columnBytes = 16 * Math.ceil(count / 4) + 16
  let coarser = 0
  const width = Math.max(reach, LEAST_REACH)
  const wider = 2 ** Math.ceil(Math.log2(Math.min(Math.max(farthest / width, 1), WIDEST)))
  let perMetre = 1 / (wider * width)
  for (let finer = 1 / wider; ; finer *= 2, perMetre *= 2) {
    const [first, order] = [block((buckets + 1) * 4), block(count * 4)]
    machine.run('cellKeys', count, { position, perMetre, mask: buckets - 1, keys })
    machine.call('sortCells', { count, keys, buckets, first, order })
    const isFinest = finer >= 1 && (finer >= FINEST || sharing(heap.u32(first, buckets + 1)) <= most / 2)
    const [header, columns] = [block(layouts.grid.SIZE * layouts.F64), block(4 * columnBytes)]
    heap
      .f64(header, layouts.grid.SIZE)
      .set([perMetre, buckets - 1, first, order, entries, lists, columns, columnBytes, coarser, places])
    const into = isFinest ? { entries, places } : { entries: 0, places: 0 }
    machine.run('gatherCells', count, { ...columnsOf(crowd), ...into, order, columns, columnBytes, perMetre })
    coarser = header
    if (isFinest) break
  }
  heap.free(keys)
  return { at: coarser, free: () => owned.forEach((pointer) => heap.free(pointer)) }
}
const columnsOf = ({ position, radius, velocity }: Crowd) => ({ position, radius, velocity })

/** How many others are in the bucket of a particle on the average. */
function sharing(first: Uint32Array): number {
  let sum = 0
  for (let b = 1; b < first.length; b++) sum += (first[b]! - first[b - 1]!) ** 2
  return sum / Math.max(1, first[first.length - 1]!) - 1
}

/** Metres. */
export function widestRadius(columns: Columns): number {
  let widest = 0
  for (const r of floats(columns, 'radius')) if (r > widest) widest = r
  return widest
}

/** Writes how many others lie within `reach` radii of each particle (f32), up to 256. */
export function neighbourCounts(machine: Machine, columns: Columns, reach: number, out: number): void {
  const { count } = columns
  const grid = buildGrid(machine, crowdOf(columns), widestRadius(columns) * reach, LIST)
  machine.run('countNeighbours', count, {
    cells: grid.at,
    reach,
    out,
  })
  grid.free()
}

export interface Overlaps {
  /** Pairs that are nearer than the sum of their radii, and their share of all pairs. */
  pairs: number
  share: number
  /** Particles that overlap another. */
  touching: number
  /** Depth of the worst, metres. */
  worst: number
}

/** Overlaps of those whom no link holds together. */
export function measureOverlaps(
  machine: Machine,
  columns: Columns,
  links: { firsts: Uint32Array; linked: Uint32Array } | null = null,
): Overlaps {
  const { heap } = machine
  const put = (values: Uint32Array): number => {
    const pointer = heap.allocate(Math.max(4, values.byteLength))
    heap.u32(pointer, values.length).set(values)
    return pointer
  }
  const held = links ? [put(links.firsts), put(links.linked)] : []
  const { count, at } = columns
  const widest = widestRadius(columns)
  const grid = buildGrid(machine, crowdOf(columns), 2 * widest, LIST)
  const [pairs, touching, depth] = [0, 1, 2].map(() => heap.allocate(count * 4)) as [number, number, number]
  machine.run('overlaps', count, {
    position: at.position,
    radius: at.radius,
    cells: grid.at,
    widest,
    pairs,
    touching,
    depth,
    firsts: held[0] ?? 0,
    linked: held[1] ?? 0,
  })
  const found = { pairs: 0, share: 0, touching: 0, worst: 0 }
  const [p, t, d] = [pairs, touching, depth].map((one) => heap.f32(one, count)) as [
    Float32Array,
    Float32Array,
    Float32Array,
  ]
  for (let i = 0; i < count; i++) {
    found.pairs += p[i]!
    if (t[i]! > 0) found.touching++
    found.worst = Math.max(found.worst, d[i]!)
  }
  found.share = count > 1 ? found.pairs / ((count * (count - 1)) / 2) : 0
  for (const pointer of [pairs, touching, depth, ...held]) heap.free(pointer)
  grid.free()
  return found
}
