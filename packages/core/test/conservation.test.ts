/** Closed forms: what is conserved, and how fast errors fall with the step. */
import { type Simulation } from '../src/index.ts'
import { acting, column, points, runTo, scene } from './help.ts'

type Vector = [number, number, number]
const vectors = (values: number[]): Vector[] =>
  Array.from({ length: values.length / 3 }, (_, i) => values.slice(i * 3, i * 3 + 3) as Vector)
const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]

/** Σ m·x×v about the origin and Σ m·v, of balls of equal density: m ∝ r³. */
function momenta(simulation: Simulation): { linear: Vector; angular: Vector } {
  const [x, v] = [vectors(column(simulation, 'position')), vectors(column(simulation, 'velocity'))]
  const r = column(simulation, 'radius')
  const sum = (of: (i: number) => Vector): Vector =>
    r.reduce<Vector>((all, one, i) => all.map((a, k) => a + one ** 3 * of(i)[k]!) as Vector, [0, 0, 0])
  return { linear: sum((i) => v[i]!), angular: sum((i) => cross(x[i]!, v[i]!)) }
}

/** A cube of n³ points, turning about an axis by velocities that a vortex of birth gives. */
const cube = (n: number, spacing: number, size = 1): number[][] =>
  Array.from({ length: n ** 3 }, (_, i) =>
    [i % n, Math.floor(i / n) % n, Math.floor(i / n / n)].map((k) => (k - (n - 1) / 2) * spacing * size),
  )

const ring = (n: number, size: number): number[][] =>
  Array.from({ length: n }, (_, k) => [
    Math.cos((2 * Math.PI * k) / n) * size,
    0,
    Math.sin((2 * Math.PI * k) / n) * size,
  ])
const stick = (n: number, size: number): number[][] =>
  Array.from({ length: n }, (_, k) => [(k - (n - 1) / 2) * size, 0, 0])

/** What turns, and the distance up to which its points are linked. */
const SPINNING: Record<string, (size: number) => { at: number[][]; reach: number }> = {
  cube: (size) => ({ at: cube(3, 0.3, size), reach: 0.31 * size }),
  lattice: (size) => ({ at: cube(3, 0.3, size), reach: 0.44 * size }),
  ring: (size) => ({ at: ring(24, 0.4 * size), reach: 0.12 * size }),
  stick: (size) => ({ at: stick(12, 0.05 * size), reach: 0.06 * size }),
}

describe('linked bodies keep their spin for four seconds, whatever the quality', () => {
  test.each([
    ['cube', 1, 4, 1, 24],
    ['cube', 0.01, 10, 5, 30],
    ['lattice', 1, 10, 5, 24],
    ['lattice', 40, 6, 2, 25],
    ['ring', 1, 10, 5, 24],
    ['ring', 0.005, 2, 4, 24],
    ['stick', 1, 10, 5, 24],
    ['stick', 30, 4, 5, 60],
  ])(
    '%s of %p m, %p substeps, %p iterations, %p frames a second',
    (what, size, substeps, iterations, rate) => {
      const { at, reach } = SPINNING[what]!(size)
      const radius = 0.04 * size
      const simulation = scene(
        [points(...at)],
        {
          particle: { radius, density: 1000 },
          influences: [
            acting('link', { to: 'near', reach: reach / radius, most: 18, stiffness: 1 }),
            // set turning in the first frames, and then left alone
            acting('vortex', {
              strength: { keys: [[1, 20, 'hold'], [7, 0]] }, // prettier-ignore
              speed: 2 * size,
              core: 0.4 * size,
              inward: 0,
              reach: 10 * size,
            }),
          ],
        },
        { substeps, iterations },
        { frames: { first: 1, last: 400, rate } },
      )
      runTo(simulation, 8)
      expect(simulation.measures().populations[0]!.links!.alive).toBeGreaterThanOrEqual(at.length - 1)
      const before = momenta(simulation)
      const spin = Math.hypot(...before.angular)
      // more than a turn in three seconds
      const inertia = at.reduce((sum, [x, , z]) => sum + x! * x! + z! * z!, 0) * radius ** 3
      expect(spin / inertia).toBeGreaterThan(2)
      runTo(simulation, 8 + 4 * rate)
      const after = momenta(simulation)
      const lost = Math.hypot(...after.angular.map((x, k) => x - before.angular[k]!)) / spin
      expect(lost).toBeLessThan(0.02)
      const speed = Math.hypot(...before.linear) + spin / size
      expect(Math.hypot(...after.linear.map((x, k) => x - before.linear[k]!)) / speed).toBeLessThan(1e-3)
    },
  )
})

