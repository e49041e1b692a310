/** Grains and pieces of broken meshes: what is whose collider, and what goes from one to the other. */
import { createMachine } from '@tangle/kernels'
import { createSimulation, type Mesh, type Shot, type Simulation } from '../src/index.ts'
import { blocks, body, G, gravity } from './bondHelp.ts'
import { ASSET, box, shotOf } from './help.ts'
import { simulate } from './rigidHelp.ts'

type Loose = Record<string, unknown>
const above = `sha256:${'8'.repeat(64)}`

/** A bar of blocks that are bodies, and grains that are born in a box and collide with it. */
function both(blocksDo: Loose[], grainsDo: Loose[], more: { bar?: Loose; from?: Loose; grains?: Loose; shot?: Loose } = {}): Shot {
  const bits = {
    id: 'bits',
    phases: ['Free'],
    particle: { density: 1000 },
    births: [{ id: 'b', kind: 'pieces', mesh: 'bar', into: 'Free', amount: { burst: 'all', at: 1 } }],
    influences: [body(), ...blocksDo],
    look: { draw: 'pieces' },
  }
  return shotOf(
    bits,
    {
      meshes: [
        { id: 'bar', source: { asset: ASSET }, place: more.bar ?? {} },
        { id: 'from', source: { asset: above }, place: more.from ?? {} },
      ],
      populations: [
        bits,
        {
          id: 'grains',
          phases: ['Loose'],
          particle: { radius: 0.02, density: 1000 },
          births: [{ id: 'g', kind: 'volume', fill: 'grid', spacing: 0.05, mesh: 'from', into: 'Loose', amount: { burst: 'all', at: 1 } }],
          influences: [{ id: 'c', kind: 'collide', mesh: 'bar', weights: { Loose: 1 }, bounce: 0, friction: 0.6 }, ...grainsDo],
          ...more.grains,
        },
      ],
      frames: { first: 1, last: 100, rate: 24 },
      quality: { substeps: 6, iterations: 4 },
      ...more.shot,
    },
  )
} // prettier-ignore
const meshes = (bar: Mesh): Map<string, Mesh> => new Map([[ASSET, bar], [above, box(0.3, 0.2, 0.3)]]) // prettier-ignore
const run = (simulation: Simulation, frames: number): void => {
  for (let n = 0; n < frames; n++) simulation.advance()
}
const columnsOf = (simulation: Simulation, n: number) =>
  simulation.populations()[n]! as unknown as { count: number; columns: Record<string, Float32Array> }

test('grains come to lie on pieces where these are, not where they came from', async () => {
  // the bar falls one metre and rests on the floor; grains fall after it
  const floor = (phase: string) => ({ id: 'f', kind: 'floor', weights: { [phase]: 1 }, friction: 0.8 })
  const shot = both([gravity({ Free: 1 }), floor('Free')], [gravity({ Loose: 1 }), floor('Loose')], { bar: { position: [0, 1.1, 0] }, from: { position: [0, 1.6, 0] } }) // prettier-ignore
  const simulation = await simulate(shot, meshes(blocks([1, 1, 1], [0.6, 0.2, 0.6])))
  run(simulation, 70)
  const [bar, grains] = [columnsOf(simulation, 0), columnsOf(simulation, 1)]
  expect(bar.columns.position![1]).toBeCloseTo(0.1, 2)
  let onTop = 0
  for (let i = 0; i < grains.count; i++) {
    const [x, y, z] = [0, 1, 2].map((k) => grains.columns.position![i * 3 + k]!) as [number, number, number]
    // its top is at 0.2: who is above it lies there, and nobody is in it
    if (Math.abs(x) < 0.28 && Math.abs(z) < 0.28) {
      expect(y).toBeGreaterThan(0.2 + 0.015)
      onTop++
    }
  }
  expect(onTop).toBeGreaterThan(0.9 * grains.count)
})

test('grains are carried by a piece that moves under them, and turned away by one that flies at them', async () => {
  const shot = both([], [], { bar: { position: [-1, 0, 0] }, from: { position: [0.2, 0, 0] } })
  shot.populations[0]!.births[0] = { ...shot.populations[0]!.births[0]!, aim: 'direction', direction: [1, 0, 0], speed: 3 } as never // prettier-ignore
  const simulation = await simulate(shot, meshes(blocks([1, 1, 1], [0.4, 0.6, 0.6])))
  run(simulation, 24)
  const [bar, grains] = [columnsOf(simulation, 0), columnsOf(simulation, 1)]
  // it flew 3 m/s, a little less after it has taken them along
  expect(bar.columns.position![0]).toBeGreaterThan(1)
  for (let i = 0; i < grains.count; i++)
    expect(grains.columns.position![i * 3]! - bar.columns.position![0]!).toBeGreaterThan(0.2)
})

test.each([1000, 8000])('what grains of %d kg/m³ lose a piece of 1000 gains: momentum is kept', async (density) => {
  // grains fly at a block that floats
  const shot = both([], [], { bar: { position: [0, 0, 0] }, from: { position: [-1, 0, 0] }, grains: { particle: { radius: 0.02, density }, births: [{ id: 'g', kind: 'volume', fill: 'grid', spacing: 0.05, mesh: 'from', into: 'Loose', amount: { burst: 'all', at: 1 }, aim: 'direction', direction: [1, 0, 0], speed: 4 }] } }) // prettier-ignore
  const simulation = await simulate(shot, meshes(blocks([1, 1, 1], [0.4, 0.4, 0.4])))
  const momentum = (): number => {
    let sum = 0
    for (const n of [0, 1]) {
      const { count, columns } = columnsOf(simulation, n)
      for (let i = 0; i < count; i++) sum += columns.velocity![i * 3]! / columns.inverseMass![i]!
    }
    return sum
  }
  const before = momentum()
  run(simulation, 20)
  const { columns } = columnsOf(simulation, 0)
  expect(columns.velocity![0]).toBeGreaterThan(0.05)
  expect(momentum() / before).toBeCloseTo(1, 5)
}) // prettier-ignore

test('before pieces are born their mesh stands there; a computation goes on to the bit from a snapshot', async () => {
  const shot = both([gravity({ Free: 1 })], [gravity({ Loose: 1 })], { from: { position: [0, 0.5, 0] } }) // prettier-ignore
  shot.populations[0]!.births[0] = {
    ...shot.populations[0]!.births[0]!,
    amount: { burst: 'all', at: 20 },
  } as never
  const bar = meshes(blocks([3, 1, 1], [0.9, 0.2, 0.6]))
  const simulation = await simulate(shot, bar)
  run(simulation, 16)
  const { count, columns } = columnsOf(simulation, 1)
  for (let i = 0; i < count; i++) expect(columns.position![i * 3 + 1]).toBeGreaterThan(0.1)
  run(simulation, 8)
  const snapshot = simulation.snapshot()
  run(simulation, 8)
  const other = createSimulation(createMachine(), shot, bar)
  other.restore(snapshot)
  run(other, 8)
  expect(other.fingerprint()).toBe(simulation.fingerprint())
  // both fall now
  expect(columnsOf(simulation, 0).columns.position![1]).toBeLessThan(-G * 0.05)
})
