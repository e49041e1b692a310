/**
 * Dense opposing streams of walkers against the published relation of speed and density.
 * Source: Weidmann, "Transporttechnik der Fussgänger" (1993): v = 1.34·(1 − e^(−1.913·(1/ρ − 1/5.4))) m/s, ρ in 1/m².
 */
import { type Mesh } from '../src/index.ts'
import { ASSET, asset, box, column, points, runTo, shotOf, start } from './help.ts'

const FREE = 1.34
const weidmann = (density: number): number => FREE * (1 - Math.exp(-1.913 * (1 / density - 1 / 5.4)))
/** The walker's own slow-down: shares of the free speed by crowding, as an artist draws them. */
const SLOWDOWN = Array.from({ length: 19 }, (_, i) => {
  const density = 0.1 + i * 0.3
  return [Number(density.toFixed(2)), Math.max(0, Number((weidmann(density) / FREE).toFixed(4)))]
})

/** Mean speed along the street of those in its middle, of two streams of half the density each. */
function speedAt(density: number, slowsDown: boolean, seed: number): number {
  const [length, width] = [24, 8]
  const each = Math.round((density * length * width) / 2)
  let state = seed * 7919 + 1
  const random = (): number => (state = (state * 48271) % 2147483647) / 2147483647
  const crowd = (): Mesh =>
    points(...Array.from({ length: each }, () => [(random() - 0.5) * length, 0, (random() - 0.5) * width]))
  const far = (x: number): object => ({ place: { position: [x, 0, 0], scale: [0.1, 0.1, width] } })
  const population = (id: string, mesh: string, goal: string) => ({
    id,
    phases: ['Walking'],
    particle: { radius: 0.22, density: 1000 },
    births: [
      { id: 'b', kind: 'vertices', mesh, into: 'Walking', amount: { burst: 'all', at: 1 }, inherit: 0 },
    ],
    goals: [{ id: 'g', kind: 'surface', mesh: goal }],
    influences: [
      {
        id: 'seek',
        kind: 'seek',
        goal: 'g',
        weights: { Walking: 1 },
        speed: FREE,
        strength: 4,
        ...(slowsDown ? { responses: [{ to: 'speed', from: 'crowding', curve: SLOWDOWN }] } : {}),
      },
    ],
  })
  const shot = shotOf(
    {},
    {
      frames: { first: 1, last: 60, rate: 24 },
      meshes: [
        { id: 'box', source: { asset: ASSET }, ...far(400) },
        { id: 'back', source: { asset: ASSET }, ...far(-400) },
        { id: 'a', source: { asset: asset(1) } },
        { id: 'b', source: { asset: asset(2) } },
      ],
      populations: [population('there', 'a', 'box'), population('back', 'b', 'back')],
    },
  )
  const simulation = runTo(start(shot, new Map([[ASSET, box()], [asset(1), crowd()], [asset(2), crowd()]])), 49) // prettier-ignore
  const [x, v] = [column(simulation, 'position'), column(simulation, 'velocity')]
  const middle = Array.from({ length: x.length / 3 }, (_, i) => i).filter(
    (i) => Math.abs(x[i * 3]!) < 6 && Math.abs(x[i * 3 + 2]!) < 2,
  )
  expect(middle.length).toBeGreaterThan(3)
  return middle.reduce((sum, i) => sum + v[i * 3]!, 0) / middle.length
}

test.each([
  [0.35, 1.33],
  [0.79, 1.17],
  [2.07, 0.58],
])('at %p per m² walkers who slow down in a crowd go about %p m/s', (density, published) => {
  // the figures of the source and its formula agree
  expect(Math.abs(weidmann(density) - published)).toBeLessThan(0.06)
  const slowed = [1, 5].map((seed) => speedAt(density, true, seed))
  for (const one of slowed) expect(Math.abs(one / weidmann(density) - 1)).toBeLessThan(0.2)
  // without it they go as if alone
  expect(speedAt(density, false, 1)).toBeGreaterThan(1.25)
})
