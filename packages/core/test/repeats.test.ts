/** Curves of responses that begin again or swing, over a particle's own age and over the clock. */
import { readShot } from '../src/index.ts'
import { acting, burst, column, runTo, shotOf, start } from './help.ts'

/** Sizes of particles born at a rate, 10 cm at birth, times a curve from 1 at 0 to 3 at 8 frames. */
const sizes = (from: string, repeat?: string, rate = 24) =>
  shotOf(
    {
      particle: { radius: 0.1, density: 1000 },
      births: [burst({ amount: { rate: 48 } })],
      influences: [
        acting('size', { responses: [{ to: 'size', from, curve: [[0, 1], [8, 3]], ...(repeat ? { repeat } : {}) }] }), // prettier-ignore
      ],
    },
    { frames: { first: 5, last: 200, rate } },
  )
const triangle = (x: number): number => 1 - Math.abs((((x % 16) + 16) % 16) - 8) / 8
const expected: Record<string, (x: number) => number> = {
  hold: (x) => Math.min(1, x / 8),
  loop: (x) => (x / 8) % 1,
  swing: triangle,
}

test.each([['hold', 24], ['loop', 24], ['swing', 24], ['loop', 60], ['swing', 25]])('%s, over each one’s own age at %d frames a second', (repeat, rate) => {
  const simulation = runTo(start(sizes('frames', repeat === 'hold' ? undefined : repeat, rate)), 5 + 37)
  const [radius, age] = [column(simulation, 'radius'), column(simulation, 'age')]
  expect(radius.length).toBeGreaterThan(20)
  for (const [i, r] of radius.entries()) {
    const share = expected[repeat]!(age[i]! * rate)
    // just where it begins again either end will do
    const either = [share, repeat === 'loop' && share < 1e-4 ? 1 : share]
    expect(Math.min(...either.map((one) => Math.abs(r - 0.1 * (1 + 2 * one))))).toBeLessThan(1e-4)
  }
}) // prettier-ignore

test('over the clock all swing in step, whenever they were born; forces, too', () => {
  const simulation = runTo(start(sizes('clock', 'swing')), 5 + 20)
  const radius = column(simulation, 'radius')
  expect(new Set(radius.map((r) => r.toFixed(5)))).toEqual(
    new Set([(0.1 * (1 + 2 * triangle(20))).toFixed(5)]),
  )
  // a push that is 1 for half of the time and 0 for the other half gives half of it
  const curve = [[0, 0, 'hold'], [6, 1, 'hold'], [12, 1]] // prettier-ignore
  const pushed = shotOf({
    births: [burst()],
    influences: [
      acting('gravity', { responses: [{ to: 'strength', from: 'clock', curve, repeat: 'loop' }] }),
    ],
  })
  const velocity = column(runTo(start(pushed), 1 + 48), 'velocity')
  expect(velocity[1]).toBeCloseTo(-9.80665, 3)
})

test('another word is refused', () => {
  const bad = { ...sizes('frames'), populations: [{ ...sizes('frames').populations[0]!, influences: [acting('size', { responses: [{ to: 'size', from: 'age', curve: [[0, 1]], repeat: 'sometimes' }] })] }] } // prettier-ignore
  expect(readShot(bad).problems![0]).toMatchObject({ message: 'must be loop or swing' })
})
