/** Liquids against hydrostatics, published experiments and closed forms. */
import { readShot } from '../src/index.ts'
import { measureSimulation } from '../src/measures/measures.ts'
import { acting, asset, box, column, runTo, sphere, start } from './help.ts'
import { basin, filling, G, heights, mean, rmsSpeed, startTank, tankShot, type Tank } from './liquidHelp.ts'

const still = { position: [0, 0, 0], rotation: [0, 0, 0], scale: [1, 1, 1] }
const across = (values: number[], axis: number): number[] => values.filter((_, k) => k % 3 === axis)

describe('a column at rest', () => {
  test.each([
    [0.03, 9, 24, 'draft'],
    [1, 12, 30, 'good'],
    [1, 10, 25, 'draft'],
    [60, 10, 24, 'good'],
  ])(
    'in a tank of %p m, %p layers, %p frames a second, %p: level, density, pressure',
    (size, n, rate, level) => {
      const simulation = runTo(
        startTank({ meshes: [box(size, size, size)], width: size / n, rate, quality: { level } }),
        37,
      )
      const y = heights(simulation).map((h) => h + size / 2)
      const depth = (y.length * (size / n) ** 3) / size ** 2
      // the middle of a column is half its depth
      expect(Math.abs((2 * mean(y)) / depth - 1)).toBeLessThan(0.012)
      const { liquid } = measureSimulation(simulation).populations[0]!
      expect(liquid!.high).toBeLessThan(0.01)
      expect(liquid!.volume).toBeCloseTo(depth * size ** 2, 6)
      // P falls with height by ρ·g: the slope of a straight line through all
      const pressure = column(simulation, 'pressure')
      const [my, mp] = [mean(y), mean(pressure)]
      const slope =
        y.reduce((sum, h, i) => sum + (h - my) * (pressure[i]! - mp), 0) /
        y.reduce((sum, h) => sum + (h - my) ** 2, 0)
      expect(slope / (-1000 * G)).toBeGreaterThan(0.95)
      expect(slope / (-1000 * G)).toBeLessThan(1.12)
      for (const x of column(simulation, 'position')) expect(Math.abs(x)).toBeLessThan(size / 2)
    },
  )

  test('lies in a ball and in a turned box as it does in a straight one, and comes to rest', () => {
    for (const [mesh, place] of [
      [sphere(24), { ...still, scale: [0.5, 0.5, 0.5] }],
      [box(), { ...still, rotation: [20, 30, 10] }],
    ] as const) {
      const simulation = startTank({ meshes: [mesh], places: { 0: place }, width: 0.08 })
      const before = mean(heights(simulation))
      runTo(simulation, 49)
      expect(Math.abs(mean(heights(simulation)) - before)).toBeLessThan(0.012)
      expect(rmsSpeed(simulation)).toBeLessThan(0.15 * Math.sqrt(G * 0.08))
      const far = mesh.positions.length > 100 ? 0.5 : Math.sqrt(0.75)
      const x = column(simulation, 'position')
      for (let k = 0; k < x.length; k += 3)
        expect(Math.sqrt(x[k]! ** 2 + x[k + 1]! ** 2 + x[k + 2]! ** 2)).toBeLessThan(far)
    }
  })

  test('stays in a tank that is shaken and tipped, and keeps its volume', () => {
    const turning = { keys: [[1, 0], [20, 40], [40, -30], [60, 0]] } // prettier-ignore
    const shaking = { keys: [[1, 0], [8, 0.5], [16, -0.5], [24, 0.3], [60, 0]] } // prettier-ignore
    const simulation = startTank({
      meshes: [box()],
      places: { 0: { ...still, position: [shaking, 0, 0], rotation: [0, 0, turning] } },
      width: 1 / 9,
    })
    for (let f = 2; f <= 90; f++) {
      simulation.advance()
      expect(measureSimulation(simulation).populations[0]!.liquid!.high).toBeLessThan(0.08)
    }
    for (const x of column(simulation, 'position')) expect(Math.abs(x)).toBeLessThan(0.5)
    const level = measureSimulation(simulation).populations[0]!.liquid!.level + 0.5
    expect(Math.abs(level - 5.5 / 9)).toBeLessThan(0.06)
  })
})

/**
 * A column twice as high as wide breaks: the front z/a at t·√(2g/a), of Martin and Moyce, "An experimental study of the collapse of liquid
 * columns on a rigid horizontal plane" (1952), from memory.
 */
