import type { Mesh } from '@tangle/core'
import { atLine, FormatFault } from '../fault.ts'
import { Growing, linesOf } from './lines.ts'

/** Commas, semicolons, tabs or spaces. */
const SEPARATOR = /\s*[,;\t]\s*|\s+/

/**
 * Points from a table: a line each, columns x, y and z by the names in the first line, or else the first three.
 * Empty lines and those that start with # are passed over. RFC 4180, without quotes.
 */
export function readCsv(bytes: Uint8Array): Mesh {
  const positions = new Growing(Float32Array)
  let columns: number[] | null = null
  for (const [text, number] of linesOf(bytes)) {
    const line = text.trim()
    if (line === '' || line.startsWith('#')) continue
    const words = line.split(SEPARATOR)
    if (!columns) {
      const names = words.map((word) => word.replaceAll('"', '').toLowerCase())
      const named = ['x', 'y', 'z'].map((axis) => names.indexOf(axis))
      columns = named.every((place) => place >= 0) ? named : [0, 1, 2]
      if (named.every((place) => place >= 0)) continue
      // a head that names other things
      if (names.every((name) => Number.isNaN(Number(name)))) continue
    }
    const point = columns.map((column) => Number(words[column] || NaN))
    if (!point.every(Number.isFinite))
      throw atLine(number, `a point needs three numbers, but this has "${line.slice(0, 60)}"`)
    positions.push(...(point as [number, number, number]))
  }
  if (positions.length === 0)
    throw new FormatFault('', 'this CSV has no points: a line each, with x, y and z')
  return { positions: positions.done(), triangles: new Uint32Array(0) }
}
