/** Tables, read by others: csv-parse and hyparquet. */
import { parse } from 'csv-parse/sync'
import { parquetReadObjects } from 'hyparquet'
import { EXPORTS } from '../src/index.ts'
import { frameOf, withAll, write } from './take.ts'

const { columns, count } = frameOf(4).populations[0]!
const rowsIn = {
  csv: (bytes: Uint8Array) =>
    Promise.resolve(parse(Buffer.from(bytes), { columns: true, cast: (value, { header }) => (header ? value : Number(value)) }) as unknown as Record<string, number>[]), // prettier-ignore
  parquet: async (bytes: Uint8Array) =>
    ((await parquetReadObjects({ file: bytes.slice().buffer })) as Record<string, number | bigint>[]).map(
      (row) => Object.fromEntries(Object.entries(row).map(([name, value]) => [name, Number(value)])),
    ),
}

test.each(['csv', 'parquet'] as const)(
  '%s: an independent reader finds a row for each particle, every number to the bit',
  async (kind) => {
    const files = await write(kind)
    // two populations, three frames, and no mesh
    expect(files.size).toBe(6)
    const rows = await rowsIn[kind](files.get(`dust.0004.${kind}`)!)
    expect(rows.length).toBe(count)
    const column = (name: string): number[] => rows.map((row) => Math.fround(row[name]!))
    const part = (values: ArrayLike<number>, width: number, k: number): number[] =>
      Array.from({ length: count }, (_, i) => values[i * width + k]! + 0)
    ;['x', 'y', 'z'].forEach((name, k) => expect(column(name)).toEqual(part(columns.position!, 3, k)))
    ;['vx', 'vy', 'vz'].forEach((name, k) => expect(column(name).map((v) => v + 0)).toEqual(part(columns.velocity!, 3, k))) // prettier-ignore
    ;['qx', 'qy', 'qz', 'qw'].forEach((name, k) => expect(column(name)).toEqual(part(columns.orientation!, 4, k))) // prettier-ignore
    expect(rows.map(({ id }) => id)).toEqual(Array.from(columns.id!))
    expect(column('radius')).toEqual(Array.from(columns.radius!))
    expect(rows.map(({ alpha }) => alpha).slice(0, 3)).toEqual([0, 128, 255])
    expect(await rowsIn[kind](files.get(`spray-2.0004.${kind}`)!)).toEqual([])
  },
)

test.each(['csv', 'parquet'] as const)(
  '%s: instances have their number and scale; what is cut off is refused',
  async (kind) => {
    await withAll(async (sources, steady) => {
      const files = await write(kind, sources, steady)
      const rows = await rowsIn[kind](files.get(`spray-2.0003.${kind}`) ?? new Uint8Array())
      expect(rows.every((row) => 'instance' in row && 'scale' in row)).toBe(true)
      const bytes = files.get(`dust.0003.${kind}`)!
      const back = (of: Uint8Array) =>
        EXPORTS.find((one) => one.kind === kind)!.readBack(() => Promise.resolve(of), [`dust.0003.${kind}`])
      for (const length of [bytes.length - 3, bytes.length >> 1, 5])
      await expect(back(bytes.slice(0, length))[Symbol.asyncIterator]().next()).rejects.toThrow(/dust\.0003.*(cut off|has no|has \d+ values)/) // prettier-ignore
    })
  },
)
