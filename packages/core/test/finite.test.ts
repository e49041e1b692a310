/** A state that leaves the numbers stops at its frame, with the particle and what acts most. */
import { createMachine } from '@tangle/kernels'
import { createSimulation, type Shot } from '../src/index.ts'
import { acting, ASSET, box, burst, shotOf } from './help.ts'

const start = (shot: Shot) => createSimulation(createMachine(), shot, new Map([[ASSET, box()]]))
const shotWith = (...influences: Record<string, unknown>[]): Shot =>
  shotOf({ births: [burst({ amount: { burst: 40, at: 3 } })], influences })

test.each([1, 2, 8])(
  'the strongest drag that drives, %p substeps: as fast as may be, and no number is lost',
  (substeps) => {
    const shot = shotWith(acting('gravity'), acting('drag', { weights: { Loose: -100 }, strength: 1e4 }))
    const simulation = start({ ...shot, quality: { ...shot.quality, level: 'own', substeps } })
    for (let n = 0; n < 20; n++) simulation.advance()
    const { position, velocity } = simulation.populations()[0]!.columns
    expect([...position!, ...velocity!].every(Number.isFinite)).toBe(true)
  },
)

test.each([
  ['place', 'position', NaN],
  ['place', 'position', Infinity],
  ['velocity', 'velocity', -Infinity],
])('a %s that is lost (%s %p): the frame, the particle, and what acts most', (what, name, value) => {
  const shot = shotWith(acting('gravity'), acting('wander', { name: 'Flutter', strength: 30 }))
  const machine = createMachine()
  const simulation = createSimulation(machine, shot, new Map([[ASSET, box()]]))
  for (let n = 0; n < 4; n++) simulation.advance()
  const { columns } = simulation.world.populations[0]!
  machine.heap.f32(columns.at[name]!, columns.count * 3)[17 * 3 + 1] = value
  expect(() => simulation.advance()).toThrow(
    new RegExp(
      `^Frame 6: the (${what}|place) of particle \\d+ of "dust" is no number any more, in phase "Loose"\\. Most acts "Flutter", with weight × strength = 30: lower it$`,
    ),
  )
})

// dv/dt = c·v has v = v₀·e^(c·t); with gravity v = v₀·e^(c·t) − (g/c)·(e^(c·t) − 1)
test.each([
  [2, 1],
  [2, 5],
  [40, 1],
  [40, 4],
  [100, 1],
  [100, 10],
])('a drag of −%p/s drives exactly, at %p substeps', (c, substeps) => {
  const frames = c > 2 ? 1 : 12
  const drives = [acting('drag', { weights: { Loose: -1 }, strength: c })]
  const shot = shotOf({
    births: [burst({ amount: { burst: 5, at: 1 }, speed: 0.5 })],
    influences: [...drives, acting('gravity')],
  })
  const simulation = start({ ...shot, quality: { ...shot.quality, level: 'own', substeps } })
  const before = Float64Array.from(simulation.populations()[0]!.columns.velocity!)
  for (let n = 0; n < frames; n++) simulation.advance()
  const after = simulation.populations()[0]!.columns.velocity!
  const growth = Math.exp((c * frames) / 24)
  const fallen = (-9.80665 / c) * (growth - 1)
  before.forEach((v, k) => {
    const expected = v * growth + (k % 3 === 1 ? fallen : 0)
    expect(Math.abs(after[k]! - expected)).toBeLessThan(1e-4 * growth)
  })
})

test.each([
  ['gravity at its strongest', acting('gravity', { strength: 100, weights: { Loose: 100 } })],
  ['a drag that only just drives', acting('drag', { weights: { Loose: -1 }, strength: 2 })],
  ['the strongest drag', acting('drag', { weights: { Loose: 100 }, strength: 1e4 })],
])('%s stays a number', (_, influence) => {
  const simulation = start(shotWith(influence))
  for (let n = 0; n < 60; n++) simulation.advance()
  expect(simulation.populations()[0]!.columns.position!.every(Number.isFinite)).toBe(true)
})
