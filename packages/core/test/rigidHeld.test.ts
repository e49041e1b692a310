/** Pieces that are all held ask nothing of the engine, and those that are let go then know nothing of what they missed. */
import { createMachine } from '@tangle/kernels'
import { createSimulation, type Simulation, type Vector } from '../src/index.ts'
import { WORLDS } from '../src/constraints/rigidKind.ts'
import { ASSET, asset, box } from './help.ts'
import { blocks, body, bonded, bondedShot } from './bondHelp.ts'
import { brokenShot, meshesOf, simulate } from './rigidHelp.ts'

const SLAB = asset(7)
/** Free, held for a day's worth of passing things, free again. */
const cues = [
  { id: 'a', from: 'Free', to: 'Held', when: { kind: 'after', frames: 6 } },
  { id: 'b', from: 'Held', to: 'Late', when: { kind: 'after', frames: 24 } },
]
const phases = ['Held', 'Free', 'Late', 'Away']
const loose = { Free: 1, Late: 1 }
const place = (simulation: Simulation): Vector => [...simulation.populations()[0]!.columns.position!.slice(0, 3)] as Vector // prettier-ignore
const run = (simulation: Simulation, frames: number): void => {
  for (let n = 0; n < frames; n++) simulation.advance()
}

/** A block on a slab that moves on by 20 sizes while it is held, and another that rides past it then. */
async function passed(size: number, substeps: number) {
  const way = (from: number, to: number) => ({ keys: [[8, from * size], [28, to * size]] }) // prettier-ignore
  const shot = brokenShot(
    { pieces: 1 },
    {
      phases,
      cues,
      births: [
        { id: 'b', kind: 'pieces', mesh: 'broken', into: 'Free', amount: { burst: 'all', at: 1 } },
        { id: 'c', kind: 'pieces', mesh: 'brokenToo', into: 'Away', amount: { burst: 'all', at: 1 } },
      ],
      influences: [
        { id: 'g', kind: 'gravity', weights: loose, strength: size / 0.1 },
        { id: 'ride', kind: 'ride', weights: { Held: 1, Away: 1 } },
        body({ weights: loose }),
        { id: 'c', kind: 'collide', mesh: 'slab', weights: loose, friction: 0.6, bounce: 0 },
      ],
    },
    {
      frames: { first: 1, last: 60, rate: 24 },
      quality: { substeps, iterations: 4 },
      meshes: [
        { id: 'slab', source: { asset: SLAB }, place: { position: [way(-10, 10), -size, 0] } },
        { id: 'boxToo', source: { asset: ASSET }, place: { position: [way(-8, 8), size * 0.52, 0] } },
        { id: 'brokenToo', source: { fracture: { mesh: 'boxToo', pieces: 1 } } },
      ],
    },
    { position: [0, size * 0.51, 0] },
  )
  const meshes = await meshesOf(shot, box(size, size, size), { [SLAB]: box(60 * size, 2 * size, 60 * size) })
  return { shot, meshes, simulation: await simulate(shot, meshes) }
}

test.each([[0.1, 4], [4, 2], [0.01, 8]])('a block of %d m that is let go again at %d substeps lies where it is', async (size, substeps) => {
  const { simulation } = await passed(size, substeps)
  run(simulation, 34)
  const from = place(simulation)
  run(simulation, 20)
  const to = place(simulation)
  expect(Math.hypot(...to.map((x, k) => x - from[k]!))).toBeLessThan(0.02 * size)
  expect(Math.abs(to[0])).toBeLessThan(0.02 * size)
}) // prettier-ignore

test.each([4, 12, 29, 31])('it goes on to the bit from a snapshot at frame %d', async (frame) => {
  const { shot, meshes, simulation } = await passed(0.1, 4)
  run(simulation, frame)
  const again = createSimulation(createMachine(), shot, meshes, { from: structuredClone(simulation.snapshot()) }) // prettier-ignore
  for (const one of [simulation, again]) run(one, 40 - frame)
  expect(again.fingerprint()).toBe(simulation.fingerprint())
})

test('bonds of pieces that are held, from the first frame on or again, are measured', async () => {
  const shot = brokenShot(
    { pieces: 6 },
    {
      phases,
      births: [{ id: 'b', kind: 'pieces', mesh: 'broken', into: 'Held', amount: { burst: 'all', at: 1 } }],
      cues: [
        { id: 'a', from: 'Held', to: 'Late', when: { kind: 'after', frames: 6 } },
        { id: 'b', from: 'Late', to: 'Away', when: { kind: 'after', frames: 6 } },
      ],
      influences: [{ id: 'ride', kind: 'ride', weights: { Held: 1 } }, body({ weights: loose }), bonded({ weights: { Held: 1, Late: 1, Away: 1 } })],
    },
  ) // prettier-ignore
  const simulation = await simulate(shot, await meshesOf(shot))
  const bonds = () => simulation.measures().populations[0]!.bonds!
  const seen: number[] = []
  for (let frame = 2; frame <= 24; frame++) {
    simulation.advance()
    expect(bonds()).toMatchObject({ broken: 0, whole: bonds().made })
    seen.push(bonds().bodies)
  }
  // each by itself, one body, each by itself
  expect([seen[2], seen[8], seen[20]]).toEqual([6, 1, 6])
})

test('while nobody was ever free there is no world of the engine', async () => {
  const shot = brokenShot({ pieces: 4 }, { births: [{ id: 'b', kind: 'pieces', mesh: 'broken', into: 'Held', amount: { burst: 'all', at: 1 } }], influences: [{ id: 'ride', kind: 'ride', weights: { Held: 1 } }, body()] }) // prettier-ignore
  const simulation = await simulate(shot, await meshesOf(shot))
  run(simulation, 6)
  expect(WORLDS.get(simulation.world.memory)).toBeUndefined()
})

test.each([2, 3, 7])('bonds of held pieces are cut in whichever of the %d substeps a blade passes', async (substeps) => {
  const bar = blocks([6, 1, 1], [0.6, 0.1, 0.1])
  const held = { births: [{ id: 'b', kind: 'pieces', mesh: 'box', into: 'Held', amount: { burst: 'all', at: 1 } }] } // prettier-ignore
  const fall = { keys: [[2, 0.21], [3, -0.6]] } // prettier-ignore
  const blade = { id: 'blade', source: { asset: SLAB }, place: { position: [0.001, fall, 0] } }
  const shot = bondedShot([body(), bonded({ cut: 'blade' })], { meshes: [blade], quality: { substeps, iterations: 4 } }, {}, held) // prettier-ignore
  const simulation = await simulate(shot, new Map([[ASSET, bar], [SLAB, box(0.002, 0.4, 0.4)]])) // prettier-ignore
  let broken = 0
  for (let n = 0; n < 4; n++) {
    simulation.advance()
    broken += simulation.events()[0]!.counts.break ?? 0
  }
  expect(broken).toBe(1)
}) // prettier-ignore
