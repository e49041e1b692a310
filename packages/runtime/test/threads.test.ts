/** Whole shots on one, two and three threads, with more particles than one thread keeps to itself: the same bytes. */
import { existsSync } from 'node:fs'
import { Worker } from 'node:worker_threads'
import { createMachine, createMemory } from '@tangle/kernels'
import { createSimulation, readShot, weld, type Mesh, type Shot } from '@tangle/core'
import { createPool } from '../src/shared/pool.ts'
import { firstOf } from '../../core/test/wide.ts'

const HELPER = new URL('../../../.build/helper.mjs', import.meta.url)
const ASSET = `sha256:${'0'.repeat(64)}`

/** A closed box from −½ to ½. */
function box(): Mesh {
  const corners = [0, 1, 2, 3, 4, 5, 6, 7].flatMap((i) => [
    (i & 1) - 0.5,
    ((i >> 1) & 1) - 0.5,
    ((i >> 2) & 1) - 0.5,
  ])
  const sides = [[0, 2, 3, 1], [4, 5, 7, 6], [0, 1, 5, 4], [2, 6, 7, 3], [0, 4, 6, 2], [1, 3, 7, 5]] // prettier-ignore
  return weld({
    positions: new Float32Array(corners),
    triangles: new Uint32Array(sides.flatMap(([a, b, c, d]) => [a!, b!, c!, a!, c!, d!])),
  })
}

function shotOf(births: object, influences: object[], more: object = {}): Shot {
  const read = readShot({
    format: 'tangle-shot',
    version: 1,
    name: 'Threads',
    frames: { first: 1, last: 60, rate: 24 },
    quality: { substeps: 2, iterations: 3 },
    meshes: [{ id: 'box', source: { asset: ASSET }, place: { scale: [2, 1, 2] } }],
    populations: [
      {
        id: 'dust',
        phases: ['Loose'],
        particle: { radius: { mean: 0.02, spread: 0.2 }, density: 1000 },
        births: [{ id: 'b', mesh: 'box', into: 'Loose', ...births }],
        influences: influences.map((one, n) => ({ id: `i${n}`, weights: { Loose: 1 }, ...one })),
        ...more,
      },
    ],
  })
  if (read.problems) throw new Error(JSON.stringify(read.problems))
  return read.shot
}
const grid = { kind: 'volume', fill: 'grid', spacing: 0.055, amount: { burst: 'all', at: 1 } }

const SHOTS: Record<string, Shot> = {
  'contact and a floor': shotOf(grid, [
    { kind: 'gravity' },
    { kind: 'selfCollision' },
    { kind: 'floor', height: -0.52 },
  ]),
  'links that break': shotOf(grid, [
    { kind: 'gravity' },
    { kind: 'link', to: 'grid', stiffness: 0.8, breaks: 0.02 },
    { kind: 'turbulence', strength: 60, scale: 0.5 },
    { kind: 'floor', height: -0.6 },
  ]),
  'a swarm, deaths and births': shotOf(
    { kind: 'surface', amount: { rate: 90_000 } },
    [{ kind: 'flock' }, { kind: 'wander' }, { kind: 'mutual', near: 0.02, far: 0.1 }],
    { particle: { radius: 0.02, lifespan: { mean: 5, spread: 4 } } },
  ),
}

test('the helper of threads is built', () => expect(existsSync(HELPER)).toBe(true))

test.each(Object.keys(SHOTS))('%s', async (name) => {
  const meshes = new Map([[ASSET, box()]])
  const prints = async (threads: number): Promise<[string[], number]> => {
    const workers: Worker[] = []
    const memory = createMemory()
    const pool =
      threads === 1
        ? null
        : createPool(memory, threads, (thread) =>
            workers.push(new Worker(HELPER, { workerData: { memory, thread } })),
          )
    // helpers join as soon as they are up: from then on they are used
    if (pool) await new Promise((resolve) => setTimeout(resolve, 1500))
    const simulation = createSimulation(pool ?? createMachine(), SHOTS[name]!, meshes)
    const out = Array.from({ length: 8 }, () => {
      simulation.advance()
      return simulation.fingerprint()
    })
    const { count } = simulation.populations()[0]!
    pool?.dispose()
    await Promise.all(workers.map((worker) => worker.terminate()))
    return [out, count]
  }
  const [one, count] = await prints(1)
  // fewer are not shared
  expect(count).toBeGreaterThan(2048)
  for (const threads of firstOf(2, [2, 3, 7])) expect((await prints(threads))[0]).toEqual(one)
})

describe.each([1, 2])('with %d threads, told to leave off in the middle of a frame', (threads) => {
  const workers: Worker[] = []
  afterEach(async () => {
    await Promise.all(workers.splice(0).map((worker) => worker.terminate()))
  })
  test.each(['contact and a floor', 'a swarm, deaths and births'])('%s', async (name) => {
    const word = new Int32Array(new SharedArrayBuffer(8))
    const memory = createMemory()
    const spawn = (thread: number): void =>
      void workers.push(new Worker(HELPER, { workerData: { memory, thread } }))
    const pool = createPool(memory, threads, spawn, () => Atomics.load(word, 0) === 1)
    // a thread of its own says when: this one is busy
    workers.push(
      new Worker(
        `const { workerData: word } = require('node:worker_threads')
         for (;;) {
           Atomics.wait(word, 1, 0)
           Atomics.store(word, 1, 0)
           Atomics.wait(word, 1, 0, 30)
           Atomics.store(word, 0, 1)
         }`,
        { eval: true, workerData: word },
      ),
    )
    await new Promise((resolve) => setTimeout(resolve, 1500))
    const meshes = new Map([[ASSET, box()]])
    const straight = createSimulation(pool, SHOTS[name]!, meshes)
    for (let n = 0; n < 4; n++) straight.advance()
    const expected = straight.fingerprint()
    straight.dispose()
    const used = pool.heap.used

    const stopped = createSimulation(pool, SHOTS[name]!, meshes)
    Atomics.store(word, 1, 1)
    Atomics.notify(word, 1)
    let whole = true
    for (let n = 0; whole && n < 400; n++) whole = stopped.advance()
    expect(whole).toBe(false)
    stopped.dispose()
    expect(pool.heap.used).toBe(used)
    Atomics.store(word, 0, 0)
    const again = createSimulation(pool, SHOTS[name]!, meshes)
    for (let n = 0; n < 4; n++) expect(again.advance()).toBe(true)
    expect(again.fingerprint()).toBe(expected)
  })
})
