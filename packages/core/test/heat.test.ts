/** Heat against the heat equation, Newton's law of cooling, and the heat that there was. */
import type { Simulation } from '../src/index.ts'
import { acting, ASSET, asset, box, column, runTo, shotOf, sphere, start } from './help.ts'
import { filling, heights, mean, tankShot } from './liquidHelp.ts'

type Loose = Record<string, unknown>

/** Grains on a lattice inside a mesh, with a temperature; they stay where they are. */
const grains = (id: string, mesh: string, width: number, warmth: Loose, more: Loose = {}) => ({
  id,
  name: id,
  phases: ['Loose'],
  births: [
    { id: `in-${mesh}`, kind: 'fill', mesh, into: 'Loose', level: 1, amount: { burst: 'all', at: 1 } },
  ],
  particle: { radius: width / 2, density: 1000, lifespan: null },
  influences: [acting('warmth', { loss: 0, ...warmth })],
  ...more,
})
const at = (x: number, y = 0, z = 0) => ({ position: [x, y, z] })
const all = (simulation: Simulation, name: 'temperature' | 'position'): number[] =>
  simulation.populations().flatMap(({ columns }) => Array.from(columns[name]!))
/** ∑ of what it holds per degree: all particles weigh and hold the same. */
const heatOf = (simulation: Simulation): number =>
  all(simulation, 'temperature').reduce((sum, t) => sum + t, 0)

/** Abramowitz, Stegun, "Handbook of mathematical functions" (1964), 7.1.26: to 1.5e-7. */
function erf(x: number): number {
  const t = 1 / (1 + 0.3275911 * Math.abs(x))
  const tail =
    t * (0.254829592 + t * (-0.284496736 + t * (1.421413741 + t * (-1.453152027 + t * 1.061405429))))
  return Math.sign(x) * (1 - tail * Math.exp(-x * x))
}

describe('two bars that touch, one hot and one cold', () => {
  // some take several stages a frame
  test.each([
    [0.05, 24, 0.25],
    [0.05, 60, 0.4],
    [1, 24, 0.3],
    [60, 24, 0.2],
  ])('of %p m at %p frames a second: as the heat equation says', (size, rate, far) => {
    const [n, frames] = [10, 13]
    const width = size / (2 * n)
    // 2·√(α·t) is a share of their length
    const seconds = (frames - 1) / rate
    const alpha = (far * size) ** 2 / (4 * seconds)
    const pace = alpha / (0.6 / (1000 * 4186))
    const bar = (id: string, born: number) => grains(id, id, width, { born, pace })
    const shot = shotOf(
      {},
      {
        frames: { first: 1, last: 240, rate },
        meshes: ['left', 'right'].map((id, k) => ({
          id,
          source: { asset: ASSET },
          place: at((k - 0.5) * size),
        })),
        populations: [bar('left', 100), bar('right', 20)],
      },
    )
    const simulation = start(shot, box(size, 6 * width, 6 * width))
    const heat = heatOf(runTo(simulation, 1))
    const [warmest, coldest] = [100.001, 19.999]
    runTo(simulation, frames)
    const [x, t] = [all(simulation, 'position'), all(simulation, 'temperature')]
    expect(t.length).toBe(2 * 2 * n * 36)
    t.forEach((one, i) => {
      const exact = 60 - 40 * erf(x[i * 3]! / (far * size))
      expect(Math.abs(one - exact)).toBeLessThan(1.6)
      expect(one).toBeLessThan(warmest)
      expect(one).toBeGreaterThan(coldest)
    })
    expect(Math.abs(heatOf(simulation) / heat - 1)).toBeLessThan(1e-5)
  })

  test('of unlike stuff come to what their capacities say, and no heat is lost', () => {
    const bar = (id: string, born: number, capacity: number, density: number) => ({
      ...grains(id, id, 0.1, { born, capacity, pace: 1e6, conductivity: 5 }),
      particle: { radius: 0.05, density, lifespan: null },
    })
    const shot = shotOf(
      {},
      {
        meshes: ['left', 'right'].map((id, k) => ({ id, source: { asset: ASSET }, place: at(k - 0.5) })),
        populations: [bar('left', 90, 450, 7800), bar('right', 10, 2000, 800)],
      },
    )
    const simulation = runTo(start(shot), 49)
    const [iron, oil] = [450 * 7800, 2000 * 800]
    const even = (iron * 90 + oil * 10) / (iron + oil)
    for (const t of all(simulation, 'temperature')) expect(t).toBeCloseTo(even, 2)
  })
})