test('a dam that breaks: the front runs as measured', () => {
  const [a, width] = [1, 1 / 16]
  const measured = [[0.84, 1.22], [1.43, 1.67], [1.83, 2.11], [2.2, 2.56], [2.51, 3], [2.83, 3.44], [3.11, 3.89]] // prettier-ignore
  const rate = 96
  const simulation = startTank({ meshes: [basin(8, 3, 4 * width), basin(a, 2 * a, 4 * width)], width, rate })
  for (const [time, front] of measured as [number, number][]) {
    runTo(simulation, 1 + Math.round(time * Math.sqrt(a / (2 * G)) * rate))
    const x = across(column(simulation, 'position'), 0).sort((p, q) => q - p)
    expect(Math.abs((x[8]! + width / 2) / front - 1)).toBeLessThan(0.1)
  }
})

/** ω² = g·k·tanh(k·h), k = π/L: the first mode of a box (Lamb, "Hydrodynamics", 1932, §257). */
test('it sloshes at its own frequency', () => {
  const [wide, deep, width, rate, since] = [1, 0.5, 0.05, 60, 41]
  const simulation = startTank({
    meshes: [basin(wide, 2, 6 * width)],
    width,
    rate,
    births: [filling('tank', deep / 2)],
    // it lies aslant, thick, until the pull turns upright
    gravity: { direction: [{ keys: [[1, 0.2, 'hold'], [since, 0]] }, -1, 0] }, // prettier-ignore
    liquid: { viscosity: { keys: [[1, 30, 'hold'], [since, 0.001]] } }, // prettier-ignore
  })
  runTo(simulation, since)
  const crossings: number[] = []
  let before = mean(across(column(simulation, 'position'), 0)) - wide / 2
  for (let f = since; crossings.length < 2 && f < since + 90; f++) {
    simulation.advance()
    const now = mean(across(column(simulation, 'position'), 0)) - wide / 2
    if (before * now < 0) crossings.push(f + before / (before - now))
    before = now
  }
  const k = Math.PI / wide
  const half = Math.PI / Math.sqrt(G * k * Math.tanh(k * deep))
  expect(Math.abs((crossings[1]! - crossings[0]!) / rate / half - 1)).toBeLessThan(0.05)
})

/** Mean speed of a film ρ·g·sin α·δ²/(3μ) (Nusselt 1916). */
test('a thick film runs down a slope as fast as its viscosity lets it', () => {
  const [width, viscosity, slope] = [0.01, 20, 0.35]
  const simulation = startTank({
    meshes: [basin(4, 1, 4), basin(0.36, 0.06, 0.36)],
    places: { 0: { ...still, position: [-2, 0, -2] }, 1: { ...still, position: [-0.18, 0, -0.18] } },
    width,
    rate: 96,
    liquid: { viscosity },
    gravity: { direction: [Math.tan(slope), -1, 0] },
  })
  runTo(simulation, 19)
  const [x, v] = [column(simulation, 'position'), column(simulation, 'velocity')]
  const near: number[] = []
  let top = 0
  for (let k = 0; k < x.length; k += 3) {
    if (Math.abs(x[k]! - 0.04) > 0.07 || Math.abs(x[k + 2]!) > 0.07) continue
    near.push(v[k]!)
    top = Math.max(top, x[k + 1]! + width / 2)
  }
  const expected = (1000 * G * Math.sin(slope) * top ** 2) / (3 * viscosity)
  expect(Math.abs(mean(near) / expected - 1)).toBeLessThan(0.1)
})

describe('free in space', () => {
  const turning = (viscosity: number): Tank => ({
    meshes: [box(50, 50, 50), box(1, 0.6, 0.4)],
    width: 0.1,
    gravity: { strength: 0 },
    liquid: { viscosity },
    influences: [acting('vortex', { strength: { keys: [[1, 20, 'hold'], [5, 0]] }, speed: 1, core: 0.5, inward: 0, reach: 9 })], // prettier-ignore
  })
  test.each([[0.001], [50]])('of %p Pa·s, turning, it keeps momentum and gives no spin away', (viscosity) => {
    const simulation = runTo(startTank(turning(viscosity)), 6)
    const spin = (): number[] => {
      const [x, v] = [column(simulation, 'position'), column(simulation, 'velocity')]
      const sum = [0, 0, 0, 0]
      for (let k = 0; k < x.length; k += 3) {
        for (const axis of [0, 1, 2]) sum[axis]! += v[k + axis]!
        sum[3]! += x[k + 2]! * v[k]! - x[k]! * v[k + 2]!
      }
      return sum.map((one) => (3 * one) / x.length)
    }
    const before = spin()
    runTo(simulation, 30)
    const after = spin()
    for (const axis of [0, 1, 2]) expect(Math.abs(after[axis]! - before[axis]!)).toBeLessThan(1e-5)
    expect(Math.abs(before[3]!)).toBeGreaterThan(0.01)
    expect(Math.abs(after[3]! / before[3]! - 1)).toBeLessThan(0.01)
  })
})

