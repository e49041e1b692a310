import type { Vector } from '../src/index.ts'
import { turnFreely } from '../src/math/freeTop.ts'
import { rotate, type Quaternion } from '../src/math/quaternion.ts'

describe('the free top', () => {
  const inertia: Vector = [1, 2, 3]
  const axes: Quaternion = [0, 0, 0, 1]
  const momentumOf = (q: Quaternion, w: Vector): Vector => {
    const inBody = rotate([-q[0], -q[1], -q[2], q[3]], w).map((x, i) => x * inertia[i]!) as Vector
    return rotate(q, inBody)
  }
  test.each([1 / 96, 1 / 24, 1 / 400])('keeps angular momentum and energy at h = %d', (h) => {
    let [q, w]: [Quaternion, Vector] = [
      [0, 0, 0, 1],
      [0.3, 4, 0.2],
    ]
    const [before, energy] = [momentumOf(q, w), (w[0] ** 2 + 2 * w[1] ** 2 + 3 * w[2] ** 2) / 2]
    for (let t = 0; t < 10; t += h)
      ({ turned: q, angularVelocity: w } = turnFreely(q, w, { inertia, axes }, h))
    momentumOf(q, w).forEach((l, k) => expect(l).toBeCloseTo(before[k]!, 9))
    const after = rotate([-q[0], -q[1], -q[2], q[3]], w).reduce(
      (sum, x, i) => sum + (inertia[i]! * x * x) / 2,
      0,
    )
    expect(after / energy).toBeCloseTo(1, 3)
  })
  test('flips about its middle axis with the period of Euler’s equations', () => {
    // Landau, Lifshitz, "Mechanics" (1976), §37: T = 4·K(k)·√(I1·I2·I3 / ((I3 − I2)·(M² − 2·E·I1)))
    let [q, w]: [Quaternion, Vector] = [[0, 0, 0, 1], [0.4, 3, 0]]
    const twiceE = inertia[0] * w[0] ** 2 + inertia[1] * w[1] ** 2
    const squared = (inertia[0] * w[0]) ** 2 + (inertia[1] * w[1]) ** 2
    const k2 = ((inertia[1] - inertia[0]) * (twiceE * inertia[2] - squared)) / ((inertia[2] - inertia[1]) * (squared - twiceE * inertia[0]))
    const flipped = k2 > 1
    const m = flipped ? 1 / k2 : k2
    let [a, b] = [1, Math.sqrt(1 - m)]
    for (let n = 0; n < 20; n++) [a, b] = [(a + b) / 2, Math.sqrt(a * b)]
    const quarter = Math.PI / (2 * a)
    const [i1, i2, i3] = inertia
    const rate = flipped
      ? Math.sqrt(((i2 - i1) * (twiceE * i3 - squared)) / (i1 * i2 * i3))
      : Math.sqrt(((i3 - i2) * (squared - twiceE * i1)) / (i1 * i2 * i3))
    const period = (4 * quarter) / rate
    const h = 1 / 400
    const crossings: number[] = []
    let before = w[1]
    for (let n = 1; n < 8000; n++) {
      ;({ turned: q, angularVelocity: w } = turnFreely(q, w, { inertia, axes }, h))
      const middle = rotate([-q[0], -q[1], -q[2], q[3]], w)[1]
      if (before < 0 && middle >= 0) crossings.push((n - middle / (middle - before)) * h)
      before = middle
    }
    expect((crossings.at(-1)! - crossings[0]!) / (crossings.length - 1) / period).toBeCloseTo(1, 3)
  }) // prettier-ignore
})
