/** Splashes of liquids, and what is born of them. */
import { checkShot, rowsOf, type Shot, type Simulation } from '../src/index.ts'
import { acting, mended, runTo } from './help.ts'
import { basin, filling, G, mean, startTank, tankShot, type Tank } from './liquidHelp.ts'

/** A column of water a wide and 2a high that breaks, in a tank 4a long, and foam that is born where it splashes. */
const dam = (a: number, splashes = 60): Simulation => startTank(damOf(a, splashes))
const damShot = (a: number, splashes: number): Shot => tankShot(damOf(a, splashes))
function damOf(a: number, splashes: number): Tank {
  const width = a / 8
  const speed = Math.sqrt(G * a)
  const population = (id: string, density: number, births: object[], influences: object[]) => ({
    id,
    phases: ['Loose'],
    particle: { radius: width / 2, density },
    births,
    influences: [acting('gravity'), acting('collide', { mesh: 'tank', side: 'inside' }), ...influences],
  })
  return {
    meshes: [basin(4 * a, 4 * a, 4 * width), basin(a, 2 * a, 4 * width)],
    width,
    rate: Math.min(240, Math.max(2, Math.round(24 * Math.sqrt(1 / a)))),
    populations: [
      population(
        'water',
        1000,
        [filling('body')],
        [acting('liquid', { splashes: splashes / Math.sqrt(a), splashSpeed: speed })],
      ),
      population('foam', 100, [{ id: 's', kind: 'particles', from: 'water', into: 'Loose', amount: { count: 2, event: 'splash' }, inherit: 1 }], [acting('froth', { with: 'water' })]), // prettier-ignore
    ] as object[],
  }
}
interface Splash {
  frame: number
}
function splashesOf(simulation: Simulation, frames: number): Splash[] {
  const found: Splash[] = []
  for (let f = 0; f < frames; f++) {
    simulation.advance()
    const table = simulation.events()[0]!
    for (const { kind, frame } of rowsOf(table)) if (kind === 'splash') found.push({ frame })
  }
  return found
}

test('a dam that breaks splashes as much in a box as in a basin, and bears foam, which comes to lie on the water', () => {
  const runs = [0.05, 5].map((a) => {
    const simulation = dam(a)
    const found = splashesOf(simulation, 50)
    const [water, foam] = simulation.populations()
    expect(foam!.count).toBe(2 * found.length)
    // while it still stands, nothing does
    expect(Math.min(...found.map(({ frame }) => frame))).toBeGreaterThan(5)
    return { simulation, each: found.length / water!.count }
  })
  const counts = runs.map(({ each }) => each)
  expect(Math.min(...counts)).toBeGreaterThan(0.2)
  expect(Math.max(...counts) / Math.min(...counts)).toBeLessThan(1.5)
  const { simulation } = runs[1]!
  runTo(simulation, 110)
  const [water, foam] = simulation.populations().map(({ columns }) => mean(Array.from(columns.position!).filter((_, k) => k % 3 === 1))) as [number, number] // prettier-ignore
  expect(foam).toBeGreaterThan(1.3 * water)
})

test('what lies still does not splash, nor does what is not asked to', () => {
  const still = startTank({ meshes: [basin(0.6, 1, 0.6)], width: 0.1, liquid: { splashes: 1000, splashSpeed: 1 } }) // prettier-ignore
  let count = 0
  for (let f = 0; f < 30; f++) {
    still.advance()
    count += still.events()[0]!.counts.splash
  }
  expect(count).toBe(0)
  expect(splashesOf(dam(0.5, 0), 40)).toEqual([])
})

test('births that wait for splashes of what does not splash: told, and mended at once', () => {
  const shot = damShot(1, 0)
  const found = checkShot(shot, new Map()).find(({ id }) => id === 'foam:s:splashes')!
  expect(found.title).toBe('water does not splash')
  const after = mended(shot, found)
  expect(after.populations[0]!.influences.find(({ kind }) => kind === 'liquid')).toMatchObject({
    splashes: 60,
  })
  expect(checkShot(after, new Map()).map(({ id }) => id)).not.toContain('foam:s:splashes')
})
