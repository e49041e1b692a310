/** Columns of the tables in the drawer, how rows are filtered and sorted by them, and histograms. */
export interface Column {
  label: string
  unit: string
  read(row: number): number
  /** Its words need room, and begin at the left. */
  isText?: true
  /** In words, where a number says little. */
  words?(row: number): string
}
export type Columns = Record<string, Column>

/** What a column shows of a row. */
export const shown = ({ read, words }: Column, row: number): string =>
  words ? words(row) : Number(read(row).toPrecision(6)).toString()

const FILTER = /^\s*([\w.-]+)\s*(<=|>=|<|>|=)\s*(.+?)\s*$/

/**
 * A filter such as "speed > 2, phase = Loose": what meets all its conditions passes; null when one can't be read, and
 * for an empty one all pass.
 */
export function filterOf(text: string, columns: Columns): ((row: number) => boolean) | null {
  const conditions = text
    .split(',')
    .filter((part) => part.trim() !== '')
    .map((part) => conditionOf(part, columns))
  if (!conditions.every((one) => one !== null)) return null
  return (row) => conditions.every((holds) => holds(row))
}

function conditionOf(text: string, columns: Columns): ((row: number) => boolean) | null {
  const found = FILTER.exec(text)
  const column = found && columns[found[1]!]
  if (!column) return null
  const [, , sign, right] = found as unknown as [string, string, string, string]
  const bound = Number(right)
  if (Number.isNaN(bound)) {
    const { words } = column
    return sign === '=' && words ? (row) => words(row) === right : null
  }
  const test: Record<string, (v: number) => boolean> = {
    '<': (v) => v < bound,
    '>': (v) => v > bound,
    '<=': (v) => v <= bound,
    '>=': (v) => v >= bound,
    '=': (v) => v === bound,
  }
  return (row) => test[sign]!(column.read(row))
}

export interface Order {
  name: string
  down: boolean
}

/** The rows that pass, in an order; equal ones as they come. */
export function rowsIn(count: number, passes: (row: number) => boolean, column: Column, down: boolean) {
  const kept = Uint32Array.from({ length: count }, (_, row) => row).filter(passes)
  const keys = Float64Array.from({ length: count }, (_, row) => column.read(row) * (down ? -1 : 1))
  const isSorted = kept.every((row, k) => k === 0 || keys[kept[k - 1]!]! <= keys[row]!)
  return isSorted ? kept : kept.sort((a, b) => keys[a]! - keys[b]!)
}

export interface Histogram {
  /** Middles of the bins. */
  middles: number[]
  counts: number[]
}

/** How many of so many rows have which value of a column. */
export function histogram(count: number, { read }: Column, bins = 40): Histogram {
  if (count === 0) return { middles: [], counts: [] }
  const values = Float64Array.from({ length: count }, (_, row) => read(row))
  let [low, high] = [Infinity, -Infinity]
  for (const value of values) {
    if (value < low) low = value
    if (value > high) high = value
  }
  const counts = new Array<number>(bins).fill(0)
  const width = (high - low) / bins || 1
  for (const value of values) counts[Math.min(bins - 1, Math.floor((value - low) / width))]!++
  return { middles: counts.map((_, k) => Number((low + (k + 0.5) * width).toPrecision(4))), counts }
}
