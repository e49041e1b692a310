/** The committed table of ratios (bench/table.json), and what has become slower since. */
export interface Row {
  ratio: number
  /** Whether a smaller ratio is the faster one. */
  better: 'lower' | 'higher'
}
export type Table = Record<string, Row>

/** Part by which a ratio may be off before it is called slower: these machines are noisy. */
export const TOLERANCE = 0.3

/** Says of each measure of the table how it stands; `slower` names those that are worse by more than the tolerance, or not there. */
export function compareTables(table: Table, now: Table): { lines: string[]; slower: string[] } {
  const slower: string[] = []
  const lines = Object.entries(table).map(([name, { ratio, better }]) => {
    const found = now[name]?.ratio
    if (found === undefined) {
      slower.push(name)
      return `${name}: not measured any more`
    }
    const change = better === 'lower' ? found / ratio : ratio / found
    if (change > 1 + TOLERANCE) slower.push(name)
    const word = change > 1 + TOLERANCE ? 'SLOWER' : change < 1 / (1 + TOLERANCE) ? 'faster' : 'as it was'
    return `${name}: ${ratio.toFixed(2)} → ${found.toFixed(2)}  ${word}`
  })
  const fresh = Object.keys(now).filter((name) => !(name in table))
  return { lines: [...lines, ...fresh.map((name) => `${name}: new, ${now[name]!.ratio.toFixed(2)}`)], slower }
}
