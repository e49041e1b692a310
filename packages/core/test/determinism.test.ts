import fc from 'fast-check'
import { completeCamera, firstChangedFrame, type Keyed, type Shot } from '../src/index.ts'
import { acting, ASSET, box, burst, runTo, shotOf, start } from './help.ts'
import { much } from './wide.ts'

const shot = shotOf({
  particle: { radius: { mean: 0.01, spread: 0.4 }, lifespan: { mean: 20, spread: 15 } },
  births: [
    burst({ amount: { rate: 3000 }, speed: 1, cone: 30 }),
    burst({ id: 'late', kind: 'volume', amount: { burst: 500, at: 20 } }),
  ],
  influences: [
    acting('gravity'),
    acting('wind', { gusts: 1 }),
    acting('turbulence', { octaves: 3 }),
    acting('airDrag'),
  ],
  look: { colour: { from: 'travelled', range: [0, 1], ramp: 'ember' } },
})

test('the same shot gives the same bytes, straight through or from a snapshot in the middle', () => {
  const straight = runTo(start(shot), 40)
  const halfway = runTo(start(shot), 17)
  const saved = halfway.snapshot()
  const other = start(shot)
  runTo(other, 30)
  other.restore(saved)
  expect(other.fingerprint()).toBe(halfway.fingerprint())
  expect(runTo(other, 40).fingerprint()).toBe(straight.fingerprint())
  expect(straight.fingerprint()).toMatch(/^[0-9a-f]{16}$/)
})

test('a swarm with goals, too, goes on from a snapshot as if it had not been cut', () => {
  const swarm = shotOf(
    {
      births: [
        burst({ amount: { rate: 600, cap: 400 }, speed: 0.3 }),
        burst({ id: 'even', scatter: 'even', amount: { burst: 100, at: 4 } }),
      ],
      goals: [{ id: 'top', kind: 'surface', mesh: 'box', pairing: 'least', height: 0.2 }],
      influences: [
        acting('flock', { separationRadius: 0.1, radius: 0.3 }),
        acting('avoid', { mesh: 'box' }),
        acting('mutual', { far: 0.2, near: 0.1 }),
        acting('wander'),
        acting('arrive', { goal: 'top' }),
        acting('settle', { goal: 'top', within: 0.1 }),
      ],
    },
    { masks: [] },
  )
  const straight = runTo(start(swarm, box()), 24)
  const other = start(swarm, box())
  const saved = runTo(start(swarm, box()), 11).snapshot()
  other.restore(saved)
  expect(runTo(other, 24).fingerprint()).toBe(straight.fingerprint())
  expect(straight.measures().populations[0]!.goals[0]!.paired).toBeGreaterThan(400)
})

test('another seed, or one particle moved by one bit, is another fingerprint', () => {
  const a = runTo(start(shot), 5)
  expect(runTo(start({ ...shot, seed: 4 }), 5).fingerprint()).not.toBe(a.fingerprint())
  const before = a.fingerprint()
  const position = a.populations()[0]!.columns.position!
  position[10] = position[10]! * (1 + 2 ** -22)
  expect(a.fingerprint()).not.toBe(before)
})

/** The change that an edit makes; computing on from just before it must equal computing anew. */
function edit(change: (shot: Shot) => void): { firstFrame: number | null; after: Shot } {
  const after = structuredClone(shot)
  change(after)
  return { firstFrame: firstChangedFrame(shot, after), after }
}
const dust = (s: Shot) => s.populations[0]!

