/** The tables of the drawer: what their columns read, filters, order and histograms. */
import { completePopulation, type EventTable } from '@tangle/core'
import { packPopulation } from '../../../packages/runtime/src/browser/packed.ts'
import { filterOf, histogram, rowsIn, shown } from '../src/drawer/columns.ts'
import { eventColumns } from '../src/drawer/eventColumns.ts'
import { particleColumns, spreading } from '../src/drawer/particleColumns.ts'

const rules = completePopulation({
  id: 'dust',
  phases: ['Held', 'Loose'],
  attributes: [
    { id: 'heat', name: 'Heat', type: 'number', unit: 'K' },
    { id: 'way', name: 'Way', type: 'vector' },
  ],
} as never)
const COUNT = 6
const packed = packPopulation({
  id: 'dust',
  count: COUNT,
  columns: {
    id: Uint32Array.from([2, 3, 5, 7, 11, 13]),
    phase: Uint32Array.from([0, 1, 0, 1, 0, 1]),
    position: Float32Array.from({ length: COUNT * 3 }, (_, k) => k),
    velocity: Float32Array.from({ length: COUNT * 3 }, (_, k) => (k % 3 === 0 ? k / 3 : 0)),
    radius: new Float32Array(COUNT).fill(0.5),
    temperature: Float32Array.from([20, 30, 40, 50, 60, 70]),
    'own.heat': Float32Array.from([300, 100, 600, 200, 500, 400]),
    'own.way': Float32Array.from({ length: COUNT * 3 }, (_, k) => -k),
  },
})
const columns = particleColumns(packed, rules)

test('columns read what particles have, and the population’s own attributes part by part', () => {
  expect(Object.keys(columns)).toEqual([
    'id', 'phase', 'x', 'y', 'z', 'speed', 'age', 'radius', 'travelled', 'opacity', 'temperature', 'heat', 'way.x', 'way.y', 'way.z',
  ]) // prettier-ignore
  const row = (i: number) => Object.values(columns).map((one) => shown(one, i))
  expect(row(4)).toEqual([
    '11',
    'Held',
    '12',
    '13',
    '14',
    '4',
    '0',
    '0.5',
    '0',
    '1.00',
    '60',
    '500',
    '-12',
    '-13',
    '-14',
  ])
  expect(spreading(columns)).not.toContain('phase')
  expect(columns.heat!.unit).toBe('K')
  expect(columns.temperature!.unit).toBe('°C')
  // a frame from before the attribute was added
  expect(Object.keys(particleColumns({ ...packed, own: {} }, rules))).not.toContain('heat')
})

test('filters take numbers and words, and say when they cannot be read', () => {
  const rowsOf = (text: string) => {
    const passes = filterOf(text, columns)
    return passes && [0, 1, 2, 3, 4, 5].filter(passes)
  }
  expect(rowsOf('heat > 350')).toEqual([2, 4, 5])
  expect(rowsOf('heat<=200')).toEqual([1, 3])
  expect(rowsOf(' phase = Loose ')).toEqual([1, 3, 5])
  expect(rowsOf('way.y = -4')).toEqual([1])
  expect(rowsOf('speed>=1e0')).toEqual([1, 2, 3, 4, 5])
  expect(rowsOf('')).toHaveLength(6)
  for (const wrong of ['heat', 'warmth > 3', 'heat > much', 'phase > Loose', '> 3'])
    expect(rowsOf(wrong)).toBeNull()
})

test('rows come in the order of a column, both ways', () => {
  const all = () => true
  expect(Array.from(rowsIn(COUNT, all, columns.heat!, false))).toEqual([1, 3, 0, 5, 4, 2])
  expect(Array.from(rowsIn(COUNT, all, columns.heat!, true))).toEqual([2, 4, 5, 0, 3, 1])
  expect(Array.from(rowsIn(COUNT, (row) => row !== 2, columns.id!, false))).toEqual([0, 1, 3, 4, 5])
})

test('histograms count every row once, one of equal values too', () => {
  const { middles, counts } = histogram(COUNT, columns.heat!, 5)
  expect(counts.reduce((a, b) => a + b, 0)).toBe(COUNT)
  expect(counts).toEqual([1, 1, 1, 1, 2])
  expect(middles).toEqual([150, 250, 350, 450, 550])
  expect(histogram(COUNT, columns.radius!, 5).counts[0]).toBe(COUNT)
  expect(histogram(0, columns.heat!)).toEqual({ middles: [], counts: [] })
})

test('events say in words what happened, with whom and how', () => {
  const table: EventTable = {
    rows: 5,
    kinds: Uint8Array.from([0, 1, 2, 3, 4]),
    frames: Float64Array.from([4, 4.25, 4.5, 4.75, 5]),
    particles: Uint32Array.from([1, 2, 3, 4, 5]),
    others: Int32Array.from([-1, -1, 9, 8, -1]),
    ofs: Uint16Array.from([0, 0, 1, 0, 0]),
    names: ['', 'rock'],
    places: new Float32Array(15).fill(0.25),
    normals: Float32Array.from({ length: 15 }, (_, k) => (k % 3 === 1 ? 1 : 0)),
    details: Uint32Array.from([0, 2, 0, 1, 64 * 0 + 1]),
    counts: { birth: 1, death: 1, touch: 1, break: 1, phase: 1 },
  }
  const of = eventColumns(table, rules, (id) => (id === 'rock' ? 'Rock' : id))
  const row = (i: number) =>
    ['frame', 'what', 'particle', 'with', 'other', 'detail'].map((name) => shown(of[name]!, i))
  expect(row(0)).toEqual(['4.00', 'born', '1', '', '', ''])
  expect(row(1)).toEqual(['4.25', 'died', '2', '', '', 'by a cue'])
  expect(row(2)).toEqual(['4.50', 'touched', '3', 'Rock', '9', ''])
  expect(row(3)).toEqual(['4.75', 'broken', '4', '', '8', 'cut'])
  expect(row(4)).toEqual(['5.00', 'changed phase', '5', '', '', 'Held → Loose'])
  expect([0, 1, 2, 3, 4].filter(filterOf('with = Rock', of)!)).toEqual([2])
  expect(of.ny!.read(3)).toBe(1)
})
