/** Swirl of liquids, and liquids laid one on the other. */
import { measureSimulation } from '../src/measures/measures.ts'
import { acting, asset, box, column, runTo, start } from './help.ts'
import { filling, heights, mean, startTank, tankShot } from './liquidHelp.ts'

/** A stirred tank goes on turning for longer with swirl, and keeps its level and its density. */
test.each([0.2, 3])('swirl keeps eddies of a tank of %p m turning', (size) => {
  const rate = Math.round(24 / Math.sqrt(size))
  const spinOf = (swirl: number): number => {
    const simulation = startTank({
      meshes: [box(size, size, size)],
      width: size / 9,
      rate,
      liquid: { swirl },
      influences: [acting('vortex', { speed: 1.2 * Math.sqrt(size), core: size / 4, strength: { keys: [[1, 8, 'hold'], [13, 0]] } })], // prettier-ignore
    })
    const level = mean(heights(simulation))
    runTo(simulation, 49)
    expect(Math.abs(mean(heights(simulation)) - level) / size).toBeLessThan(0.03)
    expect(measureSimulation(simulation).populations[0]!.liquid!.high).toBeLessThan(0.03)
    const [x, v] = [column(simulation, 'position'), column(simulation, 'velocity')]
    let spin = 0
    for (let k = 0; k < x.length; k += 3) spin += x[k + 2]! * v[k]! - x[k]! * v[k + 2]!
    return Math.abs(spin)
  }
  expect(spinOf(0.4) / spinOf(0)).toBeGreaterThan(1.15)
})

test('what begins where another ends is laid on it, cell by cell, and stays there', () => {
  const layer = (id: string, density: number, more: object) => ({
    id,
    phases: ['Loose'],
    particle: { radius: 0.05, density },
    births: [filling('tank', 1, more)],
    influences: [acting('gravity'), acting('liquid'), acting('collide', { mesh: 'tank', side: 'inside' })],
  })
  const populations = [layer('brine', 1200, { level: 0.43 }), layer('oil', 800, { bottom: 0.43, level: 0.8 })]
  const simulation = start(
    tankShot({ meshes: [box()], width: 0.1, populations }),
    new Map([[asset(0), box()]]),
  )
  const heightsOf = (n: number): number[] =>
    Array.from(simulation.populations()[n]!.columns.position!).filter((_, k) => k % 3 === 1)
  expect(heightsOf(0).length).toBe(400)
  expect(heightsOf(1).length).toBe(400)
  expect(Math.max(...heightsOf(0))).toBeCloseTo(-0.15, 5)
  expect(Math.min(...heightsOf(1))).toBeCloseTo(-0.05, 5)
  runTo(simulation, 25)
  expect(mean(heightsOf(1)) - mean(heightsOf(0))).toBeGreaterThan(0.36)
})