test.each<[string, (s: Shot) => void, number | null]>([
  ['a colour', (s) => (dust(s).look.colour.ramp = 'snow'), null],
  ['the camera', (s) => (s.stage.camera.target[0] = 3), null],
  ['a camera that comes', (s) => s.cameras.push(completeCamera({ id: 'one' })), null],
  ['light and exposure', (s) => Object.assign(s.stage, { light: { ...s.stage.light, shade: 0 }, picture: { exposure: 2, tone: 'film' } }), null], // prettier-ignore
  ['what a mesh is made of', (s) => (s.meshes[0]!.look.metalness = 1), null],
  ['the name of an influence', (s) => (dust(s).influences[0]!.name = 'Pull'), 1],
  ['a strength', (s) => (dust(s).influences[0]!.strength = 0.2), 1],
  [
    'a strength keyed to differ from frame 30',
    (s) =>
      (dust(s).influences[0]!.strength = {
        keys: [
          [30, 1],
          [36, 0],
        ],
      }),
    30,
  ],
  ['the late burst', (s) => (dust(s).births[1]!.speed = 2), 20],
  ['the radius', (s) => (dust(s).particle.radius = 0.1), 1],
])(
  'after changing %s, the frames before are kept and the rest comes out as if anew',
  (_, change, expected) => {
    const { firstFrame, after } = edit(change)
    if (expected === null) {
      expect(firstFrame).toBeNull()
      return
    }
    if (firstFrame === null) {
      expect(runTo(start(after), 12).fingerprint()).toBe(runTo(start(shot), 12).fingerprint())
      return
    }
    expect(firstFrame).toBe(expected)
    const snapshot = runTo(start(shot), Math.max(1, firstFrame - 1)).snapshot()
    const resumed = start(after)
    if (firstFrame > 1) resumed.restore(snapshot)
    expect(runTo(resumed, 38).fingerprint()).toBe(runTo(start(after), 38).fingerprint())
  },
)

const LAST = 24
const frame = fc.integer({ min: 1, max: LAST })
const keyed: fc.Arbitrary<Keyed> = fc.oneof(
  fc.double({ min: 0, max: 3, noNaN: true }),
  fc
    .uniqueArray(fc.tuple(frame, fc.constantFrom(0, 0.5, 2), fc.constantFrom('linear', 'smooth', 'hold')), {
      minLength: 1,
      maxLength: 4,
      selector: ([at]) => at,
    })
    .map((keys) => ({ keys: keys.sort((a, b) => a[0] - b[0]) as never })),
)

/** Any edit that an artist may make while frames are kept. */
const anyEdit: fc.Arbitrary<(s: Shot) => void> = fc.oneof(
  fc.tuple(fc.nat(3), keyed).map(
    ([i, value]) =>
      (s: Shot) =>
        void (dust(s).influences[i]!.strength = value),
  ),
  fc.tuple(fc.nat(3), fc.constantFrom(0, 0.3, 1)).map(
    ([i, w]) =>
      (s: Shot) =>
        void (dust(s).influences[i]!.weights = { Loose: w }),
  ),
  fc.nat(3).map((i) => (s: Shot) => void (dust(s).influences[i]!.muted = true)),
  fc.nat(3).map((i) => (s: Shot) => void dust(s).influences.splice(i, 1)),
  fc.constant((s: Shot) => void dust(s).influences.reverse()),
  fc.tuple(fc.nat(1), keyed).map(
    ([i, speed]) =>
      (s: Shot) =>
        void (dust(s).births[i]!.speed = speed),
  ),
  fc.tuple(fc.nat(1), frame).map(
    ([i, at]) =>
      (s: Shot) =>
        void (dust(s).births[i]!.amount = { burst: 90, at }),
  ),
  fc.tuple(fc.nat(1), frame, keyed).map(
    ([i, from, rate]) =>
      (s: Shot) =>
        void (dust(s).births[i]!.amount = { rate, from }),
  ),
  fc.nat(1).map((i) => (s: Shot) => void dust(s).births.splice(i, 1)),
  fc.tuple(fc.nat(2), keyed).map(
    ([axis, value]) =>
      (s: Shot) =>
        void (s.meshes[0]!.place.position[axis] = value),
  ),
  // later keys of what is keyed
  fc.tuple(fc.constantFrom('position', 'rotation'), fc.nat(2), fc.nat(3), keyed).map(
    ([part, axis, at, value]) =>
      (s: Shot) =>
        void rekey(s.meshes[0]!.place[part as 'position'], axis, at, value),
  ),
  fc.tuple(fc.nat(3), keyed).map(
    ([at, value]) =>
      (s: Shot) =>
        void rekey(s.masks[0]!.position as Keyed[], 1, at, value),
  ),
)
/** Changes one key of a value, or takes it away. */
function rekey(values: Keyed[], axis: number, at: number, other: Keyed): void {
  const value = values[axis]!
  if (typeof value === 'number') return
  const k = at % value.keys.length
  if (typeof other === 'number') value.keys[k]![1] = other
  else if (k % 2 === 0) value.keys[k]![2] = 'smooth'
  else value.keys.splice(k, 1)
}

