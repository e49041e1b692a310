/** @jest-environment jsdom */
/** Pictures of a shot that move: taken as its frames pass. */
import { jest } from '@jest/globals'
import { emptyShot, type Shot } from '@tangle/core'
import { createStrip } from '../src/stage/strip.ts'
import { STRIP_PICTURES } from '../src/words.ts'

const shotOf = (first: number, last: number): Shot => ({
  ...emptyShot('Strip'),
  frames: { first, last, rate: 24 },
})
const drawImage = jest.fn()
beforeEach(() => {
  drawImage.mockClear()
  HTMLCanvasElement.prototype.getContext = (() => ({ drawImage })) as never
  HTMLCanvasElement.prototype.toBlob = (take) => take(new Blob(['strip']))
})
const stripOn = (width: number, height: number) => {
  const whole = jest.fn()
  const drawBare = jest.fn()
  const strip = createStrip(Object.assign(document.createElement('canvas'), { width, height }), whole)
  const pass = (shot: Shot, ...frames: number[]): void => frames.forEach((frame) => strip.pass({ shot, frame, meshesOf: undefined, drawBare })) // prettier-ignore
  return { whole, drawBare, pass, strip }
}
const range = (first: number, last: number, step = 1): number[] =>
  Array.from({ length: Math.floor((last - first) / step) + 1 }, (_, k) => first + k * step)

test('a picture of each part of the shot, however often it passes, and they are given out once', () => {
  const shot = shotOf(-10, 109)
  const { whole, drawBare, pass } = stripOn(800, 600)
  pass(shot, ...range(-10, 60))
  expect(whole).not.toHaveBeenCalled()
  pass(shot, ...range(-10, 109), ...range(-10, 109))
  expect(drawBare).toHaveBeenCalledTimes(STRIP_PICTURES)
  expect(whole).toHaveBeenCalledTimes(1)
  // one beside the other, in the order of the frames
  const places = drawImage.mock.calls.map((call) => call[5] as number)
  expect(places).toEqual(range(0, STRIP_PICTURES - 1).map((k) => k * 320))
})

test('frames may be left out where playing is slow, and come in any order', () => {
  const { whole, pass } = stripOn(400, 400)
  pass(shotOf(1, 240), ...range(1, 240, 19).reverse())
  expect(whole).toHaveBeenCalledTimes(1)
})

test('while meshes are shown as they were in the round before, or long ago, no picture is taken', () => {
  const shot = shotOf(1, 240)
  const { drawBare, strip } = stripOn(400, 400)
  const taken = (frame: number, meshesOf: number): number => {
    strip.pass({ shot, frame, meshesOf, drawBare })
    return drawBare.mock.calls.length
  }
  expect([taken(1, 240), taken(50, 20), taken(50, 51), taken(50, 31), taken(1, 1)]).toEqual([0, 0, 0, 1, 2])
})

test('what has changed in between begins anew', () => {
  const [shot, edited] = [shotOf(1, 24), shotOf(1, 24)]
  const { whole, pass } = stripOn(400, 400)
  pass(shot, ...range(1, 20))
  pass(edited, ...range(20, 24))
  expect(whole).not.toHaveBeenCalled()
  pass(edited, ...range(1, 24))
  expect(whole).toHaveBeenCalledTimes(1)
})

test.each([
  [1600, 500, [400, 0, 800, 500]],
  [320, 800, [0, 300, 320, 200]],
])('the middle of a canvas of %d × %d, 16:10', (width, height, expected) => {
  const { pass } = stripOn(width, height)
  pass(shotOf(1, 48), 5)
  expect(drawImage.mock.calls[0]!.slice(1, 5)).toEqual(expected)
})

test('a shot of fewer frames than there are pictures has none', () => {
  const { whole, pass } = stripOn(400, 400)
  pass(shotOf(1, 5), ...range(1, 5), ...range(1, 5))
  expect(whole).not.toHaveBeenCalled()
})
