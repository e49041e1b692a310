import { distancesApart, stepsOf, trailFrames, trailsOf, type TrailFrame } from '../src/index.ts'

/** Particle id stands at x = id + frame/10; 7 is born at frame 12, and 3 dies after 14. */
function at(frame: number): TrailFrame | undefined {
  if (frame < 10) return undefined
  const ids = [3, 5, 7].filter((id) => (id !== 7 || frame >= 12) && (id !== 3 || frame <= 14))
  return { ids, positions: ids.flatMap((id) => [id + frame / 10, 0, 0]) }
}
const lines = (frame: number, length: number, step: number) => {
  const { particles, counts, points, along } = trailsOf(frame, at, length, step)
  let first = 0
  return Array.from(counts, (count, k) => {
    const line = {
      id: at(frame)!.ids[particles[k]!]!,
      x: Array.from({ length: count }, (_, p) => points[(first + p) * 3]!),
      along: Array.from(along.subarray(first, first + count)),
    }
    first += count
    return line
  })
}
const near = (...values: number[]) => values.map((x) => expect.closeTo(x, 5))

test('a trail goes back over the frames that there are, no farther than the birth', () => {
  expect(lines(13, 4, 1)).toEqual([
    { id: 3, x: near(4.3, 4.2, 4.1, 4), along: near(0, 0.25, 0.5, 0.75) },
    { id: 5, x: near(6.3, 6.2, 6.1, 6), along: near(0, 0.25, 0.5, 0.75) },
    { id: 7, x: near(8.3, 8.2), along: near(0, 0.25) },
  ])
  // who is gone has no trail; who was born this frame has none yet
  expect(lines(15, 2, 1).map(({ id }) => id)).toEqual([5, 7])
  expect(lines(12, 9, 1).map(({ id }) => id)).toEqual([3, 5])
})

test('with a step its points stay put while the particle goes on, and its length stays the same', () => {
  const inner = (frame: number): number[] => lines(frame, 6, 3)[0]!.x.slice(1, -1)
  expect(inner(17)).toEqual(near(6.5, 6.2))
  expect(inner(18)).toEqual(near(6.5))
  const x = lines(17, 6, 3)[0]!.x
  expect(x[0]! - x.at(-1)!).toBeCloseTo(0.6, 5)
})

test('a length in seconds is the same time at any rate', () => {
  const trail = { length: 0.5, unit: 'seconds' } as Parameters<typeof trailFrames>[0]
  expect([24, 60].map((rate) => trailFrames(trail, rate))).toEqual([12, 30])
  expect(trailFrames({ ...trail, length: 8, unit: 'frames' }, 60)).toBe(8)
})

test('a streak is as long as the way of a frame: the one before, of the newborn the one after', () => {
  const steps = (frame: number, before?: number, after?: number): number[] =>
    Array.from(stepsOf(at(frame)!, before === undefined ? undefined : at(before), after === undefined ? undefined : at(after))) // prettier-ignore
  // 7 is born at 12, and goes on as it will
  expect(steps(12, 11, 13)).toEqual(near(0.1, 0, 0, 0.1, 0, 0, 0.1, 0, 0))
  expect(steps(12, 11)).toEqual(near(0.1, 0, 0, 0.1, 0, 0, 0, 0, 0))
  // 3 is gone at 15; where nothing is known nothing moves
  expect(steps(15, 14)).toEqual(near(0.1, 0, 0, 0.1, 0, 0))
  expect(steps(15)).toEqual(near(0, 0, 0, 0, 0, 0))
})

test('how far apart particles are in two frames, by their ids; who is in one alone is farther than all', () => {
  // 7 is not born at 11
  expect(Array.from(distancesApart(at(13)!, at(11)!))).toEqual([...near(0.2, 0.2), Infinity])
  expect(Array.from(distancesApart(at(11)!, at(13)!))).toEqual(near(0.2, 0.2))
  expect(Array.from(distancesApart(at(13)!, { ids: [], positions: [] }))).toEqual([Infinity, Infinity, Infinity]) // prettier-ignore
})
