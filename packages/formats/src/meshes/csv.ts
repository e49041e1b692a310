import type { Mesh } from '@tangle/core'
import { arePlaces, atLine, FormatFault, TOO_FAR } from '../fault.ts'
import { Growing, linesOf } from './lines.ts'

/**
 * Points from a table: a line each, columns x, y and z by the names in the first line, or else the first three; and "id", where it is named.
 * Empty lines and those that start with # are passed over. Fields stand between semicolons, between tabs (two at least), or else between commas,
 * tabs and spaces; in quotes or not (RFC 4180). Between semicolons or tabs, and in quotes, a comma is that of a decimal.
 */
export function readCsv(bytes: Uint8Array): Mesh {
  const positions = new Growing(Float32Array)
  const ids: number[] = []
  let idAt = -1
  let columns: number[] | null = null
  for (const [text, number] of linesOf(bytes)) {
    const line = text.trim()
    if (line === '' || line.startsWith('#')) continue
    const words = fieldsOf(line)
    if (!columns) {
      const names = words.map((word) => word.toLowerCase())
      const named = ['x', 'y', 'z'].map((axis) => names.indexOf(axis))
      columns = named.every((place) => place >= 0) ? named : [0, 1, 2]
      if (named.every((place) => place >= 0)) {
        idAt = names.indexOf('id')
        continue
      }
      // a head that names other things
      if (names.every((name) => Number.isNaN(Number(name)))) continue
    }
    const [x, y, z] = columns.map((column) => Number(words[column] || NaN)) as [number, number, number]
    if (Number.isNaN(x + y + z))
      throw atLine(number, `a point needs three numbers, but this has "${line.slice(0, 60)}"`)
    if (!arePlaces(x, y, z)) throw atLine(number, `the point ${TOO_FAR}`)
    positions.push(x, y, z)
    if (idAt < 0) continue
    const id = Number(words[idAt] || NaN)
    if (!Number.isInteger(id))
      throw atLine(number, `an id is a whole number, but this has "${words[idAt] ?? ''}"`)
    ids.push(id)
  }
  if (positions.length === 0)
    throw new FormatFault('', 'this CSV has no points: a line each, with x, y and z')
  return {
    positions: positions.done(),
    triangles: new Uint32Array(0),
    ...(idAt >= 0 ? { data: { id: { width: 1, values: Float32Array.from(ids) } } } : {}),
  }
}

/** The fields of a line, without their quotes, with points for decimal commas. */
function fieldsOf(line: string): string[] {
  const quoted: string[] = []
  // what is in quotes may have separators: its number stands in for it
  const bare = line.replace(/"((?:[^"]|"")*)"/g, (_, inside: string) => `"${quoted.push(inside) - 1}"`)
  const tabbed = bare.split('\t')
  const fields = bare.includes(';')
    ? bare.split(';')
    : tabbed.length >= 3
      ? tabbed
      : bare.split(/\s*[,\t]\s*|\s+/)
  return fields.map((field) =>
    field
      .trim()
      .replace(/^"(\d+)"$/, (_, n: string) => quoted[Number(n)]!.trim())
      .replace(/^([+-]?\d*),(\d+)$/, '$1.$2'),
  )
}
