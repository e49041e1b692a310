/** What `./tangle bench --check` calls slower. */
import { compareTables, type Table } from '../src/table.ts'

const table: Table = {
  'cost against another': { ratio: 2, better: 'lower' },
  'one thread ÷ two': { ratio: 1.8, better: 'higher' },
}
const now = (cost: number, threads: number): Table => ({
  'cost against another': { ratio: cost, better: 'lower' },
  'one thread ÷ two': { ratio: threads, better: 'higher' },
})

test('within the noise nothing is slower, either way', () => {
  expect(compareTables(table, now(2.5, 1.5)).slower).toEqual([])
  expect(compareTables(table, now(1, 3)).slower).toEqual([])
})

test('what costs more, scales worse or is not measured any more is named with both figures', () => {
  expect(compareTables(table, now(2.7, 1.8)).slower).toEqual(['cost against another'])
  const { slower, lines } = compareTables(table, now(2, 1.2))
  expect(slower).toEqual(['one thread ÷ two'])
  expect(lines[1]).toBe('one thread ÷ two: 1.80 → 1.20  SLOWER')
  expect(compareTables(table, { 'one thread ÷ two': table['one thread ÷ two']! }).slower).toEqual([
    'cost against another',
  ])
})

test('what is new is told, and what is faster', () => {
  const { lines, slower } = compareTables(table, {
    ...now(1, 1.8),
    'a new one': { ratio: 3, better: 'lower' },
  })
  expect(lines).toEqual(['cost against another: 2.00 → 1.00  faster', 'one thread ÷ two: 1.80 → 1.80  as it was', 'a new one: new, 3.00']) // prettier-ignore
  expect(slower).toEqual([])
})
