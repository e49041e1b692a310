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
  /** Of the population. */
  more?: Loose
}

/** A simulation, and how many of its particles are outside its mesh as that is now. */
function begun({ mesh, size, place = {}, deform = [], birth = {}, influences = [], more = {} }: Tried) {
  const shot = shotOf(
    {
      particle: { radius: 0.01 * size, density: 1000 },
      births: [
        { id: 'b', kind: 'volume', mesh: 'box', into: 'Loose', amount: { burst: 400, at: 1 }, ...birth },
      ],
      influences,
      ...more,
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

/** A limb of 2 m that its file turns about its upper end, by 5° a sample. */
function turningLimb(): Mesh {
  const limb = box(0.4, 2, 0.4)
  const turned = (angle: number) => limb.positions.map((z, k, all) => {
    const [x, y] = [all[k - (k % 3)]!, all[k - (k % 3) + 1]! - 1]
    return [x * Math.cos(angle) - y * Math.sin(angle), 1 + x * Math.sin(angle) + y * Math.cos(angle), z][k % 3]!
  }) // prettier-ignore
  const places = Array.from({ length: 31 }, (_, n) => turned((n * 5 * Math.PI) / 180))
  return { ...limb, motion: { rate: null, count: 31, by: { places }, middles: new Uint32Array(0) } } // prettier-ignore
}
/** Of each place in the limb at a frame: how far down it, and to its side, in lengths of the body. */
const inLimb = (places: number[], frame: number): [down: number, aside: number][] => {
  const angle = ((frame - 1) * 5 * Math.PI) / 180
  return Array.from({ length: places.length / 3 }, (_, i) => {
    const [x, y] = [places[i * 3]!, places[i * 3 + 1]! - 1]
    return [x * Math.sin(angle) - y * Math.cos(angle), x * Math.cos(angle) + y * Math.sin(angle)]
  })
}
const meanOf = (values: number[]): number => values.reduce((sum, x) => sum + x, 0) / values.length

describe.each([0.01, 1, 90])('a limb of %d m that its file turns', (size) => {
  test('is filled where it is, as evenly as at rest', () => {
    const { simulation, outside, places } = begun({ mesh: turningLimb(), size, birth: { amount: { burst: 400, at: 31 } } }) // prettier-ignore
    while (simulation.frame < 31) simulation.advance()
    expect([places().length / 3, outside()]).toEqual([400, 0])
    // half way down in the mean, and spread by its length ÷ √12
    const down = inLimb(places(), 31).map(([along]) => along)
    expect(meanOf(down)).toBeCloseTo(1, 1)
    const spread = Math.sqrt(meanOf(down.map((x) => (x - meanOf(down)) ** 2)))
    expect(Math.abs(spread / (2 / Math.sqrt(12)) - 1)).toBeLessThan(0.1)
  })

  test('takes along who rides in it, each in its place, and what it throws off is as fast as it was there', () => {
    const { simulation, outside, places } = begun({
      mesh: turningLimb(),
      size,
      birth: { inherit: 1 },
      influences: [{ id: 'r', kind: 'ride', weights: { Loose: 1 }, strength: { keys: [[1, 1], [20, 1], [20.001, 0]] } }],
    }) // prettier-ignore
    const before = inLimb(places(), 1)
    while (simulation.frame < 20) {
      simulation.advance()
      expect(outside()).toBe(0)
    }
    inLimb(places(), 20).forEach((place, i) =>
      place.forEach((x, k) => expect(x).toBeCloseTo(before[i]![k]!, 3)),
    )
    const [velocities, from] = [column(simulation, 'velocity'), places()]
    // 5° a frame, 24 frames a second, about the upper end
    for (let i = 0; i < 400; i++) {
      const arm = Math.hypot(from[i * 3]!, from[i * 3 + 1]! - 1)
      const speed = Math.hypot(velocities[i * 3]!, velocities[i * 3 + 1]!) / size
      expect(Math.abs(speed / (arm * ((24 * 5 * Math.PI) / 180)) - 1)).toBeLessThan(0.02)
    }
    const left = places()
    while (simulation.frame < 24) simulation.advance()
    const flown = places().map((x, k) => Math.abs(x - left[k]!))
    expect(Math.max(...flown)).toBeGreaterThan(0.1)
  })

  test('is a goal whose places go along with it', () => {
    const { simulation, outside, places } = begun({
      mesh: turningLimb(),
      size,
      birth: { amount: { burst: 400, at: 3 } },
      influences: [acting('blend', { goal: 'g', strength: { keys: [[1, 0], [4, 0], [5, 1]] } })],
      more: { goals: [{ id: 'g', kind: 'volume', mesh: 'box', pairing: 'random' }] },
    }) // prettier-ignore
    while (simulation.frame < 8) simulation.advance()
    const before = inLimb(places(), 8)
    while (simulation.frame < 28) simulation.advance()
    expect(outside()).toBe(0)
    inLimb(places(), 28).forEach((place, i) =>
      place.forEach((x, k) => expect(x).toBeCloseTo(before[i]![k]!, 3)),
    )
  })
})
