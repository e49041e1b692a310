import type { PopulationFrame, Shot } from '@tangle/core'
import { FormatFault } from '../fault.ts'
import { allInstances } from './instances.ts'
import { byFrame, frameNumber, type ExportKind } from './kind.ts'
import { populationOf, tableOf, type TableColumn } from './table.ts'
import { decimal } from './usdText.ts'

/** Rows of text that are joined at a time. */
const PIECE = 10_000

/** A file per population and frame, ID.FRAME.ending, of a kind of table. Meshes have no place in one. */
function tables(
  kind: 'csv' | 'parquet',
  label: string,
  help: string,
  write: (columns: TableColumn[]) => AsyncIterable<Uint8Array>,
  read: (file: string, id: string, bytes: Uint8Array) => Promise<PopulationFrame>,
): ExportKind {
  const ending = new RegExp(`\\.(-?\\d+)\\.${kind}$`)
  return {
    kind,
    label,
    help,
    sequence: true,
    meshes: false,
    async *files(shot: Shot, frames, sources) {
      const instances = allInstances(shot, sources, frames.space)
      for (let frame = frames.first; frame <= frames.last; frame++) {
        for (const population of (await frames.read(frame)).populations) {
          const { id } = population
          const name = `${id}.${frameNumber(frame, frames.digits)}.${kind}`
          yield { name, pieces: write(tableOf(shot, population, instances.get(id)!)) }
        }
      }
    },
    async *readBack(readFile, names) {
      for (const [frame, files] of byFrame(names, ending)) {
        const populations: PopulationFrame[] = []
        for (const file of files)
          populations.push(await read(file, file.replace(ending, ''), await readFile(file)))
        yield { frame, populations, meshes: [] }
      }
    },
  }
}

/** Comma-separated values, RFC 4180: a line of names, and a line for each particle. The shortest decimals that give back every f32. */
export const csv = tables(
  'csv',
  'CSV sequence',
  'One table of text per frame, for spreadsheets and scripts: particles only',
  async function* (columns) {
    const encoder = new TextEncoder()
    yield encoder.encode(`${columns.map(({ name }) => quoted(name)).join(',')}\r\n`)
    const count = columns[0]!.values.length
    const written = columns.map(({ values }) =>
      values instanceof Float32Array ? (i: number) => decimal(values[i]!) : (i: number) => String(values[i]),
    )
    for (let from = 0; from < count; from += PIECE) {
      const lines = Array.from({ length: Math.min(PIECE, count - from) }, (_, k) => written.map((one) => one(from + k)).join(',')) // prettier-ignore
      yield encoder.encode(`${lines.join('\r\n')}\r\n`)
    }
  },
  (file, id, bytes) => {
    const text = new TextDecoder().decode(bytes)
    if (!text.endsWith('\r\n')) throw new FormatFault(file, 'does not end with a line: it is cut off')
    const [names, ...rows] = text.trimEnd().split('\r\n').map((line) => line.split(',')) // prettier-ignore
    const short = rows.findIndex((row) => row.length !== names!.length)
    if (short >= 0)
      throw new FormatFault(file, `line ${short + 2} has ${rows[short]!.length} values, not ${names!.length}`)
    const column = (name: string): number[] | undefined => {
      const k = names!.indexOf(name)
      return k < 0 ? undefined : rows.map((row) => Number(row[k]))
    }
    return Promise.resolve(populationOf(file, id, rows.length, column))
  },
)
const quoted = (name: string): string => (/[",\r\n]/.test(name) ? `"${name.replaceAll('"', '""')}"` : name)

/** Apache Parquet: columns of numbers, packed, for tables of data. */
export const parquet = tables(
  'parquet',
  'Parquet sequence',
  'One table of packed columns per frame, for analysis: particles only',
  async function* (columns) {
    // a page names formats and writes none
    const { ByteWriter, parquetWrite } = await import('hyparquet-writer')
    const writer = new ByteWriter()
    parquetWrite({
      writer,
      columnData: columns.map(({ name, values }) => {
        if (values instanceof Float32Array) return { name, data: values, type: 'FLOAT', nullable: false }
        // ids take all of 32 bits without a sign
        if (values instanceof Uint32Array) return { name, data: BigInt64Array.from(values, BigInt), type: 'INT64', nullable: false } // prettier-ignore
        return { name, data: Int32Array.from(values), type: 'INT32', nullable: false }
      }),
    })
    yield new Uint8Array(writer.getBuffer())
  },
  async (file, id, bytes) => {
    const { parquetMetadata, parquetReadObjects } = await import('hyparquet')
    try {
      const whole = Uint8Array.from(bytes).buffer
      const rows = (await parquetReadObjects({ file: whole })) as Record<string, number | bigint>[]
      const names = new Set(parquetMetadata(whole).schema.map(({ name }) => name))
      const column = (name: string): number[] | undefined =>
        names.has(name) ? rows.map((row) => Number(row[name])) : undefined
      return populationOf(file, id, rows.length, column)
    } catch (error) {
      if (error instanceof FormatFault) throw error
      throw new FormatFault(file, `is broken or cut off (${(error as Error).message})`)
    }
  },
)
