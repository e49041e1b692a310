/** Links along paths: chains as long as they are, beams as stiff as a truss, whatever the quality and the size. */
import fc from 'fast-check'
import { inPaths, type Pair } from '../src/constraints/paths.ts'
import { acting, all, column, points, runTo, scene } from './help.ts'

const G = 9.80665
const places = (simulation: Parameters<typeof column>[0]): number[][] => {
  const p = column(simulation, 'position')
  return Array.from({ length: p.length / 3 }, (_, i) => p.slice(i * 3, i * 3 + 3))
}
const distance = (a: number[], b: number[]): number => Math.hypot(...a.map((x, k) => x - b[k]!))

/** Particles of which some are held; those stand first. */
function held(
  firm: number[][],
  loose: number[][],
  radius: number,
  link: object,
  quality: object,
  drag = 0.3,
) {
  const both = { weights: { Held: 1, Loose: 1 } }
  return scene(
    [points(...firm), points(...loose)],
    {
      phases: ['Held', 'Loose'],
      particle: { radius, density: 1000 },
      births: [all('a', { into: 'Held' }), all('b')],
      influences: [
        acting('ride', { weights: { Held: 1 } }),
        acting('gravity', both),
        acting('link', { ...both, ...link }),
        acting('drag', { ...both, strength: drag }),
      ],
    },
    quality,
  )
}

describe('a rigid chain of 40 that swings down', () => {
  test.each([
    [10, 5, 0.05],
    [4, 5, 0.05],
    [2, 4, 0.05],
    [1, 1, 0.05],
    [2, 4, 0.002],
    [6, 2, 8],
  ])('%p substeps, %p rounds, links of %p m', (substeps, iterations, spacing) => {
    const at = Array.from({ length: 40 }, (_, k) => [k * spacing, 0, 0])
    const radius = 0.4 * spacing
    const simulation = held([at[0]!], at.slice(1), radius, { reach: 3 }, { substeps, iterations })
    for (const frame of [13, 49, 97, 240]) {
      const now = places(runTo(simulation, frame))
      const length = now.slice(1).reduce((sum, p, k) => sum + distance(p, now[k]!), 0)
      expect(Math.abs(length / (39 * spacing) - 1)).toBeLessThan(0.02)
    }
    // a pendulum of this length would have come down
    expect(Math.min(...places(simulation).map((p) => p[1]!))).toBeLessThan(-19 * spacing)
  })
})

test('a rope between two holds that part farther than it is long neither breaks out nor shakes', () => {
  const count = 20
  const at = Array.from({ length: count }, (_, k) => [k * 0.05, 0.0001 * (k % 2), 0])
  const ends = [at[0]!, at[count - 1]!]
  const simulation = scene(
    [points(...ends), points(...at.slice(1, -1))],
    {
      phases: ['Held', 'Loose'],
      particle: { radius: 0.02, density: 1000 },
      births: [all('a', { into: 'Held' }), all('b')],
      influences: [
        acting('ride', { weights: { Held: 1 } }),
        acting('gravity', { weights: { Loose: 1 } }),
        acting('link', { weights: { Held: 1, Loose: 1 }, reach: 2.6 }),
      ],
    },
    { substeps: 4, iterations: 4 },
    {
      meshes: [
        { id: 'a', source: { asset: `sha256:${'0'.repeat(64)}` }, place: { scale: [{ keys: [[1, 1], [40, 1.3]] }, 1, 1] } }, // prettier-ignore
        { id: 'b', source: { asset: `sha256:${'1'.repeat(64)}` } },
      ],
    },
  )
  for (let frame = 2; frame <= 80; frame++) {
    simulation.advance()
    // between its holds, a hand's breadth about the line
    for (const [x, y, z] of places(simulation)) {
      expect(x).toBeGreaterThan(-0.05)
      expect(x).toBeLessThan(1.3)
      expect(Math.hypot(y!, z!)).toBeLessThan(0.3)
    }
  }
})

/**
 * Deflections of a truss of bars of stiffness k under its own weight, by the direct stiffness method (McGuire, Gallagher,
 * Ziemian, "Matrix structural analysis", 2000): K·u = f with K = Σ k·n·nᵀ, in the plane, solved by elimination.
 */
function truss(
  at: number[][],
  firm: number,
  bars: [number, number][],
  k: number,
  weight: number,
): number[][] {
  const free = at.length - firm
  const size = 2 * free
  const matrix = Array.from({ length: size }, (_, row) =>
    Array.from({ length: size + 1 }, (_, c) => (c === size && row % 2 === 1 ? -weight : 0)),
  )
  for (const [a, b] of bars) {
    const length = distance(at[a]!, at[b]!)
    const n = [0, 1].map((axis) => (at[a]![axis]! - at[b]![axis]!) / length)
    for (const [p, q, sign] of [
      [a, a, 1],
      [b, b, 1],
      [a, b, -1],
      [b, a, -1],
    ] as const)
      // prettier-ignore
      for (let r = 0; r < 2; r++)
        for (let c = 0; c < 2; c++)
          if (p >= firm && q >= firm)
            matrix[(p - firm) * 2 + r]![(q - firm) * 2 + c]! += sign * k * n[r]! * n[c]!
  }
  for (let pivot = 0; pivot < size; pivot++)
    for (let row = 0; row < size; row++) {
      if (row === pivot) continue
      const by = matrix[row]![pivot]! / matrix[pivot]![pivot]!
      if (by !== 0) for (let c = pivot; c <= size; c++) matrix[row]![c]! -= by * matrix[pivot]![c]!
    }
  const u = matrix.map((row, n) => row[size]! / row[n]!)
  return Array.from({ length: free }, (_, i) => [u[2 * i]!, u[2 * i + 1]!])
}

