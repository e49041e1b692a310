/**
 * What happened to the particles of a population in a frame: rows of typed arrays, cleared as the next frame begins.
 * Counts are exact; of more than MOST_ROWS the first are kept as rows.
 */
import { EVENT_KINDS, type EventKind } from '../document/parameters.ts'
import { vectorOf, writeVector, type Vector } from '../math/vector.ts'

export const MOST_ROWS = 65_536

/** Why a particle died: the `detail` of a death. */
export const DEATHS = ['age', 'size', 'cue', 'cover'] as const

/** One event. Metres; directions are of unit length or zero. */
export interface ParticleEvent {
  kind: EventKind
  /** Frame, with the time within it as its fraction. */
  frame: number
  /** Id of the particle, and of the other one, or the triangle that a ray has met; −1 for none. */
  particle: number
  other: number
  /** Id of the population or mesh that the other is of, or is; empty for none. */
  of: string
  place: Vector
  normal: Vector
  /** Of a hit by a ray: texture coordinates of the place, and metres from where the ray set out. */
  uv: [u: number, v: number]
  distance: number
  /** Of a death its cause (DEATHS); of a phase change 64 · from + to; of a break 1 where it was cut; else 0. */
  detail: number
}

/** The events of a frame as columns. */
export interface EventTable {
  rows: number
  kinds: Uint8Array
  frames: Float64Array
  particles: Uint32Array
  others: Int32Array
  /** Number in `names`. */
  ofs: Uint16Array
  names: string[]
  places: Float32Array
  normals: Float32Array
  uvs: Float32Array
  distances: Float32Array
  details: Uint32Array
  counts: Record<EventKind, number>
}

export interface EventLog {
  add(event: ParticleEvent): void
  clear(): void
  /** A copy of what there is. */
  table(): EventTable
  restore(table: EventTable): void
  readonly counts: Record<EventKind, number>
}

const NONE: Vector = [0, 0, 0]
/** An event with what it does not say left empty. */
export const eventOf = (
  kind: EventKind,
  frame: number,
  particle: number,
  { other = -1, of = '', place = NONE, normal = NONE, uv = [0, 0], distance = 0, detail = 0 }: Partial<ParticleEvent> = {}, // prettier-ignore
): ParticleEvent => ({ kind, frame, particle, other, of, place, normal, uv, distance, detail })

const noCounts = (): Record<EventKind, number> =>
  Object.fromEntries(EVENT_KINDS.map((kind) => [kind, 0])) as Record<EventKind, number>

const NUMBERS = Object.fromEntries(EVENT_KINDS.map((kind, n) => [kind, n])) as Record<EventKind, number>

/** Columns with room for so many rows. */
const columnsFor = (room: number): EventColumns => ({
  kinds: new Uint8Array(room),
  frames: new Float64Array(room),
  particles: new Uint32Array(room),
  others: new Int32Array(room),
  ofs: new Uint16Array(room),
  places: new Float32Array(room * 3),
  normals: new Float32Array(room * 3),
  uvs: new Float32Array(room * 2),
  distances: new Float32Array(room),
  details: new Uint32Array(room),
})
type EventColumns = Omit<EventTable, 'rows' | 'names' | 'counts'>
/** Numbers a row, where there are several. */
const WIDTHS: Partial<Record<keyof EventColumns, number>> = { places: 3, normals: 3, uvs: 2 }

/** The same columns with room for so many rows: the first `rows` of them. */
function resized(columns: EventColumns, rows: number, room: number): EventColumns {
  const next = columnsFor(room)
  for (const name of Object.keys(next) as (keyof EventColumns)[])
    next[name].set(columns[name].subarray(0, rows * (WIDTHS[name] ?? 1)) as never)
  return next
}

/** A table of the first rows of another, at most so many, in arrays of its own. */
export function firstRows(table: EventTable, most: number): EventTable {
  const rows = Math.min(table.rows, most)
  return { ...table, ...resized(table, rows, rows), rows, names: [...table.names], counts: { ...table.counts } } // prettier-ignore
}

/** @param hears told of every event as it happens */
export function createEventLog(hears: (event: ParticleEvent) => void = () => {}): EventLog {
  let columns = columnsFor(64)
  let rows = 0
  let names: string[] = []
  let counts = noCounts()
  function nameNumber(name: string): number {
    const known = names.indexOf(name)
    return known >= 0 ? known : names.push(name) - 1
  }
  return {
    get counts() {
      return counts
    },
    add(event) {
      const { kind, frame, particle, other, of, place, normal, uv, distance, detail } = event
      hears(event)
      counts[kind]++
      if (rows === MOST_ROWS) return
      if (rows === columns.kinds.length) columns = resized(columns, rows, Math.min(MOST_ROWS, rows * 2))
      columns.kinds[rows] = NUMBERS[kind]
      columns.frames[rows] = frame
      columns.particles[rows] = particle
      columns.others[rows] = other
      columns.ofs[rows] = nameNumber(of)
      writeVector(columns.places, rows, place)
      writeVector(columns.normals, rows, normal)
      columns.uvs.set(uv, rows * 2)
      columns.distances[rows] = distance
      columns.details[rows] = detail
      rows++
    },
    clear() {
      rows = 0
      names = []
      counts = noCounts()
    },
    table: () => firstRows({ ...columns, rows, names, counts }, rows),
    restore(table) {
      columns = resized(table, table.rows, Math.max(64, table.rows))
      rows = table.rows
      names = [...table.names]
      counts = { ...table.counts }
    },
  }
}

/** The rows of a table as objects. */
export function rowsOf(table: EventTable): ParticleEvent[] {
  return Array.from({ length: table.rows }, (_, n) => ({
    kind: EVENT_KINDS[table.kinds[n]!]!,
    frame: table.frames[n]!,
    particle: table.particles[n]!,
    other: table.others[n]!,
    of: table.names[table.ofs[n]!] ?? '',
    place: vectorOf(table.places, n),
    normal: vectorOf(table.normals, n),
    uv: [table.uvs[n * 2]!, table.uvs[n * 2 + 1]!],
    distance: table.distances[n]!,
    detail: table.details[n]!,
  }))
}