/** Two vessels that are joined below come level (Stevin 1586). */
test('water behind a wall with a gap below comes level on both sides', () => {
  const width = 0.06
  const simulation = startTank({
    // the wall is let into the sides, so that nothing goes by it
    meshes: [basin(1, 1.2, 0.3), basin(0.45, 0.7, 0.3), basin(0.1, 1, 0.5)],
    places: { 2: { ...still, position: [0.45, 0.15, -0.1] } },
    width,
    influences: [acting('collide', { id: 'wall', mesh: 'third', side: 'outside' })],
    quality: { level: 'draft' },
  })
  const levels = (): number[] => {
    const x = column(simulation, 'position')
    return [(at: number) => at < 0.45, (at: number) => at > 0.55].map((on) => {
      const own = heights(simulation).filter((_, i) => on(x[i * 3]!))
      return own.length < 20 ? 0 : own.sort((p, q) => q - p)[10]!
    })
  }
  const [full, empty] = levels()
  expect([full! > 0.6, empty]).toEqual([true, 0])
  runTo(simulation, 73)
  const [left, right] = levels()
  expect(Math.abs(left! - right!)).toBeLessThan(1.2 * width)
  // what was on one side lies on both and in the gap: 0.45·0.7/(1 − 0.1) and a little more
  expect(Math.abs((left! + right!) / 2 + width / 2 - (0.45 * 0.7 - 0.1 * 0.15) / 0.9)).toBeLessThan(
    1.2 * width,
  )
})

test('a drain is a mesh inside which they die: the level falls evenly, the rest stays', () => {
  const shot = tankShot({ meshes: [box(), box(0.3, 0.2, 0.3)], width: 0.08, births: [filling('tank', 0.6)], places: { 1: { ...still, position: [0.3, -0.5, 0] } } }) // prettier-ignore
  const [dust] = shot.populations
  const drained = { ...shot, populations: [{ ...dust, cues: [{ id: 'd', from: 'Loose', to: 'dies', when: { kind: 'inside', mesh: 'body' } }] }] } // prettier-ignore
  const simulation = start(readShot(drained).shot!, new Map([[asset(0), box()], [asset(1), box(0.3, 0.2, 0.3)]])) // prettier-ignore
  const counts = [1, 9, 17, 25].map((frame) => column(runTo(simulation, frame), 'radius').length)
  for (const [n, count] of counts.slice(1).entries()) expect(count).toBeLessThan(0.95 * counts[n]!)
  const { liquid } = measureSimulation(simulation).populations[0]!
  expect(liquid!.high).toBeLessThan(0.02)
  expect(Math.abs(liquid!.level + 0.5 - counts.at(-1)! * 0.08 ** 3)).toBeLessThan(0.08)
})

test('who is no liquid any more bears no pressure, and the rest is as it would be alone', () => {
  const shot = tankShot({ meshes: [box()], width: 0.1 })
  const [dust] = shot.populations
  const settingAt = { when: { kind: 'after', frames: 6 }, id: 'c', from: 'Loose', to: 'Set', chance: 0.5 } // prettier-ignore
  const two = { ...dust, phases: ['Loose', 'Set'], cues: [settingAt], influences: dust!.influences.map((one) => ({ ...one, weights: { Loose: 1, Set: one.kind === 'liquid' ? 0 : 1 } })) } // prettier-ignore
  const read = readShot({ ...shot, populations: [two] })
  const simulation = runTo(start(read.shot!, new Map([[asset(0), box()]])), 10)
  const [phase, pressure, compression] = ['phase', 'pressure', 'compression'].map((name) => column(simulation, name)) as [number[], number[], number[]] // prettier-ignore
  const set = [...phase.keys()].filter((i) => phase[i] === 1)
  expect(set.length).toBeGreaterThan(100)
  expect(set.length).toBeLessThan(phase.length - 100)
  for (const i of set) expect([pressure[i], compression[i]]).toEqual([0, 0])
  expect(pressure.some((one) => one > 0)).toBe(true)
})

test('oil under brine changes places with it, for the most part', () => {
  const half = (id: string, density: number, low: number) => ({
    id,
    phases: ['Loose'],
    particle: { radius: 0.05, density },
    births: [filling(id)],
    influences: [acting('gravity'), acting('liquid'), acting('collide', { mesh: 'tank', side: 'inside' })],
    low,
  })
  const simulation = startTank({
    meshes: [basin(0.6, 1.2, 0.6), basin(0.6, 0.3, 0.6), basin(0.6, 0.3, 0.6)],
    places: { 2: { ...still, position: [0, 0.3, 0] } },
    width: 0.1,
    populations: [half('body', 800, 0), half('third', 1200, 0.3)].map(({ low: _, ...one }) => one),
  })
  const middles = (): [number, number] =>
    simulation.populations().map(({ columns }) => mean(Array.from(columns.position!).filter((_, k) => k % 3 === 1))) as [number, number] // prettier-ignore
  expect(middles()[0]).toBeLessThan(middles()[1])
  runTo(simulation, 241)
  const [oil, brine] = middles()
  // single drops of one stay caught in the other (docs/solver.md)
  expect(oil - brine).toBeGreaterThan(0.03)
})

