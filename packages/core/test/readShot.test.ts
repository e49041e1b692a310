/** readShot never throws, whatever it is given: it says what is wrong, or gives a shot. */
import { readShot, type Shot } from '../src/index.ts'
import { randoms } from '../src/math/random.ts'
import { allNamesOf, everything, INFLUENCE_SHOTS, SHOTS } from './shots.ts'

/** Changes to try; more of them, and other ones, with TANGLE_CHANGES and TANGLE_SEED. */
const CHANGES = Number(process.env.TANGLE_CHANGES ?? 700)
const SEED = Number(process.env.TANGLE_SEED ?? 11)

/** What stands where something else should. Made anew each time: what is given may be changed. */
const ODDITIES: (() => unknown)[] = [
  () => null, () => undefined, () => NaN, () => Infinity, () => -1, () => 0.5, () => 1e308, () => 5e-324, () => 9007199254740991,
  () => '', () => 'x', () => 'gravity', () => '__proto__', () => 'constructor', () => true, () => [], () => [null], () => [[null]], () => [undefined, 1],
  () => ({}), () => ({ keys: [null] }), () => ({ keys: [] }), () => ({ keys: [[1]] }), () => ({ keys: [[1, null]] }), () => ({ keys: [[1, {}, []], null] }),
  () => ({ keys: 'abc' }), () => ({ length: 1e9 }), () => ({ mean: null, spread: [] }), () => ({ asset: null }), () => ({ stops: [null, 1] }),
  () => [1, 2, 3], () => new Array(3), () => ({ x: [null, 2], toString: null }),
] // prettier-ignore

type Node = Record<string, unknown>
function placesIn(value: unknown, at: string[] = [], out: string[][] = []): string[][] {
  if (typeof value !== 'object' || value === null) return out
  for (const [key, one] of Object.entries(value)) {
    out.push([...at, key])
    placesIn(one, [...at, key], out)
  }
  return out
}

const shots: Shot[] = [
  ...Object.values(SHOTS).map((shot) => shot()),
  ...INFLUENCE_SHOTS.map(({ shot }) => shot()),
]
const places = shots.map((shot) => placesIn(shot))

// nobody reads where each of the many errors was made: without it they are made in a third of the time
const { stackTraceLimit } = Error
beforeAll(() => void (Error.stackTraceLimit = 0))
afterAll(() => void (Error.stackTraceLimit = stackTraceLimit))

test(`${CHANGES} changed shots: each is read or refused with a path and a sentence`, () => {
  let [read, refused] = [0, 0]
  for (let n = 0; n < CHANGES; n++) {
    const [which, many] = randoms(SEED, n, 1)
    const k = Math.floor(which * shots.length)
    const shot = structuredClone(shots[k]) as unknown as Node
    for (let turn = 0; turn <= many * 2; turn++) {
      const [where, how, what] = randoms(SEED, n, 2 + turn)
      change(
        shot,
        places[k]![Math.floor(where * places[k]!.length)]!,
        how,
        ODDITIES[Math.floor(what * ODDITIES.length)]!(),
      )
    }
    const result = readShot(shot)
    if (result.problems) {
      refused++
      expect(result.problems.length).toBeGreaterThan(0)
      for (const { message } of result.problems) expect(message).toMatch(/\S/)
    } else read++
  }
  expect(read).toBeGreaterThan(CHANGES / 100)
  expect(refused).toBeGreaterThan(CHANGES / 2)
})

function change(shot: Node, path: string[], how: number, odd: unknown): void {
  let holder: unknown = shot
  for (const key of path.slice(0, -1)) {
    if (typeof holder !== 'object' || holder === null) return
    holder = (holder as Node)[key]
  }
  if (typeof holder !== 'object' || holder === null) return
  const last = path.at(-1)!
  if (how < 0.15) delete (holder as Node)[last]
  else if (how < 0.3 && Array.isArray(holder)) holder.splice(Number(last), 0, odd)
  else (holder as Node)[last] = odd
}

test('what is no shot at all, a hole in a list and a nest are refused', () => {
  const nest = JSON.parse(
    `{"format":"tangle-shot","version":1,"x":${'['.repeat(5000)}${']'.repeat(5000)}}`,
  ) as unknown
  expect(readShot(nest).problems![0]!.message).toMatch(/nested/)
  for (const one of [null, undefined, 3, 'x', [], [{}]])
    expect(readShot(one).problems![0]!.message).toMatch(/JSON object/)
  const shot = everything([]) as unknown as { populations: unknown[] }
  const holed = { ...shot, populations: new Array(2) }
  expect(readShot(holed).problems!.map(({ path }) => path)).toContain('populations[0]')
  expect(allNamesOf({})).toEqual({})
})
