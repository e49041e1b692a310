/** How many particles a sketch has: as many as are there in time, by what frames cost. */
import { createSketches } from '../src/browser/sketches.ts'

const PARTICLES = 100_000
/** Sketches of a shot whose frames cost so many milliseconds each, up to frame 200. */
function sketches(milliseconds: number) {
  const all = createSketches()
  for (let frame = 2; frame <= 200; frame++) all.took(frame, milliseconds)
  return all
}

test('none where the frame is soon there, or where nothing is known yet', () => {
  expect(createSketches().partFor(100, 1, 1, PARTICLES)).toBeNull()
  expect(sketches(0.5).partFor(100, 1, 1, PARTICLES)).toBeNull()
  // a snapshot is near
  expect(sketches(20).partFor(100, 1, 97, PARTICLES)).toBeNull()
  expect(sketches(20).partFor(100, 1, 60, PARTICLES)).not.toBeNull()
})

test('the dearer the frames, the smaller the part, but never too few to see', () => {
  const part = (milliseconds: number): number => sketches(milliseconds).partFor(100, 1, 1, PARTICLES)!
  expect(part(10)).toBeCloseTo(60 / 990, 6)
  expect(part(100)).toBeCloseTo(60 / 9900, 6)
  expect(part(500)).toBe(400 / PARTICLES)
  // four hundred of seven hundred are no sketch
  expect(sketches(100).partFor(100, 1, 1, 700)).toBeNull()
})

test.each([0, 0.2, 0.5])('it learns what does not go with the particles: %d ms a frame', (fixed) => {
  const all = sketches(10)
  let took = Infinity
  for (let edit = 0; edit < 12; edit++) {
    const part = all.partFor(100, 1, 1, PARTICLES)!
    took = 99 * (10 * part + fixed)
    all.sketched(100, 1, part, took)
  }
  expect(took).toBeGreaterThan(50)
  expect(took).toBeLessThan(66)
})

test('what was not there in time is not tried at the next edits, but some time later', () => {
  const all = sketches(10)
  const triesIn = (edits: number): number => {
    let tries = 0
    for (let edit = 0; edit < edits; edit++) {
      const part = all.partFor(100, 1, 1, PARTICLES)
      if (part === null) continue
      all.sketched(100, 1, part, Infinity)
      tries++
    }
    return tries
  }
  expect(triesIn(100)).toBeLessThan(30)
  expect(triesIn(100)).toBeGreaterThan(2)
  // a frame less far away may be had all the same
  all.sketched(100, 1, 0.01, Infinity)
  expect(all.partFor(30, 1, 1, PARTICLES)).not.toBeNull()
})
