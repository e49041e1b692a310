/** Forces that vary over a body turn it; what slows its parts slows its spin. */
import { blocks, body, bondedShot, G, gravity, look } from './bondHelp.ts'
import { ASSET } from './help.ts'
import { simulate } from './rigidHelp.ts'
import { measureSimulation } from '../src/measures/measures.ts'
import type { Vector } from '../src/index.ts'
import { rotate, type Quaternion } from '../src/math/quaternion.ts'

type Loose = Record<string, unknown>
const acts = (kind: string, more: Loose = {}): Loose => ({ id: kind, kind, weights: { Free: 1 }, ...more })

/** One block of a size, turned, with what acts on it. */
async function block(size: Vector, influences: Loose[], { rotation = [0, 0, 0], substeps = 4, rate = 24, population = {} }: { rotation?: Vector; substeps?: number; rate?: number; population?: Loose } = {}) {
  const shot = bondedShot([body(), ...influences], { frames: { first: 1, last: 400, rate }, quality: { substeps, iterations: 4 } }, { rotation }, population)
  return simulate(shot, new Map([[ASSET, blocks([1, 1, 1], size)]]))
} // prettier-ignore
const spins = (simulation: Awaited<ReturnType<typeof block>>, spin: Vector): void =>
  (simulation.populations()[0]!.columns.angularVelocity as Float32Array).set(spin)

test.each([[24, 1], [24, 4], [60, 3]])('linear drag takes from spin what it takes from speed, at %d × %d steps a second', async (rate, substeps) => {
  const simulation = await block([0.4, 0.4, 0.4], [acts('drag', { strength: 1.5 })], { rate, substeps })
  spins(simulation, [0, 3, 0])
  for (let n = 0; n < rate; n++) simulation.advance()
  expect(look(simulation).spin(0)[1]).toBeCloseTo(3 * Math.exp(-1.5), 2)
}) // prettier-ignore

test.each([0.01, 1, 30])('a pull that falls with the square of the distance turns a rod of %d m towards it as the tide does', async (long) => {
  // τ = 3·k/R³ · (I_across − I_along) · sin θ · cos θ for what is short against R: Goldstein, "Classical mechanics", 5.8
  const away = 40 * long
  const turn = 30
  const size: Vector = [long, long / 10, long / 10]
  const k = Math.min(1e6, away ** 3)
  const simulation = await block(size, [acts('attract', { strength: k, falloff: 'square', point: [away, 0, 0], core: long, reach: away * 4 })], { rotation: [0, 0, turn], rate: 240, substeps: 2 })
  simulation.advance()
  const theta = (turn * Math.PI) / 180
  const along = (2 * (long / 10) ** 2) / 12
  const across = (long ** 2 + (long / 10) ** 2) / 12
  const wanted = ((-3 * k) / away ** 3) * Math.sin(theta) * Math.cos(theta) * ((across - along) / across / 240)
  const [x, y, z] = look(simulation).spin(0)
  expect(z! / wanted).toBeGreaterThan(0.98)
  expect(z! / wanted).toBeLessThan(1.02)
  expect(Math.hypot(x!, y!)).toBeLessThan(0.01 * Math.abs(wanted))
}) // prettier-ignore

test('in a whirl that turns as one a body takes on its turning; in even wind it does not turn', async () => {
  const whirl = await block([0.3, 0.2, 0.1], [acts('vortex', { strength: 4, core: 2, speed: 3, inward: 0 })])
  for (let n = 0; n < 72; n++) whirl.advance()
  expect(look(whirl).spin(0)[1]).toBeCloseTo(1.5, 2)
  const even = await block([0.3, 0.2, 0.1], [acts('wind', { strength: 2, speed: 8, gusts: 0 }), gravity()], { rotation: [20, 30, 40] }) // prettier-ignore
  for (let n = 0; n < 48; n++) even.advance()
  expect(Math.hypot(...look(even).spin(0))).toBeLessThan(1e-5)
  const gusty = await block(
    [0.3, 0.2, 0.1],
    [acts('wind', { strength: 2, speed: 8, gusts: 1, gustSize: 0.4 })],
  )
  for (let n = 0; n < 48; n++) gusty.advance()
  expect(Math.hypot(...look(gusty).spin(0))).toBeGreaterThan(0.1)
})

test.each([[[0.5, 0.5, 0.5]], [[1, 0.05, 1]], [[0.01, 0.01, 0.06]]] as [Vector][])('a block of %j falls as fast as its surface lets it', async (size) => {
  // √(2·m·g / (ρ·c·A)) with a quarter of the surface, what it shows in the mean of all ways round: Cauchy (1841)
  const simulation = await block(size, [gravity(), acts('airDrag', { coefficient: 1, medium: 100 })])
  for (let n = 0; n < 140; n++) simulation.advance()
  const [x, y, z] = size
  const area = (x * y + y * z + z * x) / 2
  const fall = Math.sqrt((2 * 1000 * x * y * z * G) / (100 * area))
  expect(-look(simulation).velocity(0)[1] / fall).toBeCloseTo(1, 2)
}) // prettier-ignore

test('bonded blocks are turned as one by a force that varies over them', async () => {
  const bonds = { id: 'bonds', kind: 'bonds', weights: { Free: 1 }, varies: 0, bears: 1e6 }
  const pull = acts('attract', { strength: 6.4e4, falloff: 'square', point: [40, 0, 0], core: 1, reach: 200 })
  const run = async (count: number) => {
    const shot = bondedShot([body(), bonds, pull], { frames: { first: 1, last: 9, rate: 240 }, quality: { substeps: 2, iterations: 4 } }, { rotation: [0, 0, 30] }) // prettier-ignore
    const simulation = await simulate(shot, new Map([[ASSET, blocks([count, 1, 1], [2, 0.2, 0.2])]]))
    simulation.advance()
    return look(simulation).spin(0)[2]
  }
  expect((await run(5)) / (await run(1))).toBeCloseTo(1, 2)
})

test('the energy of spin is ½·ω·I·ω about all axes, turned and not', async () => {
  const size: Vector = [0.3, 0.2, 0.1]
  const simulation = await block(size, [acts('drag', { strength: 0 })], { rotation: [20, 30, 40] })
  const { orientation } = simulation.populations()[0]!.columns as Record<string, Float32Array>
  const mass = 1000 * 0.3 * 0.2 * 0.1
  ;([[3, 0, 0], [0, 2, 0], [1, 2, -3]] as Vector[]).forEach((inBody) => {
    spins(simulation, rotate([...orientation!] as Quaternion, inBody))
    const about = [size[1] ** 2 + size[2] ** 2, size[2] ** 2 + size[0] ** 2, size[0] ** 2 + size[1] ** 2]
    const wanted = inBody.reduce((sum, w, k) => sum + (mass / 24) * about[k]! * w * w, 0)
    expect(measureSimulation(simulation).populations[0]!.energy.spin! / wanted).toBeCloseTo(1, 4)
  })
}) // prettier-ignore
