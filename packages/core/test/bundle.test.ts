/** Particles that hold one another: self-collision, links, rest; against closed forms and published values. */
import type { Simulation } from '../src/index.ts'
import { acting, all, asset, column, points, runTo, scene, shotOf, start } from './help.ts'

const G = 9.80665 // m/s², CGPM 1901

const massOf = (radius: number, density = 1000): number => density * (4 / 3) * Math.PI * radius ** 3

describe('two balls', () => {
  /** Velocities after a head-on hit of balls whose masses are as 1 to `ratio`. */
  function hit(ratio: number, bounce: number, slow = 1) {
    const radius = 0.05
    const towards = (x: number, speed: number) => ({ aim: 'direction', direction: [x, 0, 0], speed })
    const shot = shotOf(
      { births: [] },
      {
        quality: { substeps: slow < 1 ? 2 : 8 },
        meshes: ['a', 'b'].map((id, n) => ({ id, source: { asset: asset(n) } })),
        populations: [
          {
            id: 'light',
            particle: { radius, density: 1000 },
            births: [{ ...all('a', towards(1, 2 * slow)), into: 'Loose' }],
            influences: [acting('selfCollision', { with: 'heavy', bounce, friction: 0, sliding: 0 })],
          },
          {
            id: 'heavy',
            particle: { radius, density: 1000 * ratio },
            births: [{ ...all('b', towards(-1, slow)), into: 'Loose' }],
          },
        ],
      },
    )
    const meshes = new Map([
      [asset(0), points([slow < 1 ? -0.07 : -0.5, 0, 0])],
      [asset(1), points([slow < 1 ? 0.07 : 0.5, 0, 0])],
    ])
    const simulation = runTo(start(shot, meshes), 25)
    return simulation.populations().map((p) => p.columns.velocity![0]!)
  }
  test('slow ones bounce too, where no gravity presses them on', () => {
    const [a, b] = hit(1, 0.5, 0.1)
    expect(a).toBeCloseTo(0.05 - 0.075, 3)
    expect(b).toBeCloseTo(0.05 + 0.075, 3)
  })
  test.each([
    [1, 1],
    [1, 0.5],
    [4, 0.5],
    [100, 0],
  ])('masses as 1 to %d, e = %d: momentum is kept, and they part with e times the speed', (ratio, e) => {
    const [a, b] = hit(ratio, e)
    // Newton: u = (m₁v₁ + m₂v₂ ± m·e·(v₁ − v₂))/(m₁ + m₂)
    const mean = (2 - ratio) / (1 + ratio)
    expect(a).toBeCloseTo(mean - (ratio * e * 3) / (1 + ratio), 4)
    expect(b).toBeCloseTo(mean + (e * 3) / (1 + ratio), 4)
  })
})