describe('a beam that is held at one end bends as a truss does, the nearer the more rounds', () => {
  test.each([
    [10, 5, 0.05, 1],
    [20, 8, 0.05, 0.3],
    [20, 24, 0.05, 0.15],
    [10, 5, 1, 0.15],
  ])('%p substeps, %p rounds, links of %p m: to %p', (substeps, iterations, s, within) => {
    const [columns, rows] = [13, 3]
    const at = Array.from({ length: columns * rows }, (_, i) => [Math.floor(i / rows) * s, (i % rows) * s, 0])
    const firm = 2 * rows
    const radius = 0.4 * s
    const mass = (4 / 3) * Math.PI * radius ** 3 * 1000
    // so that its end comes down by a twentieth of its length or so
    const k = (mass * G) / (2e-4 * s)
    const simulation = held(
      at.slice(0, firm),
      at.slice(firm),
      radius,
      { reach: (1.5 * s) / radius, most: 8, stiffness: 1, compliance: 1 / k },
      { substeps, iterations },
      2,
    )
    const bars: [number, number][] = []
    at.forEach((p, a) => {
      for (let b = a + 1; b < at.length; b++) if (distance(p, at[b]!) < 1.5 * s) bars.push([a, b])
    })
    const wanted = truss(at, firm, bars, k, mass * G)
    runTo(simulation, 150)
    const now = places(simulation)
    const end = at.length - 1
    const bend = at[end]![1]! - now[end]![1]!
    const exact = -wanted.at(-1)![1]!
    expect(exact / s).toBeGreaterThan(0.05)
    expect(Math.abs(bend / exact - 1)).toBeLessThan(within)
  })
})

describe('pairs laid in paths', () => {
  test('each comes once, paths go on where they end, and none comes twice through a particle', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 30 }),
        fc.array(fc.tuple(fc.nat(29), fc.nat(29)), { maxLength: 120 }),
        fc.array(fc.float({ min: -1, max: 1, noNaN: true }), { minLength: 90, maxLength: 90 }),
        (count, drawn, x) => {
          const keys = new Set(
            drawn
              .map(([a, b]) => [a % count, b % count].sort((p, q) => p - q).join())
              .filter((one) => {
                const [a, b] = one.split(',')
                return a !== b
              }),
          )
          const pairs: Pair[] = [...keys].map((key) => {
            const [a, b] = key.split(',').map(Number) as [number, number]
            return { a, b }
          })
          const laid = inPaths(Float32Array.from(x), count, pairs)
          const came = laid.map(({ a, b }) => [a, b].sort((p, q) => p - q).join())
          expect(new Set(came)).toEqual(keys)
          expect(came).toHaveLength(keys.size)
          let through = new Set<number>()
          laid.forEach(({ a, b, joined }, n) => {
            if (joined) expect(laid[n - 1]!.b).toBe(a)
            else through = new Set([a])
            expect(through.has(b)).toBe(false)
            through.add(b)
          })
        },
      ),
      { seed: 11 },
    )
  })

  test('a chain is one path, in whatever order its links come; so are the lines of a grid, joined at its corners', () => {
    const chain = [3, 0, 6, 2, 5, 1, 4].map((a) => ({ a, b: a + 1 }))
    const line = Float32Array.from({ length: 24 }, (_, k) => (k % 3 === 0 ? k / 3 : 0))
    expect(inPaths(line, 8, chain).filter(({ joined }) => !joined)).toHaveLength(1)
    const n = 5
    const grid: Pair[] = []
    for (let i = 0; i < n * n; i++) {
      if (i % n < n - 1) grid.push({ a: i, b: i + 1 })
      if (i < n * (n - 1)) grid.push({ a: i, b: i + n })
    }
    const x = Float32Array.from(
      { length: n * n * 3 },
      (_, k) => [Math.floor(k / 3) % n, Math.floor(k / 3 / n), 0][k % 3]!,
    )
    expect(inPaths(x, n * n, grid).filter(({ joined }) => !joined)).toHaveLength(2 * n - 2)
  })

  test('a ring is cut where it would close', () => {
    const ring = Array.from({ length: 6 }, (_, a) => ({ a, b: (a + 1) % 6 }))
    const laid = inPaths(new Float32Array(18), 6, ring)
    expect(laid).toHaveLength(6)
    expect(laid.filter(({ joined }) => !joined)).toHaveLength(2)
  })
})

test.each([
  [10, 0.5],
  [4, 2],
  [24, 0.1],
])(
  'a damped link creeps as Kelvin and Voigt have it, however far it stretches: %p substeps, τ %p s',
  (substeps, damping) => {
    // held at one end, one weight stretches it by (1 − ½)³/2 of its length: x(t) = x∞·(1 − e^(−t/τ))
    const link = { reach: 3, stiffness: 0.5, damping }
    const simulation = held([[0, 0, 0]], [[0, -1, 0]], 0.4, link, { substeps, iterations: 5 }, 0)
    const stretch = (frame: number): number => -1 - places(runTo(simulation, frame))[1]![1]!
    for (const seconds of [1, 2, 4]) {
      const told = 0.0625 * (1 - Math.exp(-seconds / damping))
      expect(Math.abs(stretch(1 + 24 * seconds) - told)).toBeLessThan(0.002)
    }
  },
)
