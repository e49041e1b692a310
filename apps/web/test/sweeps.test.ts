/** What a sweep is told beforehand: the values in words, and what takes will need. */
import { completePopulation, emptyShot, storedBytes, type Shot } from '@tangle/core'
import { estimateOf, valuesIn } from '../src/sweeps/estimate.ts'
import { progressOf, shortName, variedIn } from '../src/sweeps/takeWords.ts'
import type { Take } from '../src/store/api.ts'

test('values are a list or a range, and what can’t be read is said', () => {
  expect(valuesIn('0.5, 1; 2')).toEqual([0.5, 1, 2])
  expect(valuesIn('3 3 1e2')).toEqual([3, 100])
  expect(valuesIn('0.5 to 2 in 4')).toEqual([0.5, 1, 1.5, 2])
  expect(valuesIn('1 to -1 in 3')).toEqual([1, 0, -1])
  expect(valuesIn('0 to 0.3 in 4')).toEqual([0, 0.1, 0.2, 0.3])
  for (const text of ['', ' , ', 'two', '1 to 2 in 1', '1 to x in 3', '1 to 2 in 2.5', '1 to 2 in 1000'])
    expect([text, typeof valuesIn(text)]).toEqual([text, 'string'])
})

test('a take is as large as its frames at full count, and what is not previewed counts as the last frame', () => {
  const dust = completePopulation({ id: 'dust' })
  const shot: Shot = { ...emptyShot('E'), frames: { first: 1, last: 100, rate: 24 }, populations: [dust] }
  shot.quality.previewShare = 0.5
  const frame = (alive: number) => ({ alive: { dust: alive }, milliseconds: 10 })
  expect(estimateOf(shot, [], 0)).toBeNull()
  const all = estimateOf(shot, [frame(100), frame(300)], 100)!
  expect(all.bytes).toBeCloseTo(100 * 400 * storedBytes(dust), 3)
  expect(all.seconds).toBeCloseTo(2)
  // half of them: 50 frames of 200 on average, and 50 like the last
  expect(estimateOf(shot, [frame(100), frame(300)], 50)!.bytes).toBeCloseTo(
    (50 * 400 + 50 * 600) * storedBytes(dust),
    3,
  )
})

test('takes in words', () => {
  const take = { status: 'computing', framesDone: 25, millisecondsPerFrame: 1600, frames: { first: 1, last: 100, rate: 24 } } as Take // prettier-ignore
  expect(progressOf(take)).toBe('25 of 100 frames · 1.6 s each · 2 min left')
  expect(progressOf({ ...take, millisecondsPerFrame: 40 })).toBe('25 of 100 frames · 40 ms each · 3 s left')
  expect(progressOf({ ...take, framesDone: 0, millisecondsPerFrame: null, host: 'quay' })).toBe('0 of 100 frames · on quay') // prettier-ignore
  expect(progressOf({ ...take, status: 'waiting' })).toBe('waits for a worker, 25 of 100 frames are there')
  expect(progressOf({ ...take, status: 'paused' })).toBe('25 of 100 frames')
  expect(shortName('Dust · Gravity · strength')).toBe('Gravity · strength')
  const named = (...names: string[]) => ({ varied: names.map((name) => ({ path: [], name, value: 1 })) })
  expect(variedIn(named('A · Gravity · strength', 'A · Heat · strength'))).toBe('Gravity · strength 1, Heat · strength 1') // prettier-ignore
  expect(variedIn({ ...take, varied: [{ path: ['seed'], name: 'Seed', value: 3 }, { path: [], name: 'A · speed', value: 1 / 3 }] })).toBe('Seed 3, speed 0.3333') // prettier-ignore
})