describe('links', () => {
  const held = { id: 'held', phases: ['Held', 'Loose'] }
  /** A chain of particles, the first held. */
  function chain(places: number[][], more: object, quality = {}, radius = 0.02, drag = 0) {
    const reach = Math.hypot(...places[1]!.map((x, k) => x - places[0]![k]!)) / radius
    return scene(
      [points(places[0]!), points(...places.slice(1))],
      {
        ...held,
        particle: { radius, density: 1000 },
        births: [all('a', { into: 'Held' }), all('b')],
        influences: [
          acting('ride', { weights: { Held: 1 } }),
          acting('gravity', { weights: { Held: 1, Loose: 1 } }),
          acting('link', { weights: { Held: 1, Loose: 1 }, reach: reach * 1.01, damping: 0, ...more }),
          acting('drag', { weights: { Held: 1, Loose: 1 }, strength: drag }),
        ],
      },
      quality,
    )
  }
  /** Seconds from one rise through 0 to the next, over some. */
  function periodOf(simulation: Simulation, read: () => number, to: number): number {
    const rises: number[] = []
    let before = read()
    for (let frame = 2; frame <= to; frame++) {
      runTo(simulation, frame)
      const now = read()
      if (before < 0 && now >= 0) rises.push(frame - 1 - before / (now - before))
      before = now
    }
    return (rises.at(-1)! - rises[0]!) / (rises.length - 1) / 24
  }

  test('a pendulum swings with T = 2π√(L/g)(1 + θ²/16)', () => {
    const [L, angle] = [0.6, 0.2]
    const simulation = chain(
      [
        [0, 0, 0],
        [L * Math.sin(angle), -L * Math.cos(angle), 0],
      ],
      {},
      { substeps: 20 },
    )
    const period = periodOf(simulation, () => column(simulation, 'position')[3]!, 220)
    expect(period / (2 * Math.PI * Math.sqrt(L / G) * (1 + angle ** 2 / 16))).toBeCloseTo(1, 2)
    const swing = Math.hypot(...column(simulation, 'position').slice(3))
    expect(swing / L).toBeCloseTo(1, 4)
  })

  test('a spring swings with T = 2π√(m/k), about a stretch of mg/k', () => {
    const [L, radius] = [0.5, 0.02]
    const m = massOf(radius)
    const k = 4
    const simulation = chain(
      [
        [0, 0, 0],
        [0, -L, 0],
      ],
      { compliance: 1 / k },
      { substeps: 20 },
      radius,
    )
    const middle = -L - (m * G) / k
    const period = periodOf(simulation, () => column(simulation, 'position')[4]! - middle, 220)
    expect(period / (2 * Math.PI * Math.sqrt(m / k))).toBeCloseTo(1, 2)
  })

  test('one link gives what the implicit step gives exactly', () => {
    // m·(x − x̂)/h² = −k(|x| − L), solved by hand for one substep from rest
    const [L, radius, k] = [0.5, 0.02, 100]
    const m = massOf(radius)
    const h = 1 / 24
    const simulation = chain(
      [
        [0, 0, 0],
        [0, -L, 0],
      ],
      { compliance: 1 / k },
      { substeps: 1, iterations: 1 },
      radius,
    )
    runTo(simulation, 2)
    const free = L + (G * h * h) / 2
    const expected = L + (free - L) / (1 + (k * h * h) / m)
    expect(-column(simulation, 'position')[4]!).toBeCloseTo(expected, 6)
  })

  /** Stretch of a hanging bar of ten, relative to its length, when it has come to rest. */
  function bar(iterations: number, substeps = 10) {
    const radius = 0.02
    const compliance = 0.02
    const places = Array.from({ length: 11 }, (_, n) => [0, -0.1 * n, 0])
    const simulation = chain(places, { compliance }, { substeps, iterations }, radius, 3)
    runTo(simulation, 230)
    return { length: -column(simulation, 'position')[31]!, m: massOf(radius), compliance }
  }
  test('a bar hanging by its end stretches by Hooke', () => {
    const { length, m, compliance } = bar(10)
    // link n bears the 11 − n below it
    const stretch = (compliance * m * G * (10 * 11)) / 2
    expect(Math.abs((length - 1) / stretch - 1)).toBeLessThan(0.01)
  })
  test('stiffness is the same within 2 % from 5 to 50 iterations and 5 to 20 substeps', () => {
    const stretches = [bar(5), bar(50), bar(10, 5), bar(10, 20)].map(({ length }) => length - 1)
    for (const stretch of stretches) expect(Math.abs(stretch / stretches[1]! - 1)).toBeLessThan(0.02)
  })

  test('a hanging chain takes the shape of the catenary', () => {
    // ends 2·0.4 m apart, 41 particles; y = a·cosh(x/a): the length of half the chain is a·sinh(0.4/a) = 0.6
    const links = 40
    const length = 1.2 / links
    const places = Array.from({ length: links + 1 }, (_, n) => {
      const s = (n - links / 2) * length
      // laid out in a V of that length
      return [(s / 0.6) * 0.4, -Math.sqrt(0.6 ** 2 - 0.4 ** 2) * (1 - Math.abs(s) / 0.6), 0]
    })
    const simulation = scene(
      [points(places[0]!, places[links]!), points(...places.slice(1, -1))],
      {
        ...held,
        particle: { radius: 0.01, density: 1000 },
        births: [all('a', { into: 'Held' }), all('b')],
        influences: [
          acting('ride', { weights: { Held: 1 } }),
          acting('gravity', { weights: { Held: 1, Loose: 1 } }),
          acting('link', {
            weights: { Held: 1, Loose: 1 },
            reach: (length * 1.02) / 0.01,
            most: 2,
            damping: 0,
          }),
          acting('drag', { strength: 3 }),
        ],
      },
      { substeps: 20, iterations: 20 },
    )
    expect(simulation.frame).toBe(1)
    runTo(simulation, 240)
    let a = 0.1
    for (let n = 0; n < 200; n++) a = 0.4 / Math.asinh(0.6 / a)
    const position = column(simulation, 'position')
    const sag = a * Math.cosh(0.4 / a)
    for (let i = 2; i < position.length / 3; i++) {
      const wanted = a * Math.cosh(position[i * 3]! / a) - sag
      expect(Math.abs(position[i * 3 + 1]! - wanted)).toBeLessThan(0.006)
    }
  })
})
