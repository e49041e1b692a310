import { valueAt, type Key } from '@tangle/core'
import fc from 'fast-check'
import { merged, pasted, removed, reversed, scaled, slid, type Edited } from '../src/score/keyEdits.ts'
import { panned, zoomed } from '../src/score/useView.ts'

const LIMITS: [number, number] = [-5, 5]
const keys: fc.Arbitrary<Key[]> = fc
  .uniqueArray(
    fc.tuple(fc.integer({ min: 1, max: 60 }), fc.integer({ min: -5, max: 5 }), fc.constantFrom('linear', 'smooth', 'hold', 'in', 'out', 'smoother')), // prettier-ignore
    { minLength: 2, maxLength: 8, selector: ([frame]) => frame },
  )
  .map((all) => all.sort((a, b) => a[0] - b[0]) as Key[])
const chosen = keys.chain((all) =>
  fc
    .subarray(
      all.map((key) => key[0]),
      { minLength: 1 },
    )
    .map((frames) => ({ all, frames: new Set(frames) })),
)
const inOrder = ({ keys: all }: Edited): boolean =>
  all.every((key, i) => (i === 0 || all[i - 1]![0] < key[0]) && key[1] >= -5 && key[1] <= 5)

test('whatever is done to keys, they stay in order of frames, each frame once, within the limits', () => {
  fc.assert(
    fc.property(
      chosen,
      fc.integer({ min: -30, max: 30 }),
      fc.integer({ min: -4, max: 4 }),
      ({ all, frames }, by, value) => {
        const edits = [
          slid(all, frames, { frames: by, value }, LIMITS),
          scaled(all, frames, { time: 2, value }, LIMITS),
          scaled(all, frames, { time: 0.5, value: 0.5 }, LIMITS),
          reversed(all, frames),
          pasted(
            all,
            all.filter((key) => frames.has(key[0])),
            20 + by,
            LIMITS,
          ),
        ]
        for (const edit of edits) {
          expect(inOrder(edit)).toBe(true)
          expect([...edit.frames].every((frame) => edit.keys.some((key) => key[0] === frame))).toBe(true)
        }
        expect(removed(all, frames).keys).toHaveLength(all.length - frames.size)
      },
    ),
    { numRuns: 300, seed: 4 },
  )
})

test('sliding there and back, and reversing twice, change nothing', () => {
  fc.assert(
    fc.property(keys, fc.integer({ min: 1, max: 40 }), (all, by) => {
      const frames = new Set(all.map((key) => key[0]))
      const there = slid(all, frames, { frames: by, value: 0 }, LIMITS)
      expect(slid(there.keys, there.frames, { frames: -by, value: 0 }, LIMITS).keys).toEqual(all)
      const once = reversed(all, frames)
      const twice = reversed(once.keys, once.frames).keys
      // the ease after the last key leads nowhere
      expect(twice.map(([frame, value]) => [frame, value])).toEqual(
        all.map(([frame, value]) => [frame, value]),
      )
      for (let frame = all[0]![0]; frame <= all.at(-1)![0]; frame += 0.7)
        expect(valueAt({ keys: twice }, frame)).toBeCloseTo(valueAt({ keys: all }, frame), 9)
    }),
    { numRuns: 200, seed: 9 },
  )
})

test('reversed keys run through the same values the other way, but for steps', () => {
  const all: Key[] = [[0, 1, 'in'], [10, 3, 'smooth'], [30, 0, 'linear']] // prettier-ignore
  const { keys: turned } = reversed(all, new Set([0, 10, 30]))
  for (let t = 0; t <= 30; t += 1.5)
    expect(valueAt({ keys: turned }, t)).toBeCloseTo(valueAt({ keys: all }, 30 - t), 9)
})

test('a key that lands on another takes its place', () => {
  expect(merged([[5, 1], [9, 2]], [[9, 4]])).toEqual([[5, 1], [9, 4]]) // prettier-ignore
})

test('the view zooms about a frame, stays within the shot, and all of it is no view', () => {
  const whole = { from: 1, to: 101 }
  expect(zoomed(whole, whole, 2, 26)).toEqual({ from: 13.5, to: 63.5 })
  expect(zoomed({ from: 1, to: 51 }, whole, 2, 1)).toEqual({ from: 1, to: 26 })
  expect(panned({ from: 60, to: 90 }, whole, 50)).toEqual({ from: 71, to: 101 })
  expect(zoomed({ from: 1, to: 51 }, whole, 0.1, 20)).toBeNull()
})
