import type { Heap } from '@tangle/kernels'

/**
 * The attributes of particles, in the order in which they are hashed and saved. SI units.
 * `kept` columns are the state; the others are scratch of one substep.
 */
export const COLUMNS = {
  id: { type: 'u32', width: 1, unit: '', kept: true },
  phase: { type: 'u32', width: 1, unit: '', kept: true },
  position: { type: 'f32', width: 3, unit: 'm', kept: true },
  previous: { type: 'f32', width: 3, unit: 'm', kept: true },
  velocity: { type: 'f32', width: 3, unit: 'm/s', kept: true },
  age: { type: 'f32', width: 1, unit: 's', kept: true },
  lifespan: { type: 'f32', width: 1, unit: 's', kept: true },
  radius: { type: 'f32', width: 1, unit: 'm', kept: true },
  inverseMass: { type: 'f32', width: 1, unit: '1/kg', kept: true },
  phaseAge: { type: 'f32', width: 1, unit: 's', kept: true },
  travelled: { type: 'f32', width: 1, unit: 'm', kept: true },
  /** Body (0 none) and triangle (2³² − 1: a place that moves rigidly with the body). */
  anchor: { type: 'u32', width: 2, unit: '', kept: true },
  /** Weights of the second and third corner and the height above them; or the rigid place. */
  anchorAt: { type: 'f32', width: 3, unit: 'm', kept: true },
  /** The part of the velocity that a surface gave which carries the particle. */
  carried: { type: 'f32', width: 3, unit: 'm/s', kept: true },
  birthRadius: { type: 'f32', width: 1, unit: 'm', kept: true },
  opacity: { type: 'f32', width: 1, unit: '', kept: true },
  /** Linear RGB. */
  colour: { type: 'f32', width: 3, unit: '', kept: true },
  /** Unit quaternion x, y, z, w. */
  orientation: { type: 'f32', width: 4, unit: '', kept: true },
  /** How fast it tumbles about which axis, rad/s. */
  turning: { type: 'f32', width: 3, unit: 'rad/s', kept: true },
  /** Of each goal of the population: what it is on (0: none) and where on it, as `anchor` and `anchorAt`. */
  goal1: { type: 'u32', width: 2, unit: '', kept: true },
  goalAt1: { type: 'f32', width: 3, unit: 'm', kept: true },
  goal2: { type: 'u32', width: 2, unit: '', kept: true },
  goalAt2: { type: 'f32', width: 3, unit: 'm', kept: true },
  goal3: { type: 'u32', width: 2, unit: '', kept: true },
  goalAt3: { type: 'f32', width: 3, unit: 'm', kept: true },
  goal4: { type: 'u32', width: 2, unit: '', kept: true },
  goalAt4: { type: 'f32', width: 3, unit: 'm', kept: true },
  /** By collider: whether it is on the wrong side (bits 0–15), and whether that is known (bits 16–31). */
  wrong: { type: 'u32', width: 1, unit: '', kept: true },
  /** Seconds for which it has lain still. */
  still: { type: 'f32', width: 1, unit: 's', kept: true },
  /** Half of the velocity that links gave in the last substep; see solver/bundle.ts. */
  pull: { type: 'f32', width: 3, unit: 'm/s', kept: true },
  /** Direction off what it touched last in this substep; zeros: it touched nothing. */
  touched: { type: 'f32', width: 3, unit: '', kept: false },
  /** Velocity at the start of the substep. */
  before: { type: 'f32', width: 3, unit: 'm/s', kept: false },
  acceleration: { type: 'f32', width: 3, unit: 'm/s²', kept: false },
  damping: { type: 'f32', width: 1, unit: '1/s', kept: false },
  stiffness: { type: 'f32', width: 1, unit: '1/s²', kept: false },
} as const

