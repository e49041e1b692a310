import fc from 'fast-check'
import { descriptions, emptyShot, readShot, valueAt } from '../src/index.ts'
import { burst, shotOf } from './help.ts'

type Loose = Record<string, unknown>
const good = (): Loose =>
  JSON.parse(
    JSON.stringify(shotOf({ births: [burst()], influences: [{ id: 'g', kind: 'gravity' }] })),
  ) as Loose

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
  ['populations[0].influences[0].strength', { keys: [] }, /at least one key/],
  ['populations[0].influences[0].strength', { keys: [[1, 2, 'bounce']] }, /\[frame, value/],
  ['populations[0].influences[0].weights', { Loose: 'x' }, /number/],
  ['populations[0].influences[0].weights', { Held: 1 }, /no phase "Held"/],
  ['populations[0].particle.radius', 0, /number from/],
  ['populations[0].particle.lifespan', { mean: 3 }, /missing/],
  ['populations[0].look.colour.ramp', 'rainbow', /one of ember/],
  ['populations[0].cues', [{}], /no cues yet/],
  ['version', 2, /newer Tangle/],
  ['populations[0].births', [burst(), burst()], /twice/],
])('a document with a wrong %s is refused by its path', (path, value, message) => {
  const { problems } = readShot(put(good(), path, value))
  expect(problems?.map((p) => p.message).join('; ')).toMatch(message)
  const where = path.replace(/(nmae|\.spin)$/, '').replace(/(\.keys.*|\[1\])$/, '')
  expect(problems![0]!.path.startsWith(where.split('.')[0]!)).toBe(true)
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
