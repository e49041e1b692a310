/** A shot that is renumbered is the same shot: all that happens in it happens as many frames later, to the bit. */
import { readShot } from '../src/schema/schema.ts'
import { renumbered } from '../src/schema/renumber.ts'
import { acting, ASSET, burst, runTo, shotOf, sphere, start } from './help.ts'
import { SHOTS } from './shots.ts'

const keys = (...all: [number, number][]) => ({ keys: all })
const DOWN = { kind: 'slab', position: [0, keys([1, 1], [20, -1]), 0], direction: [0, -1, 0], soft: 0.1 }
const toB = (when: object) => ({
  phases: ['Loose', 'B'],
  births: [burst({ amount: { burst: 300, at: 3 } })],
  cues: [{ id: 'q', from: 'Loose', to: 'B', when }],
  influences: [acting('gravity', { strength: keys([5, 0], [15, 1]), weights: { B: 1 } })],
})
const fluid = {
  particle: { radius: 0.12, density: 1000 },
  births: [
    { id: 'f', kind: 'fill', mesh: 'box', into: 'Loose', level: 0.6, amount: { burst: 'all', at: 2 } },
  ],
  influences: [acting('gravity'), acting('liquid'), acting('collide', { mesh: 'box', side: 'inside' })],
}

const CASES: [string, object, object?, object?][] = [
  [
    'births between two frames, gusts and noise',
    {
      births: [burst({ amount: { rate: keys([2, 900], [12, 100]), from: 4, to: 12 } })],
      influences: [acting('wind', { gusts: 1, speed: keys([1, 0], [20, 5]) }), acting('turbulence')],
    },
  ],
  ['a cue at a frame, itself keyed', toB({ kind: 'frame', frame: keys([1, 12], [20, 8]), spread: 5 })],
  ['a cue after a time', toB({ kind: 'after', frames: { mean: 8, spread: 4 } })],
  ['a cue by a slab that travels', toB({ kind: 'mask', mask: 'm' }), { masks: [{ id: 'm', ...DOWN }] }],
  [
    'births where a front passes',
    {
      births: [burst({ amount: { swept: 800, mask: 'm', from: 3, to: 18 } })],
      influences: [acting('wander')],
    },
    {
      masks: [
        { id: 'm', kind: 'spread', mesh: 'box', from: { ball: [0, 1, 0], radius: 0.2 }, start: 4, speed: 2 },
      ],
    },
  ],
  [
    'births where noise that changes lets them',
    { births: [burst({ amount: { rate: 400 }, density: 'm' })] },
    { masks: [{ id: 'm', kind: 'noise', scale: 0.5, change: 1 }] },
  ],
  [
    'a mesh that ripples and travels',
    { births: [burst({ inherit: 1, amount: { rate: 400 } })], influences: [acting('gravity')] },
    {},
    { deform: [{ id: 'r', kind: 'ripple' }], place: { position: [0, keys([1, 0], [10, 0.5], [20, 0]), 0] } },
  ],
  [
    'by the clock',
    {
      births: [burst({})],
      influences: [
        acting('wind', { responses: [{ to: 'strength', from: 'clock', curve: [[0, 0], [12, 3]] }] }), // prettier-ignore
      ],
    },
  ],
  ['a liquid', fluid],
]

test.each(CASES)('%s', (_, population, rest = {}, mesh = {}) => {
  const shot = shotOf(population as Record<string, unknown>, {
    frames: { first: 1, last: 60, rate: 24 },
    meshes: [{ id: 'box', source: { asset: ASSET }, ...mesh }],
    ...rest,
  })
  const plain = runTo(start(shot, sphere(8)), 20)
  const { count } = plain.populations()[0]!
  expect(count).toBeGreaterThan(20)
  for (const by of [1000, -73]) {
    const later = renumbered(shot, by)
    expect(later.frames).toEqual({ first: 1 + by, last: 60 + by, rate: 24 })
    const run = runTo(start(later, sphere(8)), 20 + by)
    expect(run.populations()[0]!.count).toBe(count)
    for (const name of ['position', 'velocity', 'phase'] as const)
      expect([...run.populations()[0]!.columns[name]!]).toEqual([...plain.populations()[0]!.columns[name]!])
  }
})

test.each(Object.keys(SHOTS))(
  '%s: there and back is the same document, and on the way it is sound',
  (name) => {
    const shot = SHOTS[name]!()
    const there = renumbered(shot, 1000)
    expect(readShot(JSON.parse(JSON.stringify(there))).problems).toBeUndefined()
    expect(renumbered(there, -1000)).toEqual(shot)
  },
)
