/** Stopped at any frame and gone on from a snapshot, everything is as if nothing had been: state, links, covers, events. */
import { createMachine } from '@tangle/kernels'
import { createSimulation, rowsOf, type Mesh, type Shot, type Simulation } from '../src/index.ts'
import { ASSET, acting, box, burst, shotOf } from './help.ts'

const both = { Held: 1, Loose: 1 }
const keys = (...values: number[][]) => ({ keys: values })

/** What a simulation says of itself, apart from the time it took. */
const said = (simulation: Simulation): unknown => {
  const { milliseconds: _, ...measures } = simulation.measures()
  return [
    simulation.fingerprint(),
    measures,
    simulation.events().map(rowsOf),
    simulation.meshes().map(({ id, positions }) => [id, Array.from(positions.subarray(0, 30))]),
  ]
}
const open = (shot: Shot, mesh: Mesh): Simulation =>
  createSimulation(createMachine(), shot, new Map([[ASSET, mesh]]))

const SHOTS: Record<string, () => Shot> = {
  'births by rate, deaths by age, size and cue': () =>
    shotOf({
      phases: ['Loose', 'Late'],
      particle: { radius: { mean: 0.03, spread: 0.5 }, lifespan: { mean: 9, spread: 6 } },
      births: [burst({ amount: { rate: 900 } })],
      cues: [
        {
          id: 'c',
          from: 'Loose',
          to: 'dies',
          when: { kind: 'after', frames: { mean: 6, spread: 3 } },
          chance: 0.4,
        },
      ],
      influences: [acting('turbulence', { strength: 8, scale: 0.7 }), acting('spin', {})],
    }),
  'links that stretch, creep, break and are cut, while some die': () =>
    shotOf(
      {
        phases: ['Held', 'Loose'],
        particle: { radius: { mean: 0.06, spread: 0.2 }, density: 1000, lifespan: { mean: 22, spread: 14 } },
        births: [burst({ kind: 'volume', fill: 'grid', spacing: 0.13, amount: { burst: 'all', at: 1 } })],
        influences: [
          acting('gravity'),
          acting('selfCollision'),
          acting('link', { to: 'grid', stiffness: 0.7, breaks: 0.06, creep: 0.3 }),
          acting('floor', { height: -0.8 }),
        ],
      },
      { quality: { substeps: 3, iterations: 3 } },
    ),
  'a heap that goes to sleep on a slope, sorted by the slope it lies on': () =>
    shotOf(
      {
        births: [
          burst({ amount: { rate: 1500, to: 20 }, kind: 'region', size: [1, 0.4, 1], middle: [0, 0.5, 0] }),
        ],
        particle: { radius: { mean: 0.04, spread: 0.3 } },
        influences: [
          acting('gravity'),
          acting('selfCollision'),
          acting('collide', { mesh: 'box', friction: 0.4 }),
          acting('wind', {
            speed: 2,
            responses: [
              {
                to: 'strength',
                from: 'slope',
                curve: [
                  [0, 1],
                  [60, 0],
                ],
              },
            ],
          }),
          acting('sleep', { speed: 0.2, wait: 0.1 }),
        ],
      },
      {
        quality: { substeps: 2, iterations: 4 },
        meshes: [
          {
            id: 'box',
            source: { asset: ASSET },
            place: { position: [0, -1, 0], rotation: [0, 0, keys([1, 10], [40, 35])], scale: [4, 0.5, 4] },
          },
        ],
      },
    ),
  'flakes that gather to a cover': () =>
    shotOf({
      births: [burst({ kind: 'region', size: [1, 0.3, 1], middle: [0, 1, 0], amount: { rate: 2000 } })],
      particle: { radius: 0.03 },
      influences: [
        acting('gravity'),
        acting('collide', { mesh: 'box' }),
        acting('cover', { mesh: 'box', detail: 0.1 }),
      ],
    }),
  'a swarm that wants to go somewhere, on phases that change': () =>
    shotOf({
      phases: ['Held', 'Loose'],
      births: [burst({ into: 'Held', amount: { burst: 400, at: 1 } })],
      cues: [{ id: 'c', from: 'Held', to: 'Loose', when: { kind: 'after', frames: { mean: 8, spread: 6 } } }],
      goals: [{ id: 'g', kind: 'surface', mesh: 'box' }],
      influences: [
        acting('ride', { weights: { Held: 1 } }),
        acting('arrive', { goal: 'g' }),
        acting('flock', { weights: both }),
        acting('mutual', { weights: both, near: 0.02, far: 0.2 }),
      ],
    }),
}

describe.each(Object.keys(SHOTS))('%s', (name) => {
  const shot = SHOTS[name]!()
  test.each([2, 7, 13])('from frame %p', (frame) => {
    const straight = open(shot, box())
    while (straight.frame < frame) straight.advance()
    const snapshot = straight.snapshot()
    const before = said(straight)
    const resumed = open(shot, box())
    resumed.restore(snapshot)
    expect(said(resumed)).toEqual(before)
    for (let n = 0; n < 9; n++) {
      straight.advance()
      resumed.advance()
      expect(said(resumed)).toEqual(said(straight))
    }
    // what was computed on has not changed the snapshot: a third goes the same way
    const third = open(shot, box())
    third.restore(snapshot)
    expect(said(third)).toEqual(before)
    for (let n = 0; n < 9; n++) third.advance()
    expect(third.fingerprint()).toBe(straight.fingerprint())
  })
})
