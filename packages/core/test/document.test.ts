import fc from 'fast-check'
import { descriptions, EASES, emptyShot, integralOf, readShot, valueAt, type Key } from '../src/index.ts'
import { burst, shotOf } from './help.ts'

type Loose = Record<string, unknown>
const good = (): Loose =>
  JSON.parse(
    JSON.stringify(
      shotOf({ births: [burst()], influences: [{ id: 'g', kind: 'gravity' }], cues: [cue({})] }),
    ),
  ) as Loose

const cue = (more: Loose): Loose => ({ id: 'c', from: 'Loose', to: 'dies', when: { kind: 'after' }, ...more })
const response = (more: Loose): Loose => ({ to: 'strength', from: 'age', curve: [[0, 1]], ...more })

/** Sets a value deep in a document. */
function put(document: Loose, path: string, value: unknown): Loose {
  const parts = path.split(/[.[\]]+/).filter(Boolean)
  let at = document as Record<string, Loose>
  for (const part of parts.slice(0, -1)) at = at[part] as Record<string, Loose>
  if (value === undefined) delete at[parts.at(-1)!]
  else (at as Loose)[parts.at(-1)!] = value
  return document
}

test.each<[string, unknown, RegExp]>([
  ['frames.last', 0, /before the first/],
  ['frames.rate', '24', /number from 1 to 240/],
  ['name', '', /empty/],
  ['nmae', 'x', /no place for "nmae"/],
  ['meshes[0].source', { asset: 'sha256:12' }, /64 hexadecimal/],
  ['meshes[0].place.scale', [1, 1], /three numbers/],
  [
    'meshes[0].place.position[1]',
    {
      keys: [
        [5, 0],
        [5, 1],
      ],
    },
    /order/,
  ],
  ['populations[0].phases', [], /at least one/],
  ['populations[0].births[0].kind', 'cloud', /one of surface, vertices, volume/],
  ['populations[0].births[0].mesh', 'bell', /no mesh "bell"/],
  ['populations[0].births[0].into', 'Held', /no phase "Held"/],
  ['populations[0].births[0].amount', { burst: -1, at: 1 }, /from 0/],
  ['populations[0].births[0].amount', { rate: 5, at: 1 }, /no place for "at"/],
  ['populations[0].births[0].direction', [0, 0, 0], /not be zero/],
  ['populations[0].births[0].cone', 200, /0 to 180/],
  ['populations[0].births[0].spin', 1, /no place for "spin"/],
  ['quality.level', 'best', /must be one of draft, good, fine, own/],
  ['populations[0].influences[0].strength', { keys: [] }, /at least one key/],
  ['populations[0].influences[0].strength', { keys: [[1, 2, 'bounce']] }, /\[frame, value/],
  ['populations[0].influences[0].weights', { Loose: 'x' }, /number/],
  ['populations[0].influences[0].weights', { Held: 1 }, /no phase "Held"/],
  ['populations[0].particle.radius', 0, /number from/],
  ['populations[0].particle.lifespan', { mean: 3 }, /missing/],
  ['populations[0].look.colour.ramp', 'rainbow', /one of ember/],
  ['populations[0].cues', [{}], /the phase that it leaves/],
  ['populations[0].cues', [cue({ to: 'Gone' })], /no phase "Gone"/],
  ['populations[0].cues', [cue({ to: 'Loose' })], /leads back/],
  ['populations[0].cues', [cue({ chance: 2 })], /from 0 to 1/],
  ['populations[0].cues', [cue({ when: { kind: 'mask', mask: 'dusk' } })], /no mask "dusk"/],
  ['populations[0].cues', [cue({ when: { kind: 'wish' } })], /must be one of mask, after/],
  ['populations[0].cues[0]', cue({ when: { kind: 'after', frames: -1 } }), /from 0/],
  ['populations[0].phases', ['Loose', 'dies'], /what cues lead to/],
  ['populations[0].influences[0].responses', [response({ to: 'direction' })], /takes no responses/],
  ['populations[0].influences[0].responses', [response({ from: 'mood' })], /must be one of age/],
  ['populations[0].influences[0].responses', [response({ from: 'mask' })], /the mask that it reads/],
  ['populations[0].influences[0].responses', [response({ curve: [[1, 0], [0, 1]] })], /order of x/], // prettier-ignore
  ['populations[0].keep', ['mood'], /must be one of phase, velocity/],
  ['populations[0].look.colour.ramp', { stops: [[0, 'red'], [1, '#000000']] }, /rrggbb/], // prettier-ignore
  ['populations[0].births[0].amount', { swept: 100, mask: 'nothing' }, /no mask "nothing"/],
  ['populations[0].births[0].density', 'nothing', /no mask "nothing"/],
  ['masks', null, /must be a list/],
  ['masks', [{ id: 'a', kind: 'cloud' }], /must be one of spread/],
  [
    'masks',
    [{ id: 'a', kind: 'spread', mesh: 'box', from: { cube: 1 } }],
    /one of ball, plane, points, mask/,
  ],
  ['masks', [{ id: 'a', kind: 'spread', mesh: 'box', from: { ball: [0, 1], radius: 1 } }], /three numbers/],
  ['masks', [{ id: 'a', kind: 'spread' }], /is missing/],
  [
    'masks',
    [
      { id: 'a', kind: 'mix', of: 'b' },
      { id: 'b', kind: 'front', of: 'a' },
    ],
    /needs itself/,
  ],
  [
    'masks',
    [{ id: 'a', kind: 'painted', mesh: 'box', strokes: [{ brush: 'spray' }] }],
    /must be one of add, erase, smooth/,
  ],
  [
    'masks',
    [{ id: 'a', kind: 'painted', mesh: 'box', strokes: [{ brush: 'add', radius: 1, strength: 1, points: [[0, 0, 0]], pressures: [1, 0.5] }] }], // prettier-ignore
    /as many pressures as points/,
  ],
  ['meshes[0].deform', [{ id: 'd', kind: 'melt' }], /must be one of ripple/],
  ['meshes[0].eaten', { mask: 'nothing' }, /no mask "nothing"/],
  ['meshes[0].detail', 'fine', /"auto" or a length/],
  ['meshes[0].source', { text: { text: '', size: 1 } }, /must not be empty/],
  ['version', 2, /newer Tangle/],
  ['populations[0].births', [burst(), burst()], /twice/],
])('a document with a wrong %s is refused by its path', (path, value, message) => {
  const { problems } = readShot(put(good(), path, value))
  expect(problems?.map((p) => p.message).join('; ')).toMatch(message)
  const where = path.replace(/(nmae|\.spin)$/, '').replace(/(\.keys.*|\[1\])$/, '')
  expect(problems!.some((p) => p.path.startsWith(where.split(/[.[]/)[0]!))).toBe(true)
})

test.each([null, 3, [], 'shot', {}])('%p is refused without a crash', (json) => {
  expect(readShot(json).problems?.length).toBeGreaterThan(0)
})

test('reading never throws, whatever is put anywhere in a document', () => {
  const paths = [
    'frames',
    'meshes',
    'meshes[0]',
    'populations[0].births[0]',
    'populations[0].influences[0].strength',
    'stage',
    'populations[0].particle.lifespan',
    'quality',
    'masks',
    'meshes[0].deform',
    'meshes[0].eaten',
    'populations[0].cues',
    'populations[0].cues[0].when',
    'populations[0].births[0].amount',
  ]
  fc.assert(
    fc.property(fc.constantFrom(...paths), fc.jsonValue(), (path, value) => {
      const read = readShot(put(good(), path, value))
      expect(read.shot ?? read.problems).toBeDefined()
    }),
    { numRuns: 300, seed: 5 },
  )
})

test('what is left out is filled in, and a complete document comes back identical', () => {
  const shot = shotOf({ births: [burst()] })
  expect(shot.populations[0]!.births[0]).toMatchObject({ aim: 'normal', speed: 0, offset: 0 })
  expect(readShot(JSON.parse(JSON.stringify(shot))).shot).toEqual(shot)
  expect(readShot(emptyShot('New')).shot).toEqual(emptyShot('New'))
})

test('keys: held outside, straight or smooth between, steps where held', () => {
  const keyed = {
    keys: [
      [10, 0, 'smooth'],
      [20, 8, 'hold'],
      [30, 2],
    ] as [number, number][],
  }
  expect([5, 10, 15, 12.5, 20, 29.9, 30, 99].map((f) => valueAt(keyed, f))).toEqual([
    0,
    0,
    4,
    8 * 0.15625,
    8,
    8,
    2,
    2,
  ])
})

test('every parameter of every kind has words, and a default within its range', () => {
  for (const kind of descriptions()) {
    for (const [name, p] of Object.entries(kind.parameters)) {
      expect([kind.kind, name, p.label.length > 0, p.help.length > 0]).toEqual([kind.kind, name, true, true])
      if (p.type === 'number') expect(p.default).toBe(Math.min(Math.max(p.default, p.range[0]), p.range[1]))
    }
  }
})

// Defining formulas of the eases: t, 3t² − 2t³ (Hermite), a step, t², 1 − (1 − t)², and Perlin's
// 6t⁵ − 15t⁴ + 10t³ ("Improving noise", 2002).
test('eases follow their formulas, and integrals of keyed values are exact', () => {
  const formulas: Record<string, (t: number) => number> = {
    linear: (t) => t,
    smooth: (t) => 3 * t ** 2 - 2 * t ** 3,
    hold: () => 0,
    in: (t) => t ** 2,
    out: (t) => 1 - (1 - t) ** 2,
    smoother: (t) => 6 * t ** 5 - 15 * t ** 4 + 10 * t ** 3,
  }
  const areas: Record<string, number> = { linear: 1 / 2, smooth: 1 / 2, hold: 0, in: 1 / 3, out: 2 / 3, smoother: 1 / 2 } // prettier-ignore
  expect(Object.keys(formulas)).toEqual([...EASES])
  for (const ease of EASES) {
    const keyed = { keys: [[10, 2, ease], [20, 5]] as Key[] } // prettier-ignore
    for (let t = 0; t < 1; t += 0.083)
      expect(valueAt(keyed, 10 + 10 * t)).toBeCloseTo(2 + 3 * formulas[ease]!(t), 12)
    // ten frames of 2, then ten frames from 2 to 5, then five of 5
    expect(integralOf(keyed, 0, 25)).toBeCloseTo(20 + 20 + 30 * areas[ease]! + 25, 10)
  }
})

test('more to collide with than can be kept apart is refused, with what mends it', () => {
  const influences = Array.from({ length: 17 }, (_, n) => ({ id: `f${n}`, kind: 'floor' }))
  const read = readShot({
    format: 'tangle-shot',
    version: 1,
    name: 'Walls',
    frames: { first: 1, last: 2, rate: 24 },
    populations: [{ id: 'p', phases: ['Loose'], influences }],
  })
  expect(read.problems).toEqual([
    {
      path: 'populations[0].influences',
      message: 'has 17 meshes and planes to collide with, of at most 16: join meshes to one',
    },
  ])
})
