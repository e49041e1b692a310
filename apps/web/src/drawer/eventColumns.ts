import { DEATHS, EVENT_KINDS, type EventTable, type Population } from '@tangle/core'
import type { Column, Columns } from './columns.ts'
import { EVENT_NAMES } from './lines.ts'

/** What can be read of each event of a frame. */
export function eventColumns(
  table: EventTable,
  { phases }: Population,
  nameOf: (id: string) => string,
): Columns {
  const kindAt = (row: number) => EVENT_KINDS[table.kinds[row]!]!
  const details: Partial<Record<string, (detail: number) => string>> = {
    death: (detail) => CAUSES[DEATHS[detail]!],
    phase: (detail) => `${phases[detail >> 6]} → ${phases[detail & 63]}`,
    break: (detail) => (detail === 1 ? 'cut' : 'torn'),
  }
  const metres = (label: string, all: Float32Array, k: number): Column => ({
    label,
    unit: 'm',
    read: (row) => all[row * 3 + k]!,
    words: (row) => Number(all[row * 3 + k]!.toPrecision(4)).toString(),
  })
  /** Texture coordinates of the place that a ray has met. */
  const texture = (label: string, k: number): Column => ({
    label,
    unit: '',
    read: (row) => table.uvs[row * 2 + k]!,
    words: (row) => (kindAt(row) === 'hit' ? table.uvs[row * 2 + k]!.toFixed(3) : ''),
  })
  return {
    frame: {
      label: 'frame',
      unit: '',
      read: (row) => table.frames[row]!,
      words: (row) => table.frames[row]!.toFixed(2),
    },
    what: {
      label: 'what',
      isText: true,
      unit: '',
      read: (row) => table.kinds[row]!,
      words: (row) => EVENT_NAMES[kindAt(row)],
    },
    particle: { label: 'particle', unit: '', read: (row) => table.particles[row]! },
    with: {
      label: 'with',
      isText: true,
      unit: '',
      read: (row) => table.ofs[row]!,
      words: (row) => nameOf(table.names[table.ofs[row]!] ?? ''),
    },
    other: {
      label: 'other',
      unit: '',
      read: (row) => table.others[row]!,
      words: (row) => (table.others[row]! < 0 ? '' : String(table.others[row])),
    },
    detail: {
      label: 'detail',
      isText: true,
      unit: '',
      read: (row) => table.details[row]!,
      words: (row) => details[kindAt(row)]?.(table.details[row]!) ?? '',
    },
    x: metres('x', table.places, 0),
    y: metres('y', table.places, 1),
    z: metres('z', table.places, 2),
    nx: metres('normal x', table.normals, 0),
    ny: metres('normal y', table.normals, 1),
    nz: metres('normal z', table.normals, 2),
    distance: {
      label: 'distance',
      unit: 'm',
      read: (row) => table.distances[row]!,
      words: (row) => (kindAt(row) === 'hit' ? Number(table.distances[row]!.toPrecision(4)).toString() : ''),
    },
    u: texture('u', 0),
    v: texture('v', 1),
  }
}

const CAUSES: Record<(typeof DEATHS)[number], string> = {
  age: 'end of life',
  size: 'too small',
  cue: 'by a cue',
  cover: 'into a cover',
}