describe('what lies bare', () => {
  const cooling = (mesh: Parameters<typeof start>[1], width: number, more: Loose) =>
    start(shotOf({ ...grains('dust', 'box', width, { born: 100, around: 10, ...more }) }), mesh)

  test.each([
    [0.004, 50, 1],
    [2, 10, 1000],
  ])(
    'one alone, %p m wide: by the surface of a ball of its volume, within a quarter, as Newton says',
    (width, loss, pace) => {
      const simulation = cooling(box(width, width, width), width, { loss, pace })
      runTo(simulation, 49)
      const [t] = all(simulation, 'temperature')
      const area = Math.PI * (width * (6 / Math.PI) ** (1 / 3)) ** 2
      const rate = (loss * pace * area) / (1000 * 4186 * width ** 3)
      expect(Math.log((t! - 10) / 90) / (-2 * rate)).toBeGreaterThan(0.75)
      expect(Math.log((t! - 10) / 90) / (-2 * rate)).toBeLessThan(1.25)
    },
  )

  test('a ball that conducts well: by its surface', () => {
    const [radius, loss, pace] = [1, 10, 2000]
    const simulation = cooling(sphere(24), 0.08, { loss, pace, conductivity: 1000 })
    const [first, second] = [5, 45].map((f) => {
      const t = all(runTo(simulation, f), 'temperature')
      return t.reduce((sum, one) => sum + one - 10, 0) / t.length
    })
    const rate = (3 * loss * pace) / (1000 * 4186 * radius)
    const measured = Math.log(first! / second!) / (40 / 24)
    expect(measured / rate).toBeGreaterThan(0.8)
    expect(measured / rate).toBeLessThan(1.2)
  })
})

describe('heat', () => {
  test('held at both ends of a bar: a straight slope between', () => {
    const bar = grains('dust', 'box', 0.1, { born: 50, pace: 1e5, conductivity: 2 }, {})
    const end = (id: string, x: number, temperature: number) =>
      acting('heat', { id, from: 'point', point: [x, 0, 0], reach: 0.4, rate: 1e4, temperature })
    bar.influences.push(end('cold', -1, 0), end('hot', 1, 100))
    const simulation = runTo(start(shotOf(bar), box(2, 0.3, 0.3)), 100)
    const [x, t] = [all(simulation, 'position'), all(simulation, 'temperature')]
    const inner = t.flatMap((one, i) => (Math.abs(x[i * 3]!) < 0.5 ? [[x[i * 3]!, one] as const] : []))
    expect(inner.length).toBeGreaterThan(80)
    const slope =
      inner.reduce((sum, [p, q]) => sum + p * (q - 50), 0) / inner.reduce((sum, [p]) => sum + p * p, 0)
    for (const [p, q] of inner) expect(Math.abs(q - 50 - slope * p)).toBeLessThan(1)
    // between where the ends are held, which is some 1.3 to 2 m
    expect(slope).toBeGreaterThan(50)
    expect(slope).toBeLessThan(80)
  })

  test('near a mesh it warms as dT/dt = r·(T₀ − T), falling off to its reach', () => {
    const dust = grains('dust', 'box', 0.1, { born: 20, conductivity: 0 })
    dust.influences.push(
      acting('heat', { from: 'mesh', mesh: 'stove', reach: 0.5, rate: 2, temperature: 100 }),
    )
    const meshes = [
      { id: 'box', source: { asset: ASSET } },
      { id: 'stove', source: { asset: ASSET }, place: at(1.2) },
    ]
    const simulation = runTo(start(shotOf(dust, { meshes })), 25)
    const [x, t] = [all(simulation, 'position'), all(simulation, 'temperature')]
    t.forEach((one, i) => {
      const far = 0.7 - x[i * 3]!
      const exact = 100 - 80 * Math.exp(-2 * Math.max(0, 1 - far / 0.5))
      expect(one).toBeCloseTo(exact, 2)
    })
    expect(Math.max(...t)).toBeGreaterThan(50)
  })

  test('melts and sets: phases by temperature, and what was born warm bears warm', () => {
    const dust = grains('dust', 'box', 0.25, { born: 20, conductivity: 0, weights: { Set: 1, Melted: 1 } })
    const heating = { keys: [[1, 1, 'hold'], [20, 0, 'hold'], [30, 1]] } // prettier-ignore
    const target = { keys: [[1, 100, 'hold'], [25, 0]] } // prettier-ignore
    dust.influences.push(
      acting('heat', { strength: heating, temperature: target, rate: 20, weights: { Set: 1, Melted: 1 } }),
    )
    const cue = (id: string, from: string, to: string, when: Loose) => ({ id, from, to, when })
    const shot = shotOf({
      ...dust,
      phases: ['Set', 'Melted'],
      births: [{ ...dust.births[0]!, into: 'Set' }],
      cues: [
        cue('melt', 'Set', 'Melted', { kind: 'temperature', side: 'above', temperature: 60 }),
        cue('set', 'Melted', 'Set', { kind: 'temperature', side: 'below', temperature: 40 }),
      ],
    })
    const simulation = start(shot)
    const phases = (f: number): Set<number> =>
      new Set(runTo(simulation, f).populations()[0]!.columns.phase as Uint32Array)
    expect(phases(1)).toEqual(new Set([0]))
    expect(phases(15)).toEqual(new Set([1]))
    expect(phases(60)).toEqual(new Set([0]))
  })
})

