/** Who is near whom: against brute force and kdbush, in thin air, in crowds and beside them. */
import KDBush from 'kdbush'
import { random } from '../src/math/random.ts'
import { buildGrid, crowdOf, measureOverlaps, neighbourCounts } from '../src/state/neighbours.ts'
import { floats, type Columns } from '../src/state/columns.ts'
import { machine, particles, scattered } from './crowd.ts'

/** Whom each lists within `reach` in a grid that is `width` wide. */
function named(columns: Columns, width: number, reach: number, most: number, farthest = width): number[][] {
  const { count, at } = columns
  const out = machine.heap.allocate(count * most * 4)
  const grid = buildGrid(machine, crowdOf(columns), width, most, farthest)
  machine.run('namedNeighbours', count, { position: at.position, cells: grid.at, reach, most, out })
  grid.free()
  const names = new Int32Array(machine.heap.u32(out, count * most))
  machine.heap.free(out)
  return Array.from({ length: count }, (_, i) =>
    Array.from(names.subarray(i * most, (i + 1) * most)).filter((j) => j >= 0),
  )
}

describe('neighbours', () => {
  test('all within the reach and nobody else, as brute force and kdbush find them; of many the nearest', () => {
    const count = 2000
    const flat = scattered(count, 4).map((x, k) => (k % 3 === 2 ? 0 : x))
    const columns = particles(flat)
    const index = new KDBush(count)
    for (let i = 0; i < count; i++) index.add(flat[i * 3]!, flat[i * 3 + 1]!)
    index.finish()
    const away = (i: number, j: number): number =>
      Math.hypot(flat[i * 3]! - flat[j * 3]!, flat[i * 3 + 1]! - flat[j * 3 + 1]!)
    const all = named(columns, 0.2, 0.2, 100)
    const eight = named(columns, 0.2, 0.2, 8)
    for (let i = 0; i < count; i++) {
      const expected = index.within(flat[i * 3]!, flat[i * 3 + 1]!, 0.2).filter((j) => j !== i)
      expect(all[i]!.toSorted()).toEqual(expected.toSorted())
      const nearest = expected.map((j) => away(i, j)).toSorted((a, b) => a - b)
      const kept = eight[i]!.map((j) => away(i, j)).toSorted((a, b) => a - b)
      expect(kept).toEqual(nearest.slice(0, 8).map((d) => expect.closeTo(d, 6)))
    }
  })

  // a clump a thousandth as wide as the reach, a looser one about it, and strays: cells of several widths are searched
  test.each([
    ['a metre', 1],
    ['millimetres', 1e-3],
    ['hundreds of metres', 300],
  ])('in and beside a dense clump the nearest are found as brute force finds them: %s', (_, scale) => {
    const count = 1500
    const at = scattered(count, 1, 5).map((x, k) => {
      const particle = Math.floor(k / 3)
      return x * scale * (particle < 700 ? 0.002 : particle < 1200 ? 0.1 : 2)
    })
    const columns = particles(at, [], 0.01 * scale)
    const place = floats(columns, 'position')
    const squared = (i: number, j: number): number =>
      [0, 1, 2].reduce((sum, axis) => sum + (place[i * 3 + axis]! - place[j * 3 + axis]!) ** 2, 0)
    for (const [reach, most] of [
      [0.9, 6],
      [0.3, 20],
      [0.004, 3],
    ] as const) {
      const lists = named(columns, reach * scale, reach * scale, most)
      for (let i = 0; i < count; i += 7) {
        const found = lists[i]!
        const all = Array.from({ length: count }, (_, j) => j).filter(
          (j) => j !== i && squared(i, j) <= (reach * scale) ** 2,
        )
        const nearest = all
          .map((j) => squared(i, j))
          .toSorted((a, b) => a - b)
          .slice(0, most)
        expect(new Set(found).size).toBe(found.length)
        expect(found.map((j) => squared(i, j)).toSorted((a, b) => a - b)).toEqual(nearest)
      }
    }
  })

  // who is fast looks farther than the cells are wide: the row of cells it looks at may go around all buckets
  test.each([
    ['a metre', 1],
    ['millimetres', 1e-3],
    ['hundreds of metres', 300],
  ])('far beyond the width of the cells, as brute force finds them: %s', (_, scale) => {
    const count = 250
    const columns = particles(scattered(count, 1, 8).map((x) => x * scale))
    const place = floats(columns, 'position')
    const near = (i: number, reach: number): number[] =>
      Array.from({ length: count }, (_, j) => j).filter(
        (j) => j !== i && Math.hypot(...[0, 1, 2].map((a) => place[i * 3 + a]! - place[j * 3 + a]!)) <= reach,
      )
    for (const [width, reach] of [
      [0.03, 0.9],
      [0.02, 0.3],
      [0.2, 0.5],
    ] as const) {
      for (const foreseen of [width, reach]) {
        const found = named(columns, width * scale, reach * scale, 256, foreseen * scale)
        for (let i = 0; i < count; i += 5)
          expect(found[i]!.toSorted((a, b) => a - b)).toEqual(near(i, reach * scale))
      }
    }
  })

  test('of a crowd in one place, and of a lattice whose places tie, as many as are wanted, each once', () => {
    const lattice = Array.from({ length: 512 }, (_, i) => [i % 8, (i >> 3) % 8, i >> 6]).flat()
    for (const at of [Array.from({ length: 900 }, () => 0.37), lattice.map((x) => x * 0.1)]) {
      const columns = particles(at)
      for (const most of [1, 6, 9, 17]) {
        for (const list of named(columns, 0.25, 0.25, most)) {
          expect(list.length).toBe(most)
          expect(new Set(list).size).toBe(most)
        }
      }
    }
  })

  test('counts within radii of their own, and overlaps, as brute force finds them', () => {
    const at = scattered(400, 1)
    const radius = Array.from({ length: 400 }, (_, i) => 0.01 + 0.05 * random(6, i, 1))
    const columns = particles(at, [], radius)
    const out = machine.heap.allocate(1600)
    neighbourCounts(machine, columns, 4, out)
    const expected = { pairs: 0, worst: 0, touching: new Set<number>() }
    for (let i = 0; i < 400; i++) {
      let near = 0
      for (let j = 0; j < 400; j++) {
        const away = Math.hypot(...[0, 1, 2].map((axis) => at[i * 3 + axis]! - at[j * 3 + axis]!))
        if (j !== i && away <= 4 * Math.fround(radius[i]!)) near++
        const depth = radius[i]! + radius[j]! - away
        if (j === i || depth < 0) continue
        expected.touching.add(i)
        if (j > i) expected.pairs++
        expected.worst = Math.max(expected.worst, depth)
      }
      expect(machine.heap.f32(out, 400)[i]).toBe(near)
    }
    const overlaps = measureOverlaps(machine, columns)
    expect(overlaps).toMatchObject({ pairs: expected.pairs, touching: expected.touching.size })
    expect(overlaps.worst).toBeCloseTo(expected.worst, 6)
    expect(overlaps.share).toBeCloseTo(expected.pairs / ((400 * 399) / 2), 9)
  })
})
