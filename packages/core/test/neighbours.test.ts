/** Who is near whom: against brute force and kdbush, in thin air, in crowds and beside them. */
import KDBush from 'kdbush'
import { random } from '../src/math/random.ts'
import { buildGrid, crowdOf, measureOverlaps, neighbourCounts } from '../src/state/neighbours.ts'
import { floats } from '../src/state/columns.ts'
import { machine, particles, scattered } from './crowd.ts'

describe('neighbours', () => {
  test('all within the reach and nobody else, as brute force and kdbush find them; of many the nearest', () => {
    const count = 2000
    const flat = scattered(count, 4).map((x, k) => (k % 3 === 2 ? 0 : x))
    const columns = particles(flat)
    const index = new KDBush(count)
    for (let i = 0; i < count; i++) index.add(flat[i * 3]!, flat[i * 3 + 1]!)
    index.finish()
    const found = (reach: number, most: number): number[][] => {
      const out = machine.heap.allocate(count * most * 4)
      const grid = buildGrid(machine, crowdOf(columns), reach, most)
      machine.run('namedNeighbours', count, {
        position: columns.at.position,
        cells: grid.at,
        reach,
        most,
        out,
      })
      grid.free()
      const names = [...new Int32Array(machine.heap.u32(out, count * most))]
      return Array.from({ length: count }, (_, i) =>
        names.slice(i * most, (i + 1) * most).filter((j) => j >= 0),
      )
    }
    const away = (i: number, j: number): number =>
      Math.hypot(flat[i * 3]! - flat[j * 3]!, flat[i * 3 + 1]! - flat[j * 3 + 1]!)
    const all = found(0.2, 100)
    const eight = found(0.2, 8)
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
      const out = machine.heap.allocate(count * most * 4)
      const grid = buildGrid(machine, crowdOf(columns), reach * scale, most)
      machine.run('namedNeighbours', count, {
        position: columns.at.position,
        cells: grid.at,
        reach: reach * scale,
        most,
        out,
      })
      grid.free()
      const names = new Int32Array(machine.heap.u32(out, count * most))
      for (let i = 0; i < count; i += 7) {
        const found = Array.from(names.subarray(i * most, (i + 1) * most)).filter((j) => j >= 0)
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
