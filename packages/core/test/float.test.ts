/** Grains in liquids: Archimedes, and what the liquid takes along. */
import { createMachine } from '@tangle/kernels'
import { createSimulation, type Simulation } from '../src/index.ts'
import { acting, asset, box, runTo } from './help.ts'
import { filling, heights, mean, tankShot } from './liquidHelp.ts'
import { firstOf } from './wide.ts'

interface Grains {
  density: number
  /** Where their slab is born, as a share of the size of the tank, from its middle. */
  at?: number
  /** Widths, as a share of those of the liquid. */
  wide?: number
  influences?: object[]
}

/** A tank of water, eight layers deep, and a slab of grains. */
function tankWith(size: number, { density, at = 0, wide = 1, influences = [] }: Grains): Simulation {
  const width = size / 10
  const meshes = [box(size, size, size), box(size / 3, width * wide, size / 3)]
  const common = [acting('gravity'), acting('collide', { mesh: 'tank', side: 'inside' })]
  const shot = tankShot({
    meshes,
    width,
    // as many frames for what is fast and small as for what is slow and large
    rate: Math.round(24 / Math.sqrt(size)),
    places: { 1: { position: [0, size * at, 0] } },
    populations: [
      {
        id: 'water',
        phases: ['Loose'],
        particle: { radius: width / 2, density: 1000 },
        births: [filling('tank', 0.66)],
        influences: [...common, acting('liquid')],
      },
      {
        id: 'floats',
        phases: ['Loose'],
        particle: { radius: (width * wide) / 2, density },
        births: [filling('body')],
        influences: [...common, acting('float'), acting('selfCollision'), ...influences],
      },
    ],
  })
  return createSimulation(createMachine(), shot, new Map(meshes.map((mesh, n) => [asset(n), mesh])), {
    share: 1,
  })
}
const floats = (simulation: Simulation, axis = 1): number[] =>
  Array.from(simulation.populations()[1]!.columns.position!).filter((_, k) => k % 3 === axis)
const level = (simulation: Simulation): number => {
  const y = heights(simulation).sort((a, b) => a - b)
  return y[Math.floor(0.95 * y.length)]!
}

const TANKS = [
  [0.06, 1],
  [20, 0.8],
  [1, 1.4],
] as const
test.each(firstOf(2, TANKS))(
  'in a tank of %p m, %p times as wide as the liquid: the light float, the heavy sink',
  (size, wide) => {
    const frames = 49
    const light = runTo(tankWith(size, { density: 300, at: -0.2, wide }), frames)
    expect(floats(light).length).toBeGreaterThan(3)
    expect(mean(floats(light)) / size).toBeGreaterThan(level(light) / size - 0.08)
    const heavy = runTo(tankWith(size, { density: 3000, at: 0.3, wide }), frames)
    expect(mean(floats(heavy)) / size).toBeLessThan(-0.28)
    for (const one of [light, heavy])
      for (const x of [0, 1, 2].flatMap((axis) => floats(one, axis)))
        expect(Math.abs(x)).toBeLessThan(size / 2)
  },
)
