/** @jest-environment jsdom */
/** When the stage is drawn, and how well: fine at rest, and in motion as well as the graphics keep up. */
import { jest } from '@jest/globals'
import {
  COARSE,
  createPacing,
  gradesOf,
  nextFineness,
  type Fineness,
  type Grades,
} from '../src/stage/pacing.ts'

const FINEST: Fineness = { pixels: 1, particles: 1, light: 0 }
/** Milliseconds of pictures that cost so much for the pixels and so much for the particles. */
const settled = (
  base: number,
  perPixels: number,
  perParticles: number,
  least = 0.01,
): { at: Fineness; cost: number } => {
  let at: Fineness = FINEST
  const costOf = (one: Fineness): number => base + perPixels * one.pixels ** 2 + perParticles * one.particles
  for (let picture = 0; picture < 60; picture++) at = nextFineness(at, costOf(at), least)
  return { at, cost: costOf(at) }
}

test('graphics that keep up draw everything', () => {
  expect(settled(1, 5, 10).at).toEqual(FINEST)
})

test('pixels go first, then particles; both come back when they can', () => {
  expect(settled(0, 80, 0).at).toEqual({ pixels: COARSE, particles: 1, light: 0 })
  const { at, cost } = settled(0, 10, 1000)
  expect(at.pixels).toBe(COARSE)
  expect(at.particles).toBeLessThan(0.1)
  expect(cost).toBeLessThan(60)
  let back: Fineness = at
  for (let picture = 0; picture < 30; picture++) back = nextFineness(back, 2, 0.01)
  expect(back).toEqual(FINEST)
})

test('so few particles that they are not what takes long are all drawn', () => {
  expect(settled(200, 0, 10, 3).at.particles).toBe(1)
  expect(settled(200, 0, 10, 0.3).at.particles).toBe(0.3)
})

test('light goes before pixels and particles, and comes back last; by hand it stays', () => {
  const free: Grades = { motion: 2, rest: 2, held: false }
  const full: Fineness = { ...FINEST, light: 2 }
  expect(nextFineness(full, 60, 0.01, free)).toEqual({ ...FINEST, light: 1 })
  expect(nextFineness(full, 200, 0.01, free)).toEqual(FINEST)
  expect(nextFineness({ ...full, pixels: COARSE }, 2, 0.01, free).pixels).toBe(1)
  expect(nextFineness(FINEST, 2, 0.01, free).light).toBe(1)
  // what is drawn in good time is not made to take longer
  expect(nextFineness(FINEST, 20, 0.01, free)).toEqual(FINEST)
  expect(nextFineness(full, 60, 0.01, { ...free, held: true })).toEqual({ ...full, pixels: COARSE })
})

test('without graphics there are shadows at rest alone, unless they are chosen by hand', () => {
  expect(gradesOf('auto', true)).toEqual({ motion: 0, rest: 1, held: false })
  expect(gradesOf('auto', false)).toEqual({ motion: 2, rest: 2, held: false })
  expect(gradesOf('shadows', true)).toEqual({ motion: 1, rest: 1, held: true })
  expect(gradesOf('plain', false)).toEqual({ motion: 0, rest: 0, held: true })
})

describe('pictures', () => {
  beforeEach(() => jest.useFakeTimers())
  afterEach(() => jest.useRealTimers())

  /** A stage whose graphics take so long for a picture. */
  function stage(
    milliseconds: (fineness: Fineness) => number,
    grades: () => Grades = () => ({ motion: 0, rest: 0, held: true }),
  ) {
    const drawn: (Fineness & { at: number })[] = []
    let ready = 0
    const gl = {
      fenceSync: () => ({}),
      flush: () => undefined,
      deleteSync: () => undefined,
      isContextLost: () => false,
      SIGNALED: 1,
      getSyncParameter: () => (performance.now() >= ready ? 1 : 0),
    }
    const heard: Fineness[] = []
    const pacing = createPacing(gl as unknown as WebGL2RenderingContext, {
      particles: () => 100_000,
      render(fineness) {
        // one at a time
        expect(performance.now()).toBeGreaterThanOrEqual(ready)
        drawn.push({ ...fineness, at: performance.now() })
        ready = performance.now() + milliseconds(fineness)
      },
      changed: () => void heard.push(pacing.fineness),
      grades,
    })
    return { pacing, drawn, heard }
  }
  /** Asks for a picture each 16 ms, as while something is dragged. */
  const move = (draw: () => void, milliseconds: number): void => {
    for (let t = 0; t < milliseconds; t += 16) {
      draw()
      jest.advanceTimersByTime(16)
    }
  }

  test('of slow graphics leave the page half of the time, and all is drawn when nothing moves', () => {
    const { pacing, drawn, heard } = stage(({ pixels, particles }) => 40 * pixels + 400 * particles)
    move(pacing.draw, 4000)
    const last = drawn.at(-1)!
    expect(last.pixels).toBe(COARSE)
    expect(last.particles).toBeLessThan(0.2)
    const gaps = drawn.slice(-8).map(({ at }, k, all) => at - (all[k - 1]?.at ?? NaN))
    for (const gap of gaps.slice(1)) expect(gap).toBeGreaterThan(50)
    expect(heard.length).toBeGreaterThan(1)

    jest.advanceTimersByTime(2000)
    expect(drawn.at(-1)).toMatchObject(FINEST)
    const count = drawn.length
    jest.advanceTimersByTime(5000)
    expect(drawn).toHaveLength(count)
    // and motion begins as coarse as it ended
    move(pacing.draw, 200)
    expect(drawn.at(-1)!.particles).toBeLessThan(0.2)
  })

  test('of fast graphics come as often as they are asked for, and none without being asked', () => {
    const { pacing, drawn } = stage(() => 3)
    move(pacing.draw, 1600)
    expect(drawn.length).toBeGreaterThan(60)
    for (const picture of drawn) expect(picture).toMatchObject(FINEST)
    const count = drawn.length
    jest.advanceTimersByTime(3000)
    expect(drawn.length).toBeLessThanOrEqual(count + 1)
    pacing.dispose()
    pacing.draw()
    jest.advanceTimersByTime(100)
    expect(drawn.length).toBeLessThanOrEqual(count + 1)
  })

  test('have shadows when nothing moves, and take them by hand at once', () => {
    let grades: Grades = gradesOf('auto', true)
    const { pacing, drawn } = stage(
      ({ light }) => 10 + 100 * light,
      () => grades,
    )
    move(pacing.draw, 500)
    expect(drawn.every(({ light }) => light === 0)).toBe(true)
    jest.advanceTimersByTime(3000)
    expect(drawn.at(-1)!.light).toBe(1)
    move(pacing.draw, 300)
    expect(drawn.at(-1)!.light).toBe(0)
    grades = gradesOf('full', true)
    move(pacing.draw, 2000)
    expect(drawn.at(-1)!.light).toBe(2)
    pacing.dispose()
  })
})