describe('order of convergence', () => {
  test.each([
    [1, 24],
    [0.02, 24],
    [50, 30],
  ])(
    'a particle that swings through a pull as 1/r, %p m wide, %p/s: halving the step quarters the error',
    (size, rate) => {
      /** Where it is after a second and a half. */
      const place = (substeps: number): number => {
        const simulation = scene(
          [points([size, 0, 0])],
          {
            influences: [
              acting('attract', {
                falloff: 'distance',
                strength: 4 * size * size,
                reach: 50 * size,
                core: size,
                point: [0, 0, 0],
              }),
            ],
          },
          { substeps },
          { frames: { first: 1, last: 100, rate } },
        )
        return column(runTo(simulation, 1 + 1.5 * rate), 'position')[0]! / size
      }
      const exact = place(64)
      expect(Math.abs(exact - 1)).toBeGreaterThan(0.05)
      const errors = [1, 2, 4].map((substeps) => Math.abs(place(substeps) - exact))
      for (const k of [0, 1]) {
        const order = Math.log2(errors[k]! / errors[k + 1]!)
        // leapfrog is of second order; below 1e-5 f32 ends what can be told
        if (errors[k + 1]! > 1e-5) expect([k, Math.abs(order - 2) < 0.5 || order]).toEqual([k, true])
      }
    },
  )

  test('a fall with drag: the error against v = g/c·(1 − e^(−ct)) falls with the square of the step', () => {
    const fall = (substeps: number): number => {
      const simulation = scene(
        [points([0, 0, 0])],
        { influences: [acting('gravity'), acting('drag', { strength: 0.5 })] },
        { substeps },
      )
      runTo(simulation, 49)
      return column(simulation, 'position')[1]!
    }
    const t = 2
    // half of the speed in 1/0.5 … the strength of drag is a rate per second
    const exact = (c: number): number => -(9.80665 / c) * (t - (1 - Math.exp(-c * t)) / c)
    const errors = [1, 2, 4].map((substeps) => Math.abs(fall(substeps) - exact(0.5)))
    // either it is exact to f32, or halving the step quarters the error
    if (errors[0]! > 2e-4) {
      expect(errors[0]! / errors[1]!).toBeGreaterThan(3)
      expect(errors[1]! / Math.max(errors[2]!, 1e-6)).toBeGreaterThan(2.5)
    } else expect(Math.max(...errors)).toBeLessThan(2e-4)
  })

  test('a swarm of one in a steady wind comes to the wind’s speed as e^(−t/τ), the same at any step', () => {
    const at = (substeps: number): number => {
      const simulation = scene(
        [points([0, 0, 0])],
        { influences: [acting('wind', { speed: 5, gusts: 0, direction: [1, 0, 0] })] },
        { substeps },
      )
      runTo(simulation, 25)
      return column(simulation, 'velocity')[0]!
    }
    const fine = at(40)
    const errors = [1, 2, 4, 8].map((substeps) => Math.abs(at(substeps) - fine))
    errors.slice(1).forEach((one, k) => expect(one).toBeLessThanOrEqual(Math.max(errors[k]! * 0.6, 1e-4)))
    expect(fine).toBeLessThanOrEqual(5)
  })
})
