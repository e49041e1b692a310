/** Keys and curves of responses that begin again or swing: over frames, a particle's own age, and the clock. */
import { firstChangedFrame, integralOf, readShot, valueAt, type Keyed } from '../src/index.ts'
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

describe('keys', () => {
  const keys: [number, number, 'smooth' | 'in' | 'linear'][] = [[3, 0, 'smooth'], [7, 4, 'in'], [13, 1, 'linear']] // prettier-ignore
  const loop: Keyed = { keys, repeat: 'loop' }
  const swing: Keyed = { keys, repeat: 'swing' }
  test('begin again, or go back and forth; before the first they hold', () => {
    const once: Keyed = { keys }
    for (const at of [-5, 3, 4.2, 7, 12.9]) for (const one of [loop, swing]) expect(valueAt(one, at)).toBe(valueAt(once, at)) // prettier-ignore
    for (const at of [3.5, 6, 11, 12.99]) {
      expect(valueAt(loop, at + 10)).toBeCloseTo(valueAt(once, at), 9)
      expect(valueAt(loop, at + 70)).toBeCloseTo(valueAt(once, at), 9)
      expect(valueAt(swing, 26 - at)).toBeCloseTo(valueAt(once, at), 9)
      expect(valueAt(swing, at + 20)).toBeCloseTo(valueAt(once, at), 9)
    }
  })

  test.each([loop, swing])('their integral is that of small steps', (keyed) => {
    for (const [from, to] of [[0, 5], [12, 14], [4, 77.7], [100, 101]] as const) {
      const steps = 200_000
      let sum = 0
      for (let k = 0; k < steps; k++) sum += valueAt(keyed, from + ((k + 0.5) * (to - from)) / steps)
      expect(integralOf(keyed, from, to)).toBeCloseTo((sum * (to - from)) / steps, 3)
    }
  }) // prettier-ignore

  test('one key, or several at no distance, are what they are', () => {
    expect(valueAt({ keys: [[5, 2]], repeat: 'swing' }, 99)).toBe(2)
    expect(integralOf({ keys: [[5, 2]], repeat: 'loop' }, 0, 10)).toBe(20)
  })

  test('a strength and a mesh that repeat: a push of half the time gives half, and the mesh is where it was', () => {
    const half = { keys: [[1, 0, 'hold'], [7, 1, 'hold'], [13, 1]], repeat: 'loop' } // prettier-ignore
    const shot = shotOf({ births: [burst({ amount: { burst: 9, at: 1 } })], influences: [acting('gravity', { strength: half })] }) // prettier-ignore
    expect(column(runTo(start(shot), 49), 'velocity')[1]).toBeCloseTo(-9.80665, 3)
    const place = { position: { keys: [[1, [0, 0, 0]], [11, [1, 0, 0]]], repeat: 'swing' } } // prettier-ignore
    const riding = { births: [burst({ amount: { burst: 9, at: 1 } })], influences: [acting('ride')] }
    const moved = shotOf(riding, {
      meshes: [{ id: 'box', source: { asset: `sha256:${'0'.repeat(64)}` }, place }],
    })
    const simulation = start(moved)
    const from = column(simulation, 'position')
    const at = (frame: number) => column(runTo(simulation, frame), 'position')[0]! - from[0]!
    expect([at(6), at(11), at(16), at(21), at(26)]).toEqual([0.5, 1, 0.5, 0, 0.5].map((x) => expect.closeTo(x, 4) as number)) // prettier-ignore
  })

  test('whether they repeat matters from the last key on', () => {
    const shot = (repeat?: string) => shotOf({ births: [burst()], influences: [acting('gravity', { strength: { keys, ...(repeat ? { repeat } : {}) } })] }) // prettier-ignore
    expect(firstChangedFrame(shot(), shot('loop'))).toBe(13)
    expect(firstChangedFrame(shot('loop'), shot('loop'))).toBeNull()
    expect(firstChangedFrame(shot('loop'), shot('swing'))).toBeLessThanOrEqual(14)
    const bad = JSON.parse(JSON.stringify(shot('loop')).replace('"loop"', '"twice"')) as unknown
    expect(readShot(bad).problems![0]).toMatchObject({ path: 'populations[0].influences[0].strength.repeat', message: 'must be loop or swing' }) // prettier-ignore
  })
})
