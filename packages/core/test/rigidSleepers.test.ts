/** Bodies that lie still fall asleep, cost next to nothing, and wake for whatever concerns them. */
import { createMachine } from '@tangle/kernels'
import { createSimulation, type Simulation, type Vector } from '../src/index.ts'
import { WORLDS } from '../src/constraints/rigidKind.ts'
import { asset, box } from './help.ts'
import { brokenShot, meshesOf, simulate } from './rigidHelp.ts'

type Loose = Record<string, unknown>
const BELT = asset(7)
const gravity = { id: 'g', kind: 'gravity', weights: { Free: 1 } }
const body = { id: 'r', kind: 'rigid', weights: { Free: 1 }, bounce: 0 }
const floor = { id: 'f', kind: 'floor', weights: { Free: 1 }, friction: 0.6, bounce: 0 }

/** A block of a size in 1 or 12 pieces that lies, by frame 100, under what else acts. */
async function lying(size: number, substeps: number, more: Loose[], pieces = 1, rest: Loose = {}, on: Loose = floor) {
  const shot = brokenShot({ pieces }, { influences: [{ ...gravity, strength: size / 0.1 }, body, on, ...more] }, { quality: { substeps, iterations: 4 }, frames: { first: 1, last: 300, rate: 24 }, ...rest }, { position: [0, size * 0.51, 0] })
  const meshes = await meshesOf(shot, box(size, size, size), { [BELT]: box(40 * size, 2 * size, 40 * size) })
  const simulation = await simulate(shot, meshes)
  run(simulation, 99)
  return { shot, meshes, simulation }
} // prettier-ignore
const run = (simulation: Simulation, frames: number): void => {
  for (let n = 0; n < frames; n++) simulation.advance()
}
const awake = (simulation: Simulation): number => {
  let count = 0
  WORLDS.get(simulation.world.memory)!.rapier.forEachRigidBody((one) => void (count += one.isDynamic() && !one.isSleeping() ? 1 : 0)) // prettier-ignore
  return count
}
const place = (simulation: Simulation): Vector => [...simulation.populations()[0]!.columns.position!.slice(0, 3)] as Vector // prettier-ignore
const keyed = (from: number, to: number) => ({ keys: [[120, from, 'hold'], [121, to, 'hold']] }) // prettier-ignore

test.each([[0.1, 4], [5, 3], [0.01, 8]])('a block of %d m at %d substeps lies to the bit, until a wind rises', async (size, substeps) => {
  const wind = { id: 'w', kind: 'wind', weights: { Free: 1 }, direction: [1, 0, 0], speed: keyed(0, 400 * size), strength: 5 }
  const { simulation } = await lying(size, substeps, [wind])
  const from = place(simulation)
  expect(awake(simulation)).toBe(0)
  run(simulation, 18)
  expect(place(simulation)).toEqual(from)
  run(simulation, 24)
  expect(place(simulation)[0] - from[0]).toBeGreaterThan(size)
}) // prettier-ignore

test('it is taken along by a belt that starts', async () => {
  const belt = { id: 'belt', source: { asset: BELT }, place: { position: { keys: [[120, [0, -0.1, 0]], [168, [1, -0.1, 0]]] } } } // prettier-ignore
  const on = { id: 'c', kind: 'collide', mesh: 'belt', weights: { Free: 1 }, friction: 0.6, bounce: 0 }
  const { simulation } = await lying(0.1, 4, [], 1, { meshes: [belt] }, on)
  expect(awake(simulation)).toBe(0)
  run(simulation, 68)
  expect(place(simulation)[0]).toBeGreaterThan(0.8)
})

test('a heap goes on to the bit from a snapshot while it sleeps, and wakes alike', async () => {
  const wind = { id: 'w', kind: 'wind', weights: { Free: 1 }, direction: [1, 0, 0.3], speed: keyed(0, 40), strength: 5 } // prettier-ignore
  const { shot, meshes, simulation } = await lying(0.1, 4, [wind], 12)
  expect(awake(simulation)).toBe(0)
  const again = createSimulation(createMachine(), shot, meshes, { from: structuredClone(simulation.snapshot()) }) // prettier-ignore
  for (const one of [simulation, again]) run(one, 40)
  expect(again.fingerprint()).toBe(simulation.fingerprint())
  expect(awake(again)).toBeGreaterThan(0)
})

test('one that an influence moves is where that puts it', async () => {
  // its nearest face is a metre off
  const wall = { id: 'belt', source: { asset: BELT }, place: { position: [3, 0, 0] } }
  const stay = { id: 's', kind: 'stay', mesh: 'belt', weights: { Free: 1 }, strength: keyed(0, 1) }
  const { simulation } = await lying(0.1, 4, [stay], 1, { meshes: [wall] })
  expect(awake(simulation)).toBe(0)
  run(simulation, 30)
  expect(place(simulation)[0]).toBeCloseTo(1, 1)
})
