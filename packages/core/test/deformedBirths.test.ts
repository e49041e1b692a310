/** Births inside meshes whose surface does not keep its shape: inside it as it is then, at any size, and nobody is lost. */
import { createMachine } from '@tangle/kernels'
import { windingNumbers } from '../src/geometry/tree.ts'
import { DEFORMATIONS, type Mesh } from '../src/index.ts'
import { createBody } from '../src/scene/body.ts'
import { acting, ASSET, box, column, shotOf, sphere, start } from './help.ts'

type Loose = Record<string, unknown>
interface Tried {
  mesh: Mesh
  size: number
  place?: Loose
  deform?: Loose[]
  birth?: Loose
  influences?: object[]
}

/** A simulation, and how many of its particles are outside its mesh as that is now. */
function begun({ mesh, size, place = {}, deform = [], birth = {}, influences = [] }: Tried) {
  const shot = shotOf(
    {
      particle: { radius: 0.01 * size, density: 1000 },
      births: [
        { id: 'b', kind: 'volume', mesh: 'box', into: 'Loose', amount: { burst: 400, at: 1 }, ...birth },
      ],
      influences,
    },
    {
      frames: { first: 1, last: 60, rate: 24 },
      meshes: [
        { id: 'box', source: { asset: ASSET }, deform, place: { scale: [size, size, size], ...place } },
      ],
    },
  )
  const simulation = start(shot, mesh)
  const machine = createMachine()
  const body = createBody(machine, shot, shot.meshes[0]!, 1, mesh, DEFORMATIONS)
  const outside = (): number => {
    const places = Float32Array.from(column(simulation, 'position'))
    const { tree } = body.treeAt(simulation.frame)
    return windingNumbers(machine, tree, places).filter((w) => Math.abs(w) < 0.5).length
  }
  return { simulation, outside, places: () => column(simulation, 'position').map((x) => x / size) }
}

const ripple = (size: number) => [{ id: 'd', kind: 'ripple', amount: 0.15 * size, wavelength: 0.5 * size, speed: size }] // prettier-ignore
const noise = (size: number) => [{ id: 'd', kind: 'noise', amount: 0.2 * size, scale: 0.4 * size }]

describe.each([0.004, 1, 300])('of %d m', (size) => {
  test.each<[string, Partial<Tried>]>([
    ['ripples, a burst', { deform: ripple(size) }],
    ['ripples, on a grid, at frame 9', { deform: ripple(size), birth: { fill: 'grid', spacing: 0.12 * size, amount: { burst: 'all', at: 9 } } }],
    ['noise, a rate', { deform: noise(size), birth: { amount: { rate: 1000 } } }],
    ['noise, turned and mirrored', { deform: noise(size), place: { rotation: [20, 130, 5], scale: [-size, size, 2 * size] } }],
    ['grows and shrinks alone', { place: { scale: [size, { keys: [[1, size], [10, 3 * size]] }, size] }, birth: { amount: { burst: 400, at: 6 } } }],
  ])('%s: all are inside when they are born', (_, more) => {
    const { simulation, outside, places } = begun({ mesh: sphere(20), size, ...more })
    const last = simulation.frame + 9
    while (places().length === 0) simulation.advance()
    expect(outside()).toBe(0)
    expect(places().length).toBeGreaterThan(100)
    // at random places, not along the surface alone
    if (more.birth?.amount === undefined) {
      const middle = [0, 1, 2].map((axis) => places().reduce((sum, x, k) => (k % 3 === axis ? sum + x : sum), 0) / 400)
      expect(Math.max(...middle.map(Math.abs))).toBeLessThan(0.2)
    }
    expect(simulation.frame).toBeLessThanOrEqual(last)
  }) // prettier-ignore

  test('a vessel that moves fast while its wall ripples keeps who is born in it', () => {
    const { simulation, outside } = begun({
      mesh: sphere(16),
      size,
      deform: ripple(size),
      place: { position: [0, { keys: [[1, 0], [15, 5 * size]] }, 0] },
      influences: [acting('collide', { mesh: 'box', side: 'inside' })],
    }) // prettier-ignore
    while (simulation.frame < 12) {
      simulation.advance()
      expect(outside()).toBe(0)
    }
  })
})

test('a limb that its file has turned upside down is filled where it is, as loosely as at rest', () => {
  const limb = box(0.4, 2, 0.4)
  // about its upper end, by 150° at the last sample
  const turned = (angle: number) => limb.positions.map((x, k, all) => {
    const [at, y] = [all[k - (k % 3)]!, all[k - (k % 3) + 1]! - 1]
    return [at * Math.cos(angle) - y * Math.sin(angle), 1 + at * Math.sin(angle) + y * Math.cos(angle), x][k % 3]!
  }) // prettier-ignore
  const places = Array.from({ length: 31 }, (_, n) => turned((n * 5 * Math.PI) / 180))
  const mesh: Mesh = { ...limb, motion: { rate: null, count: 31, by: { places }, middles: new Uint32Array(0) } } // prettier-ignore
  const { simulation, outside, places: born } = begun({ mesh, size: 1, birth: { amount: { burst: 400, at: 31 } } }) // prettier-ignore
  while (simulation.frame < 31) simulation.advance()
  expect([born().length / 3, outside()]).toEqual([400, 0])
  // along the limb as evenly as a box is filled: the mean half way, the spread 2/√12
  const along = Array.from({ length: 400 }, (_, i) => {
    const [x, y] = [born()[i * 3]!, born()[i * 3 + 1]! - 1]
    return x * Math.sin((150 * Math.PI) / 180) - y * Math.cos((150 * Math.PI) / 180)
  })
  const mean = along.reduce((sum, x) => sum + x, 0) / 400
  const spread = Math.sqrt(along.reduce((sum, x) => sum + (x - mean) ** 2, 0) / 400)
  expect(mean).toBeCloseTo(1, 1)
  expect(Math.abs(spread / (2 / Math.sqrt(12)) - 1)).toBeLessThan(0.1)
})
