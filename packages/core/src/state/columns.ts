/** Columns: the attributes of a population's particles, each a block of the heap (structure of arrays). */
import type { Heap, Machine } from '@tangle/kernels'
import { type Attribute, type OffspringName, type OwnName } from './attribute.ts'
import { ATTRIBUTES, BUILT_IN_NAMES, type AttributeName, type BuiltInName } from './attributes.ts'

/** All blocks have the same capacity; a particle has the same number in each. */
export interface Columns {
  heap: Heap
  names: AttributeName[]
  /** What each of them is. */
  attributes: Record<string, Attribute>
  count: number
  capacity: number
  /** Pointers by name; 0 for a column that does not exist. */
  at: Record<BuiltInName, number> & { [own: OwnName | OffspringName]: number }
}

/** Columns for attributes of the table, and for others: those that an artist added, and what births keep. */
export function createColumns(
  heap: Heap,
  builtIn: BuiltInName[],
  own: [OwnName | OffspringName, Attribute][] = [],
): Columns {
  const at = Object.fromEntries([...BUILT_IN_NAMES, ...own.map(([name]) => name)].map((name) => [name, 0]))
  const attributes = Object.fromEntries([...builtIn.map((name) => [name, ATTRIBUTES[name]] as const), ...own])
  const names = [...builtIn, ...own.map(([name]) => name)]
  return { heap, names, attributes, count: 0, capacity: 0, at: at as Columns['at'] }
}

/** What a column holds; of one that does not exist what it would hold. */
export const attributeOf = (columns: Columns, name: AttributeName): Attribute =>
  columns.attributes[name] ?? ATTRIBUTES[name as BuiltInName]

/** The names of the columns that are state: hashed and handed out. */
export const stateNames = ({ names, attributes }: Columns): AttributeName[] =>
  names.filter((name) => attributes[name]!.role === 'state')

/** The names of the columns that a snapshot holds: state, and what the next substep reads of this one. */
export const savedNames = ({ names, attributes }: Columns): AttributeName[] =>
  names.filter((name) => attributes[name]!.role !== 'scratch')

/** The column that random numbers of particles follow from: their ids, or what stands for those where they descend from others. */
export const randomKeys = ({ at }: Columns): 'id' | 'randomKey' => (at.randomKey ? 'randomKey' : 'id')

/** The raw words of a column's particles, as a view. */
export const words = (columns: Columns, name: AttributeName): Uint32Array =>
  columns.heap.u32(columns.at[name]!, columns.count * attributeOf(columns, name).width)

/** A column's particles as numbers, as a view. */
export function view(columns: Columns, name: AttributeName): Float32Array | Uint32Array {
  return attributeOf(columns, name).type === 'u32' ? words(columns, name) : floats(columns, name)
}
export const floats = (columns: Columns, name: AttributeName): Float32Array =>
  columns.heap.f32(columns.at[name]!, columns.count * attributeOf(columns, name).width)

/** A block with the rows (`width` words each) of a column that `index` (u32) names, to be freed. */
export function gatherRows(
  machine: Machine,
  index: number,
  count: number,
  column: number,
  width: number,
): number {
  const out = machine.heap.allocate(count * width * 4)
  machine.run('gatherRows', count, { index, column, width, out })
  return out
}

/** The positions (or another x, y, z) of some particles, as a block of the heap that the caller frees. */
export function positionsOfSome(
  columns: Columns,
  particles: number[],
  name: 'position' | 'startPosition' = 'position',
): number {
  const pointer = columns.heap.allocate(Math.max(1, particles.length) * 12)
  const places = columns.heap.f32(pointer, particles.length * 3)
  const all = floats(columns, name)
  particles.forEach((i, k) => places.set(all.subarray(i * 3, i * 3 + 3), k * 3))
  return pointer
}

/** Makes room for `count` particles in all, keeping what is there. */
export function reserve(columns: Columns, count: number): void {
  if (count <= columns.capacity) return
  const capacity = Math.max(1024, 2 ** Math.ceil(Math.log2(count)))
  const { heap } = columns
  for (const name of columns.names) {
    const { width } = attributeOf(columns, name)
    const pointer = heap.allocate(capacity * width * 4)
    if (columns.capacity > 0) {
      heap.u32(pointer, columns.count * width).set(words(columns, name))
      heap.free(columns.at[name]!)
    }
    columns.at[name] = pointer
  }
  columns.capacity = capacity
}

/** Gives the particles from `first` on what the table says that they are born with. */
export function startFrom(columns: Columns, first: number): void {
  for (const name of columns.names) {
    const { start, width } = attributeOf(columns, name)
    if (!start) continue
    const values = view(columns, name)
    if (start.every((one) => one === start[0])) values.fill(start[0]!, first * width)
    else for (let i = first; i < columns.count; i++) values.set(start, i * width)
  }
}

/** Puts copies of the particles of these numbers behind those of other columns of the same names. */
export function appendRows(to: Columns, from: Columns, rows: number[]): void {
  const first = to.count
  reserve(to, first + rows.length)
  to.count += rows.length
  for (const name of to.names) {
    const { width } = attributeOf(to, name)
    const [target, source] = [words(to, name), words(from, name)]
    rows.forEach((row, k) => target.set(source.subarray(row * width, (row + 1) * width), (first + k) * width))
  }
}

/** The particles from `first` on as columns of their own, over the same blocks; whatever is born moves the blocks. */
export function rowsFrom(columns: Columns, first: number): Columns {
  const at = Object.fromEntries(
    Object.entries(columns.at).map(([name, pointer]) => {
      const bytes = first * 4 * attributeOf(columns, name as AttributeName).width
      return [name, pointer && pointer + bytes]
    }),
  ) as Columns['at']
  return { ...columns, at, count: columns.count - first, capacity: columns.capacity - first }
}

/** Takes out the particles of these numbers, which rise; the rest keep their order, that of their ids. */
export function compact(columns: Columns, gone: number[]): void {
  if (gone.length === 0) return
  for (const name of columns.names) {
    const { width } = attributeOf(columns, name)
    const all = words(columns, name)
    let to = gone[0]!
    gone.forEach((before, k) => {
      const [from, end] = [before + 1, gone[k + 1] ?? columns.count]
      all.copyWithin(to * width, from * width, end * width)
      to += end - from
    })
  }
  columns.count -= gone.length
}