/** There, and back again. */
const keysAt = (low: number, high: number): Keyed => ({ keys: [[1, low], [6, high, 'hold'], [12, low], [18, high]] }) // prettier-ignore

test.each<[string, (s: Shot) => void, number]>([
  ['its last key is moved', (s) => (keysOf(s)[3]![1] = 9), 12],
  ['a key after a held one', (s) => (keysOf(s)[2]![1] = 9), 12],
  ['a key after a held one comes earlier', (s) => (keysOf(s)[2]![0] = 9), 9],
  ['its second key', (s) => (keysOf(s)[1]![1] = 9), 1],
  ['the way out of a key', (s) => (keysOf(s)[2]![2] = 'smooth'), 12],
  ['a key is added at the end', (s) => void keysOf(s).push([22, 3]), 18],
  [
    'the mask, too',
    (s) =>
      (s.masks[0]!.position = [
        0,
        {
          keys: [
            [1, 0],
            [4, 0],
            [15, 2],
          ],
        },
        0,
      ]),
    4,
  ],
])('of a mesh that is keyed %s: what came before is kept', (_what, change, expected) => {
  const before = shotOf(
    { births: [burst()] },
    {
      frames: { first: 1, last: LAST, rate: 24 },
      masks: [{ id: 'm', kind: 'slab', position: [0, { keys: [[1, 0], [4, 0], [15, 1]] }, 0], direction: [0, 1, 0] }], // prettier-ignore
      meshes: [{ id: 'box', source: { asset: ASSET }, place: { position: [keysAt(0, 0.3), 0, 0] } }],
    },
  )
  const after = structuredClone(before)
  change(after)
  expect(firstChangedFrame(before, after)).toBe(expected)
})
const keysOf = (s: Shot) => (s.meshes[0]!.place.position[0] as Exclude<Keyed, number>).keys

test('whatever edits are made, going on from the last kept frame equals computing anew', () => {
  const before = shotOf(
    {
      births: [
        burst({ amount: { rate: 900, from: 4 }, speed: 1 }),
        burst({ id: 'late', amount: { burst: 50, at: 15 } }),
      ],
      influences: [
        acting('gravity'),
        acting('wind', { responses: [{ to: 'strength', from: 'mask', mask: 'm', curve: [[0, 0], [1, 1]] }] }), // prettier-ignore
        acting('turbulence'),
        acting('drag'),
        acting('collide', { mesh: 'box', side: 'either' }),
      ],
    },
    {
      frames: { first: 1, last: LAST, rate: 24 },
      masks: [{ id: 'm', kind: 'slab', position: [0, keysAt(0.2, 0.5), 0], direction: [0, 1, 0], soft: 0.4 }],
      meshes: [
        {
          id: 'box',
          source: { asset: ASSET },
          place: { position: [keysAt(0, 0.3), 0, 0], rotation: [0, 0, keysAt(0, 30)] },
        },
      ],
    },
  )
  fc.assert(
    fc.property(fc.array(anyEdit, { minLength: 1, maxLength: 2 }), (edits) => {
      const after = structuredClone(before)
      for (const change of edits) {
        // the second edit may find that the first has taken its place away
        try {
          change(after)
        } catch {
          continue
        }
      }
      const kept = (firstChangedFrame(before, after) ?? LAST + 1) - 1
      const resumed = start(after)
      if (kept > 1) resumed.restore(runTo(start(before), kept).snapshot())
      expect(runTo(resumed, LAST).fingerprint()).toBe(runTo(start(after), LAST).fingerprint())
    }),
    { numRuns: much(40, 120), seed: 12 },
  )
})
