/** The way of a particle within a substep, against closed forms. */
import { wayOf, type Ends } from '../src/math/way.ts'
import type { Vector } from '../src/index.ts'

const ends = (more: Partial<Ends>): Ends => ({ from: [0, 0, 0], to: [1, 0, 0], startVelocity: [1, 0, 0], endVelocity: [1, 0, 0], seconds: 1, sinceContact: 0, ...more }) // prettier-ignore

test.each([
  [1, 0, 9.81, 0.5],
  [3, 4, 9.81, 2],
  // from rest, and with a turn back on itself
  [1e-9, 0, 9.81, 1],
  [0, 5, 9.81, 1],
  [0.001, 0.002, 0.1, 0.04],
  [100, 700, 9.81, 100],
])('a throw of %d and %d m/s under %d m/s² for %d s: its length, and where it is after a part of that', (v, u, g, t) => {
  const at = (time: number): Vector => [v * time, u * time - (g * time * time) / 2, 0]
  const way = wayOf(ends({ to: at(t), startVelocity: [v, u, 0], endVelocity: [v, u - g * t, 0], seconds: t }))
  // ∫√(v² + (u − g·t)²) dt
  const upTo = (w: number): number => (w * Math.hypot(v, w) + (v > 0 ? v * v * Math.asinh(w / v) : 0)) / (2 * g)
  const arc = (time: number): number => upTo(u) - upTo(u - g * time)
  // where it turns back the rule of five points is at its worst
  expect(Math.abs(way.length / arc(t) - 1)).toBeLessThan(v < 0.1 * u ? 0.05 : 2e-3)
  for (const part of [0.1, 0.5, 0.9]) {
    at(part * t).forEach((x, k) => expect(way.at(part)[k]).toBeCloseTo(x, 6))
    expect(way.lengthAt(way.shareAt(part * way.length)) / way.length).toBeCloseTo(part, 8)
    expect(way.velocityAt(part)[1]).toBeCloseTo(u - g * part * t, 5)
  }
}) // prettier-ignore

test('who was put elsewhere went straight, as evenly as time', () => {
  const way = wayOf(ends({ to: [0, 3, 4], startVelocity: [0, 0, 0], endVelocity: [0, 0, 0], seconds: 0.5 }))
  expect(way.length).toBe(5)
  expect(way.at(0.5)).toEqual([0, 1.5, 2])
  expect(way.velocityAt(0.3)).toEqual([0, 6, 8])
  expect(way.shareAt(2.5)).toBe(0.5)
})

test('who bounced went to where it hit and back from there', () => {
  // down 0.75 m in ¾ of the time, and up 0.25 m
  const way = wayOf(
    ends({ to: [0, -0.5, 0], startVelocity: [0, -1, 0], endVelocity: [0, 1, 0], sinceContact: 0.25 }),
  )
  expect(way.length).toBeCloseTo(1, 12)
  expect(way.at(0.75)[1]).toBeCloseTo(-0.75, 12)
  expect(way.at(way.shareAt(0.5))[1]).toBeCloseTo(-0.5, 12)
  expect(way.at(way.shareAt(0.9))[1]).toBeCloseTo(-0.6, 12)
  expect(way.velocityAt(0.9)[1]).toBeCloseTo(1, 12)
})

test('who stands still has no way, and no number is lost', () => {
  const way = wayOf(ends({ to: [0, 0, 0], startVelocity: [0, 0, 0], endVelocity: [0, 0, 0], seconds: 0 }))
  expect(way.length).toBe(0)
  for (const value of [...way.at(0.5), ...way.velocityAt(0.5), way.shareAt(0)])
    expect(Number.isFinite(value)).toBe(true)
})
