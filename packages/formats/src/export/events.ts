/**
 * What happened to particles in a frame, as a table: a row for each event with when (frames, with their fraction), what, to whom (id), with whom (id of the
 * other, −1: none; and the population or mesh that it is of), where and which way, and why: the cause of a death, both phases of a change, whether a
 * link was cut.
 */
import { DEATHS, rowsOf, type EventTable, type ParticleEvent, type Population } from '@tangle/core'
import { frameNumber, inOnePiece, type ExportedFile, type Frames } from './kind.ts'
import { vectorsIn, type Space } from './space.ts'
import { decimal } from './usdText.ts'

export const EVENT_FORMATS = ['csv', 'parquet'] as const
export type EventFormat = (typeof EVENT_FORMATS)[number]

type Cell = number | string
const COLUMNS = [
  'frame',
  'kind',
  'particle',
  'other',
  'of',
  'x',
  'y',
  'z',
  'nx',
  'ny',
  'nz',
  'detail',
] as const
const WORDS: readonly string[] = ['kind', 'of', 'detail']
const WHOLE: readonly string[] = ['particle', 'other']

/** The file of a population's events in a frame of the shot; `later` is by how much its number is greater in the files. */
export function eventFile(
  format: EventFormat,
  { id, phases }: Pick<Population, 'id' | 'phases'>,
  table: EventTable,
  frame: number,
  later: number,
  { digits, space }: Pick<Frames, 'digits' | 'space'>,
): ExportedFile {
  const rows = rowsOf(table).map((event) => cellsOf(event, phases, later, space))
  const pieces = format === 'csv' ? asCsv(rows) : asParquet(rows)
  return { name: `${id}.events.${frameNumber(frame + later, digits)}.${format}`, pieces }
}

function cellsOf(event: ParticleEvent, phases: string[], later: number, space: Space): Cell[] {
  const { kind, frame, particle, other, of, place, normal } = event
  const { up } = space
  const where = vectorsIn(space, Float32Array.from(place))
  // a direction has no unit
  const way = vectorsIn({ unit: 'm', up }, Float32Array.from(normal))
  return [frame + later, kind, particle, other, of, ...where, ...way, detailOf(event, phases)]
}

function detailOf({ kind, detail }: ParticleEvent, phases: string[]): string {
  if (kind === 'death') return DEATHS[detail] ?? ''
  if (kind === 'phase') return `${phases[Math.floor(detail / 64)]} to ${phases[detail % 64]}`
  return kind === 'break' && detail === 1 ? 'cut' : ''
}

/** RFC 4180. */
function asCsv(rows: Cell[][]): AsyncIterable<Uint8Array> {
  const cell = (value: Cell): string => {
    if (typeof value === 'number') return Number.isInteger(value) ? String(value) : decimal(value)
    return /[",\r\n]/.test(value) ? `"${value.replaceAll('"', '""')}"` : value
  }
  const lines = [COLUMNS.join(','), ...rows.map((row) => row.map(cell).join(','))]
  return inOnePiece(new TextEncoder().encode(`${lines.join('\r\n')}\r\n`))
}

async function* asParquet(rows: Cell[][]): AsyncGenerator<Uint8Array> {
  const { ByteWriter, parquetWrite } = await import('hyparquet-writer')
  const writer = new ByteWriter()
  parquetWrite({
    writer,
    columnData: COLUMNS.map((name, n) => {
      const values = rows.map((row) => row[n]!)
      if (WORDS.includes(name)) return { name, data: values as string[], type: 'STRING', nullable: false }
      if (WHOLE.includes(name))
        return { name, data: values.map((one) => BigInt(one)), type: 'INT64', nullable: false }
      return { name, data: values as number[], type: 'DOUBLE', nullable: false }
    }),
  })
  yield new Uint8Array(writer.getBuffer())
}
