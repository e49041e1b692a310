import { changeBetween, type Shot } from '../src/index.ts'
import { acting, burst, runTo, shotOf, start } from './help.ts'

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
  return { firstFrame: changeBetween(shot, after).firstFrame, after }
}
const dust = (s: Shot) => s.populations[0]!

test.each<[string, (s: Shot) => void, number | null]>([
  ['a colour', (s) => (dust(s).look.colour.ramp = 'snow'), null],
  ['the camera', (s) => (s.stage.camera.target[0] = 3), null],
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