export type ColumnName = keyof typeof COLUMNS
/** Columns that exist only when something reads them. */
export const ON_DEMAND: ColumnName[] = [
  'travelled',
  'anchor',
  'anchorAt',
  'carried',
  'birthRadius',
  'opacity',
  'colour',
  'orientation',
  'turning',
  'goal1',
  'goalAt1',
  'goal2',
  'goalAt2',
  'goal3',
  'goalAt3',
  'goal4',
  'goalAt4',
  'wrong',
  'still',
  'pull',
  'touched',
  'before',
  'stiffness',
]
/** Most meshes and planes that a population collides with: as many as `wrong` has bits for. */
export const MOST_COLLIDERS = 16
/** Most goals of a population. */
export const MOST_GOALS = 4
/** The columns of a population's goal, counted from 0. */
export const goalColumns = (n: number): [ColumnName, ColumnName] =>
  [`goal${n + 1}`, `goalAt${n + 1}`] as [ColumnName, ColumnName]
/** Triangle of an anchor that is a rigid place. */
export const RIGID = 0xffffffff

export const isWhole = (name: ColumnName): boolean => COLUMNS[name].type === 'u32'

/** Structure of arrays over the heap: one block per attribute, all of the same capacity. */
export interface Columns {
  heap: Heap
  names: ColumnName[]
  count: number
  capacity: number
  /** Pointers by name; 0 for a column that does not exist. */
  at: Record<ColumnName, number>
}

export function createColumns(heap: Heap, names: ColumnName[]): Columns {
  const at = Object.fromEntries(Object.keys(COLUMNS).map((name) => [name, 0])) as Columns['at']
  return { heap, names, count: 0, capacity: 0, at }
}

/** The raw words of a column's particles, as a view. */
export const words = (columns: Columns, name: ColumnName): Uint32Array =>
  columns.heap.u32(columns.at[name], columns.count * COLUMNS[name].width)

/** A column's particles as numbers, as a view. */
export function view(columns: Columns, name: ColumnName): Float32Array | Uint32Array {
  const length = columns.count * COLUMNS[name].width
  const pointer = columns.at[name]
  return isWhole(name) ? columns.heap.u32(pointer, length) : columns.heap.f32(pointer, length)
}
export const floats = (columns: Columns, name: ColumnName): Float32Array =>
  columns.heap.f32(columns.at[name], columns.count * COLUMNS[name].width)

/** The positions (or another x, y, z) of some particles, as a block of the heap that the caller frees. */
export function placesOfSome(
  columns: Columns,
  particles: number[],
  name: 'position' | 'previous' = 'position',
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
    const { width } = COLUMNS[name]
    const pointer = heap.allocate(capacity * width * 4)
    if (columns.capacity > 0) {
      heap.u32(pointer, columns.count * width).set(words(columns, name))
      heap.free(columns.at[name])
    }
    columns.at[name] = pointer
  }
  columns.capacity = capacity
}

/** Takes out the particles that `isGone` names; the rest keep their order, that of their ids. */
export function compact(columns: Columns, isGone: (i: number) => boolean): number {
  const runs: [start: number, end: number][] = []
  let start = -1
  for (let i = 0; i <= columns.count; i++) {
    const stays = i < columns.count && !isGone(i)
    if (stays && start < 0) start = i
    if (!stays && start >= 0) {
      runs.push([start, i])
      start = -1
    }
  }
  const stay = runs.reduce((sum, [from, to]) => sum + to - from, 0)
  const gone = columns.count - stay
  if (gone === 0) return 0
  for (const name of columns.names) {
    const { width } = COLUMNS[name]
    const all = words(columns, name)
    let to = 0
    for (const [from, end] of runs) {
      all.copyWithin(to * width, from * width, end * width)
      to += end - from
    }
  }
  columns.count = stay
  return gone
}

export function freeColumns(columns: Columns): void {
  if (columns.capacity === 0) return
  for (const name of columns.names) columns.heap.free(columns.at[name])
  columns.capacity = 0
  columns.count = 0
}
