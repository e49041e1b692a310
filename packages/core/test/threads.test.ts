/** Threads: which particles are joined, against all pairs. */
import { completeThreads, threadsOf, type PopulationFrame } from '../src/index.ts'
import { burst, shotOf, start } from './help.ts'
import { randoms } from '../src/math/random.ts'

const cloud = (count: number, size: number, from = 0) => ({
  ids: Uint32Array.from({ length: count }, (_, k) => from + 2 * k),
  positions: Float32Array.from({ length: count * 3 }, (_, k) => (randoms(from + 1, k, 0)[0] - 0.5) * size),
  parents: null as Uint32Array | null,
  frames: null as Float32Array | null,
})
const between = (all: Float32Array, line: number): number =>
  Math.hypot(...[0, 1, 2].map((k) => all[line * 6 + k]! - all[line * 6 + 3 + k]!))

test.each([[300, 1, 0.2], [300, 0.001, 0.0002], [200, 400, 90]])('%d neighbours in %d m: every pair within %d m, once', (count, size, reach) => {
  const now = cloud(count, size)
  const { particles, ends } = threadsOf(now, [], completeThreads({ join: 'near', reach, most: 32 }))
  let pairs = 0
  const at = (i: number, axis: number) => now.positions[i * 3 + axis]!
  for (let i = 0; i < count; i++)
    for (let k = 0; k < i; k++) if (Math.hypot(at(i, 0) - at(k, 0), at(i, 1) - at(k, 1), at(i, 2) - at(k, 2)) <= reach) pairs++
  expect(pairs).toBeGreaterThan(50)
  expect(particles).toHaveLength(pairs)
  for (let line = 0; line < pairs; line++) expect(between(ends, line)).toBeLessThanOrEqual(reach * (1 + 1e-6))
}) // prettier-ignore

test('with the nearest only, each has as many as is said, or those that want it', () => {
  const { particles, ends } = threadsOf(
    cloud(400, 1),
    [],
    completeThreads({ join: 'near', reach: 5, most: 1 }),
  )
  expect(particles.length).toBeGreaterThan(200)
  expect(particles.length).toBeLessThanOrEqual(400)
  expect(ends).toHaveLength(particles.length * 6)
})

test('a child with its parent, for so many frames, within reach, while both are there', () => {
  const parents = cloud(10, 1)
  const children = {
    ids: Uint32Array.of(0, 1, 2, 3, 4),
    positions: new Float32Array(15),
    // of the last one the parent is gone; the fourth has none
    parents: Uint32Array.of(4, 6, 6, 0xffffffff, 77),
    frames: Float32Array.of(1, 2, 9, 1, 1),
  }
  const lines = (more: object) =>
    threadsOf(children, [{ ...parents, number: 0 }], completeThreads({ reach: 10, ...more }))
  expect([...lines({ frames: 3 }).particles]).toEqual([0, 1])
  expect([...lines({ frames: 30 }).particles]).toEqual([0, 1, 2])
  expect([...lines({ frames: 30, reach: 1e-4 }).particles]).toEqual([])
  expect([...lines({ frames: 3 }).ends.slice(3, 6)]).toEqual([...parents.positions.slice(6, 9)])
})

test('of two populations that bear, each child is joined with the one that bore it: ids alone do not tell', () => {
  const shot = shotOf(
    {},
    {
      populations: ['reds', 'blues', 'sparks'].map((id, n) => ({
        id,
        phases: ['Loose'],
        particle: { radius: 0.01, density: 1000 },
        births:
          id === 'sparks'
            ? ['reds', 'blues'].map((from) => ({ id: from, kind: 'particles', from, into: 'Loose', amount: { event: 'birth', count: 2 } })) // prettier-ignore
            : [burst({ amount: { burst: 6, at: 1 }, direction: [n, 1, 0] })],
      })),
    },
  )
  const [reds, blues, sparks] = start(shot).populations() as [PopulationFrame, PopulationFrame, PopulationFrame] // prettier-ignore
  expect(reds.columns.parentPopulation).toBeUndefined()
  expect([...sparks.columns.parentPopulation!].sort()).toEqual([...Array(12).fill(0), ...Array(12).fill(1)])
  const frameOf = ({ columns }: PopulationFrame) => ({ ids: columns.id!, positions: columns.position! })
  const now = { ...frameOf(sparks), parents: sparks.columns.parent!, parentPopulations: sparks.columns.parentPopulation!, frames: null } // prettier-ignore
  const bearers = [reds, blues].map((one, number) => ({ ...frameOf(one), number }))
  const { particles, ends } = threadsOf(now, bearers, completeThreads({ reach: 100 }))
  expect(particles).toHaveLength(24)
  // born where their parent was born, and nobody has moved
  particles.forEach((_, line) => expect(between(ends, line)).toBeLessThan(1e-6))
  // in the order of ids both have the same ones
  expect([...reds.columns.id!]).toEqual([...blues.columns.id!])
})

test('one after another, where they are near', () => {
  const row = { ...cloud(4, 1), positions: Float32Array.of(0, 0, 0, 1, 0, 0, 2, 0, 0, 9, 0, 0) }
  const { particles, ends } = threadsOf(row, [], completeThreads({ join: 'order', reach: 1.5 }))
  expect([...particles]).toEqual([1, 2])
  expect([...ends]).toEqual([1, 0, 0, 0, 0, 0, 2, 0, 0, 1, 0, 0])
})
