/** Events of a frame: all of them, with their moment, place and cause; and they do not depend on how one gets there. */
import { DEATHS, EVENT_KINDS, rowsOf, type ParticleEvent, type Simulation } from '../src/index.ts'
import { acting, burst, column, runTo, shotOf, start } from './help.ts'

type Loose = Record<string, unknown>
const rows = (simulation: Simulation): ParticleEvent[] => rowsOf(simulation.events()[0]!)
const of = (simulation: Simulation, kind: string): ParticleEvent[] =>
  rows(simulation).filter((one) => one.kind === kind)

test('births and deaths of every frame add up to who is alive', () => {
  const shot = shotOf({
    particle: { radius: 0.01, lifespan: { mean: 12, spread: 6 } },
    births: [burst({ amount: { rate: 2400 } })],
  })
  const simulation = start(shot)
  let alive = of(simulation, 'birth').length - of(simulation, 'death').length
  for (let frame = 2; frame <= 40; frame++) {
    simulation.advance()
    alive += of(simulation, 'birth').length - of(simulation, 'death').length
    expect([frame, alive]).toEqual([frame, simulation.measures().populations[0]!.alive])
    for (const one of rows(simulation)) {
      expect(one.frame).toBeGreaterThan(frame - 1 - 1e-9)
      expect(one.frame).toBeLessThanOrEqual(frame)
    }
  }
  expect(of(simulation, 'death').length).toBeGreaterThan(0)
  for (const one of of(simulation, 'death')) expect(DEATHS[one.detail]).toBe('age')
})

test('who is born has its id, its place and its own moment within the frame', () => {
  const simulation = start(
    shotOf({ births: [burst({ amount: { rate: 2400 } })] }, { quality: { substeps: 2 } }),
  )
  runTo(simulation, 3)
  const born = of(simulation, 'birth')
  expect(born.length).toBe(100)
  expect(new Set(born.map((one) => one.particle)).size).toBe(100)
  // evenly over the frame, not all at once
  expect(born.filter((one) => one.frame < 2.5).length).toBeGreaterThan(30)
  expect(born.filter((one) => one.frame > 2.5).length).toBeGreaterThan(30)
  const ids = column(simulation, 'id')
  const position = column(simulation, 'position')
  for (const one of born) {
    const at = ids.indexOf(one.particle)
    // nothing moves them
    one.place.forEach((x, k) => expect(x).toBeCloseTo(position[at * 3 + k]!, 5))
  }
})

test.each([1, 2, 5])('the first touch is there with mesh, place and normal, with %p substeps', (substeps) => {
  const simulation = start(
    shotOf(
      {
        births: [burst({ kind: 'vertices', amount: { burst: 'all', at: 1 }, offset: 0 })],
        influences: [acting('gravity'), acting('floor', { height: -2, bounce: 0 })],
      },
      { quality: { substeps } },
    ),
  )
  const touched: ParticleEvent[] = []
  for (let frame = 2; frame <= 24; frame++) {
    simulation.advance()
    touched.push(...of(simulation, 'touch'))
  }
  expect(new Set(touched.map((one) => one.particle)).size).toBe(8)
  // corners at ±½ fall 1.5 − r and 2.5 − r: t = √(2d/g), frames are 1 + 24·t
  for (const one of touched.slice(0, 4)) {
    const t = Math.sqrt((2 * 1.49) / 9.80665)
    expect(Math.abs(one.frame - (1 + 24 * t))).toBeLessThan(1 / substeps + 0.1)
    expect(one.normal.map((x) => Math.round(x))).toEqual([0, 1, 0])
    expect(Math.abs(one.place[1] + 2)).toBeLessThan(0.02)
  }
})

test('phase changes say from where to where; deaths by a cue say so', () => {
  const shot = shotOf({
    phases: ['Held', 'Loose', 'Late'],
    births: [burst({ into: 'Held' })],
    cues: [
      { id: 'a', from: 'Held', to: 'Loose', when: { kind: 'after', frames: 3 } },
      { id: 'b', from: 'Loose', to: 'Late', when: { kind: 'after', frames: 2 }, chance: 0.5 },
      { id: 'c', from: 'Late', to: 'dies', when: { kind: 'after', frames: 2 } },
    ],
  })
  const simulation = start(shot)
  const changes = new Map<number, number>()
  const dead: string[] = []
  for (let frame = 2; frame <= 14; frame++) {
    simulation.advance()
    for (const one of of(simulation, 'phase')) changes.set(one.detail, (changes.get(one.detail) ?? 0) + 1)
    dead.push(...of(simulation, 'death').map((one) => DEATHS[one.detail]!))
  }
  expect(changes.get(64 * 0 + 1)).toBe(1000)
  const late = changes.get(64 * 1 + 2)!
  expect(Math.abs(late - 500)).toBeLessThan(60)
  expect([...changes.keys()].sort((a, b) => a - b)).toEqual([1, 66])
  expect(dead).toEqual(Array(late).fill('cue'))
})

test('links that break are there with both ends, and as many as the measures count', () => {
  const simulation = start(
    shotOf(
      {
        particle: { radius: 0.05, density: 1000 },
        births: [burst({ kind: 'volume', fill: 'grid', spacing: 0.12, amount: { burst: 'all', at: 1 } })],
        influences: [
          acting('gravity'),
          acting('link', { to: 'grid', stiffness: 0.9, breaks: 0.02 }),
          // pulled apart, not only let fall: what is pressed does not break
          acting('turbulence', { strength: 200, scale: 0.5 }),
          acting('floor', { height: -1, bounce: 0.1 }),
        ],
      },
      { quality: { substeps: 4, iterations: 2 } },
    ),
  )
  let broken = 0
  for (let frame = 2; frame <= 30; frame++) {
    simulation.advance()
    const now = of(simulation, 'break')
    broken += now.length
    for (const one of now) {
      expect(one.other).toBeGreaterThanOrEqual(0)
      expect(one.other).not.toBe(one.particle)
    }
  }
  expect(broken).toBeGreaterThan(0)
  expect(simulation.measures().populations[0]!.links!.broken).toBe(broken)
})

test('resumed from a snapshot, events of the frame and of those after it are the same', () => {
  const population: Loose = {
    phases: ['Loose', 'Late'],
    particle: { radius: 0.02, lifespan: { mean: 14, spread: 4 } },
    births: [burst({ amount: { rate: 500 } })],
    cues: [{ id: 'c', from: 'Loose', to: 'Late', when: { kind: 'contact' } }],
    influences: [
      acting('gravity', { weights: { Loose: 1, Late: 1 } }),
      acting('floor', { height: -0.7, weights: { Loose: 1, Late: 1 } }),
    ],
  }
  const shot = shotOf(population)
  const straight = runTo(start(shot), 12)
  const resumed = start(shot)
  resumed.restore(straight.snapshot())
  expect(rows(resumed)).toEqual(rows(straight))
  for (let n = 0; n < 8; n++) {
    straight.advance()
    resumed.advance()
    expect(rows(resumed)).toEqual(rows(straight))
  }
  expect(
    EVENT_KINDS.filter((kind) => rows(straight).some((one) => one.kind === kind)).length,
  ).toBeGreaterThan(2)
})

test('counts go on where rows end', () => {
  const simulation = start(shotOf({ births: [burst({ amount: { burst: 70_000, at: 1 } })] }))
  const table = simulation.events()[0]!
  expect(table.counts.birth).toBe(70_000)
  expect(table.rows).toBe(65_536)
  expect(simulation.measures().populations[0]!.events.birth).toBe(70_000)
})
