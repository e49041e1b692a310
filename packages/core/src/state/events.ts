/**
 * What happened to the particles of a population in a frame: rows of typed arrays, cleared as the next frame begins.
 * Counts are exact; of more than MOST_ROWS the first are kept as rows.
 */

/** In the order of their numbers in a table. */
export const EVENT_KINDS = ['birth', 'death', 'touch', 'break', 'phase'] as const
export type EventKind = (typeof EVENT_KINDS)[number]
export const MOST_ROWS = 65_536

/** Why a particle died: the `detail` of a death. */
export const DEATHS = ['age', 'size', 'cue', 'cover'] as const

/** One event. Metres; directions are of unit length or zero. */
export interface ParticleEvent {
  kind: EventKind
  /** Frame, with the time within it as its fraction. */
  frame: number
  /** Id of the particle, and of the other one; −1 for none. */
  particle: number
  other: number
  /** Id of the population or mesh that the other is of, or is; empty for none. */
  of: string
  place: [number, number, number]
  normal: [number, number, number]
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

const NONE: [number, number, number] = [0, 0, 0]
/** An event with what it does not say left empty. */
export const eventOf = (
  kind: EventKind,
  frame: number,
  particle: number,
  more: Partial<ParticleEvent> = {},
): ParticleEvent => ({
  other: -1,
  of: '',
  place: NONE,
  normal: NONE,
  detail: 0,
  ...more,
  kind,
  frame,
  particle,
})

const noCounts = (): Record<EventKind, number> => ({ birth: 0, death: 0, touch: 0, break: 0, phase: 0 })

export function createEventLog(): EventLog {
  let rows: ParticleEvent[] = []
  let counts = noCounts()
  return {
    get counts() {
      return counts
    },
    add(event) {
      counts[event.kind]++
      if (rows.length < MOST_ROWS) rows.push(event)
    },
    clear() {
      rows = []
      counts = noCounts()
    },
    table: () => tableOf(rows, counts),
    restore(table) {
      rows = rowsOf(table)
      counts = { ...table.counts }
    },
  }
}

function tableOf(rows: ParticleEvent[], counts: Record<EventKind, number>): EventTable {
  const names = [...new Set(rows.map(({ of }) => of))]
  const numbers = new Map(names.map((name, n) => [name, n]))
  const table: EventTable = {
    rows: rows.length,
    kinds: Uint8Array.from(rows, ({ kind }) => EVENT_KINDS.indexOf(kind)),
    frames: Float64Array.from(rows, ({ frame }) => frame),
    particles: Uint32Array.from(rows, ({ particle }) => particle),
    others: Int32Array.from(rows, ({ other }) => other),
    ofs: Uint16Array.from(rows, ({ of }) => numbers.get(of)!),
    names,
    places: new Float32Array(rows.length * 3),
    normals: new Float32Array(rows.length * 3),
    details: Uint32Array.from(rows, ({ detail }) => detail),
    counts: { ...counts },
  }
  rows.forEach(({ place, normal }, n) => {
    table.places.set(place, n * 3)
    table.normals.set(normal, n * 3)
  })
  return table
}

/** The rows of a table as objects. */
export function rowsOf(table: EventTable): ParticleEvent[] {
  const triple = (from: Float32Array, n: number): [number, number, number] => [
    from[n * 3]!,
    from[n * 3 + 1]!,
    from[n * 3 + 2]!,
  ]
  return Array.from({ length: table.rows }, (_, n) => ({
    kind: EVENT_KINDS[table.kinds[n]!]!,
    frame: table.frames[n]!,
    particle: table.particles[n]!,
    other: table.others[n]!,
    of: table.names[table.ofs[n]!] ?? '',
    place: triple(table.places, n),
    normal: triple(table.normals, n),
    detail: table.details[n]!,
  }))
}