describe('births of liquids', () => {
  test('a mesh is filled to a level as it stands; a cup is filled in its hollow', () => {
    for (const [rotation, share] of [
      [[0, 0, 0], 0.5],
      [[0, 0, 90], 0.5],
      [[30, 0, 40], 0.5],
    ] as const) {
      // prettier-ignore
      const simulation = startTank({
        meshes: [box(2, 1, 1)],
        places: { 0: { ...still, rotation: [...rotation] } },
        width: 0.05,
        births: [filling('tank', 0.5)],
      })
      const volume = column(simulation, 'radius').length * 0.05 ** 3
      expect(Math.abs(volume / (2 * share) - 1)).toBeLessThan(0.04)
    }
    // five walls of a tenth, open at the top
    const parts: [number[], number[]][] = [
      [[1, 0.1, 1], [0, 0.05, 0]], [[0.1, 1, 1], [0.45, 0.5, 0]], [[0.1, 1, 1], [-0.45, 0.5, 0]],
      [[1, 1, 0.1], [0, 0.5, 0.45]], [[1, 1, 0.1], [0, 0.5, -0.45]],
    ] // prettier-ignore
    const cup = { positions: new Float32Array(parts.flatMap(([size, at]) => Array.from(box(...(size as [number, number, number])).positions, (x, k) => x + at[k % 3]!))), triangles: new Uint32Array(parts.flatMap((_, n) => Array.from(box().triangles, (c) => c + 8 * n))) } // prettier-ignore
    const simulation = startTank({ meshes: [cup], width: 0.05, births: [filling('tank', 0.6, { holds: 'hollow' })], side: 'outside' }) // prettier-ignore
    expect(Math.abs((column(simulation, 'radius').length * 0.05 ** 3) / (0.8 * 0.8 * 0.5) - 1)).toBeLessThan(
      0.05,
    )
    runTo(simulation, 30)
    for (const y of heights(simulation)) expect(y).toBeGreaterThan(0.1)
  })

  test('a spout pours as fast as its rate and width ask, without pressing its jet together', () => {
    const tank = {
      meshes: [box(9, 9, 9)],
      width: 0.05,
      births: [{ id: 'p', kind: 'pour', mesh: 'tank', into: 'Loose', width: 0.3, amount: { rate: 2000 } }],
      gravity: { strength: 0 },
    }
    for (const share of [1, 0.5]) {
      const simulation = runTo(startTank({ ...tank, share }), 25)
      const v = across(column(simulation, 'velocity'), 1)
      // 2000/s of 0.05 m cubed through a disc of 0.3 m
      expect(mean(v)).toBeCloseTo(-(2000 * 0.05 ** 3) / (Math.PI * 0.15 ** 2), 1)
      expect(measureSimulation(simulation).populations[0]!.liquid!.high).toBeLessThan(0.05)
      expect(v.length).toBeCloseTo(2000 * share, -1)
    }
  })

  test('a preview is coarser: as much liquid of fewer, larger particles', () => {
    const [whole, part] = [1, 1 / 8].map((share) => startTank({ meshes: [box()], width: 0.05, share }))
    const volumeOf = (one: typeof whole) => column(one!, 'radius').reduce((sum, r) => sum + (2 * r) ** 3, 0)
    expect(column(part!, 'radius').length / column(whole!, 'radius').length).toBeLessThan(0.3)
    expect(Math.abs(volumeOf(part) / volumeOf(whole) - 1)).toBeLessThan(0.08)
  })

  test('what cannot be is said: a spout narrower than a particle, a grid without end', () => {
    const spout = { id: 'p', kind: 'pour', mesh: 'tank', into: 'Loose', width: 0.01, amount: { rate: 100 } }
    expect(() => runTo(startTank({ meshes: [box()], width: 0.05, births: [spout] }), 3)).toThrow(/spout at tank is 0.01 m wide, narrower/) // prettier-ignore
    expect(() => startTank({ meshes: [box()], width: 0.0005 })).toThrow(
      /To fill tank would take a grid of \d+ million cells/,
    )
    expect(
      column(startTank({ meshes: [box()], width: 0.05, births: [filling('tank', 0)] }), 'radius'),
    ).toEqual([])
  })
})