/** Warm liquid is lighter: it rises through cold liquid, cools at the top, and sinks. */
test('a warm half rises through the cold one above it, and their heat stays', () => {
  const response = { to: 'weight', from: 'temperature', curve: [[20, 1], [80, 0.6]] } // prettier-ignore
  const shot = tankShot({
    meshes: [box(0.3, 0.3, 0.3)],
    width: 0.3 / 10,
    births: [filling('tank', 0.8)],
    liquid: { responses: [response] },
    influences: [
      acting('warmth', { born: 20, loss: 0 }),
      // the lower part is warmed as it begins
      acting('heat', { strength: { keys: [[1, 1, 'hold'], [3, 0]] }, rate: 1000, temperature: 80, from: 'point', point: [0, -0.65, 0], reach: 0.6 }), // prettier-ignore
    ],
  })
  const simulation = runTo(start(shot, new Map([[asset(0), box(0.3, 0.3, 0.3)]])), 4)
  const warmHeight = (): number => {
    const [y, t] = [heights(simulation), column(simulation, 'temperature')]
    const warm = y.filter((_, i) => t[i]! > 50)
    return mean(warm) - mean(y)
  }
  const heat = heatOf(simulation)
  expect(warmHeight()).toBeLessThan(-0.03)
  runTo(simulation, 90)
  expect(warmHeight()).toBeGreaterThan(0.01)
  expect(Math.abs(heatOf(simulation) / heat - 1)).toBeLessThan(1e-4)
})

/** Friction is of what is firm: in a population that melts, only who has melted slips. */
test('on a slope what is set holds, linked or not, and what has melted runs down', () => {
  const phases = ['Set', 'Melted']
  const both = { Set: 1, Melted: 1 }
  const slope = { normal: [Math.sin(0.2), Math.cos(0.2), 0] }
  const one = (into: string) =>
    shotOf({
      phases,
      particle: { radius: 0.02, density: 1000, lifespan: null },
      births: [{ id: 'f', kind: 'fill', mesh: 'box', into, level: 1, amount: { burst: 'all', at: 1 } }],
      influences: [
        acting('gravity', { weights: both }),
        acting('liquid', { weights: { Melted: 1 }, viscosity: 0.001 }),
        acting('selfCollision', { weights: { Set: 1 }, friction: 0.8 }),
        acting('floor', {
          direction: slope.normal,
          height: -0.02,
          friction: 0.8,
          sliding: 0.8,
          bounce: 0,
          weights: both,
        }),
      ],
    })
  const ran = (into: string): number => {
    const simulation = start(one(into), box(0.2, 0.04, 0.2))
    const before = mean(across(column(runTo(simulation, 5), 'position')))
    return mean(across(column(runTo(simulation, 25), 'position'))) - before
  }
  expect(Math.abs(ran('Set'))).toBeLessThan(0.01)
  expect(ran('Melted')).toBeGreaterThan(0.1)
})
const across = (values: number[]): number[] => values.filter((_, k) => k % 3 === 0)
