/** Goals: who goes where, and how they get there. */
import fc from 'fast-check'
import { exactPairing } from '../src/pairing/exact.ts'
import { pairUp, NO_PLACE, type PairingTask } from '../src/pairing/index.ts'
import { leastTravel } from '../src/pairing/least.ts'
import { random } from '../src/math/random.ts'
import { readShot, weld, type Mesh, type Shot } from '../src/index.ts'
import { ASSET, acting, box, burst, column, runTo, shotOf, start } from './help.ts'

type Loose = Record<string, unknown>
const OTHER = `sha256:${'1'.repeat(64)}`

const points = (...all: number[][]): Mesh => ({
  positions: Float32Array.from(all.flat()),
  triangles: new Uint32Array(0),
})
const task = (seekers: Float32Array, places: Float32Array, more: Partial<PairingTask> = {}): PairingTask => ({
  seekers,
  places,
  ids: Uint32Array.from({ length: seekers.length / 3 }, (_, i) => i),
  seed: 5,
  direction: [0, 1, 0],
  share: true,
  ...more,
})
/** `count` points even in a square of side 1, moved along x. */
const square = (count: number, seed: number, x = 0): Float32Array =>
  Float32Array.from({ length: count * 3 }, (_, k) =>
    k % 3 === 1 ? 0 : random(seed, k, 1) + (k % 3 === 0 ? x : 0),
  )
function travel(from: Float32Array, to: Float32Array, place: Uint32Array): { squares: number; mean: number } {
  let [squares, sum] = [0, 0]
  place.forEach((p, i) => {
    const squared = [0, 1, 2].reduce((s, axis) => s + (from[i * 3 + axis]! - to[p * 3 + axis]!) ** 2, 0)
    squares += squared
    sum += Math.sqrt(squared)
  })
  return { squares, mean: sum / place.length }
}

describe('pairing', () => {
  const sets = fc
    .integer({ min: 1, max: 6 })
    .chain((n) =>
      fc.tuple(
        ...[0, 1].map(() =>
          fc.array(fc.double({ min: -5, max: 5, noNaN: true }), { minLength: 3 * n, maxLength: 3 * n }),
        ),
      ),
    )

  test('the exact one has the least sum of squares of all permutations', () => {
    const permutations = (all: number[]): number[][] =>
      all.length < 2
        ? [all]
        : all.flatMap((one) => permutations(all.filter((x) => x !== one)).map((rest) => [one, ...rest]))
    fc.assert(
      fc.property(sets, ([a, b]) => {
        const [from, to] = [Float32Array.from(a!), Float32Array.from(b!)]
        const order = [...Array(from.length / 3).keys()]
        const least = Math.min(
          ...permutations(order).map((p) => travel(from, to, Uint32Array.from(p)).squares),
        )
        expect(travel(from, to, exactPairing(from, to)).squares).toBeCloseTo(least, 6)
      }),
      { numRuns: 60 },
    )
  })

  test('least travel stays within 5 % of the least for two uniform squares, each place taken once', () => {
    const [from, to] = [square(700, 1), square(700, 2)]
    const found = leastTravel(from, to, 3)
    expect(new Set(found).size).toBe(700)
    const least = travel(from, to, exactPairing(from, to))
    expect(travel(from, to, found).mean / least.mean).toBeLessThan(1.05)
    // squares that lie apart: nobody can travel less, on average, than they do
    const away = square(20_000, 4, 1.5)
    const many = square(20_000, 5)
    expect(travel(many, away, leastTravel(many, away, 3)).mean / 1.5).toBeLessThan(1.05)
  })

  test('in order: ranks along the direction meet; at random: every place is taken, whatever the order given', () => {
    const [from, to] = [square(50, 1), square(50, 2)]
    const byX = pairUp('order', task(from, to, { direction: [1, 0, 0] }))
    const rank = (set: Float32Array, i: number): number =>
      [...Array(50).keys()].filter((k) => set[k * 3]! < set[i * 3]!).length
    byX.forEach((p, i) => expect(rank(to, p)).toBe(rank(from, i)))
    const some = pairUp('random', task(from, to))
    expect(new Set(some).size).toBe(50)
    expect([...some]).not.toEqual([...some.keys()])
  })

  test('too few places are shared evenly, or some go without; too many leave some empty', () => {
    for (const pairing of ['random', 'order', 'least'] as const) {
      const few = square(10, 2)
      const counts = new Array<number>(10).fill(0)
      pairUp(pairing, task(square(30, 1), few)).forEach((p) => counts[p]!++)
      expect(counts).toEqual(new Array(10).fill(3))
      const without = pairUp(pairing, task(square(30, 1), few, { share: false }))
      expect(without.filter((p) => p === NO_PLACE)).toHaveLength(20)
      expect(new Set(without).size).toBe(11)
      expect(new Set(pairUp(pairing, task(few, square(30, 1)))).size).toBe(10)
    }
  })
})

/** Particles at rest at given points, with goals on other points. */
function toPoints(
  from: number[][],
  to: number[][],
  influences: Loose[],
  more: Loose = {},
  rest: Loose = {},
): { shot: Shot; meshes: Map<string, Mesh> } {
  const shot = shotOf(
    {
      births: [burst({ kind: 'vertices', amount: { burst: 'all', at: 1 } })],
      goals: [{ id: 'g', kind: 'vertices', mesh: 'there', pairing: 'order', direction: [0, 0, 1], ...more }],
      influences,
    },
    {
      meshes: [
        { id: 'box', source: { asset: ASSET } },
        { id: 'there', source: { asset: OTHER }, ...(rest.place ? { place: rest.place } : {}) },
      ],
      ...(rest.quality ? { quality: rest.quality } : {}),
    },
  )
  return { shot, meshes: new Map([[ASSET, points(...from)], [OTHER, points(...to)]]) } // prettier-ignore
}

describe('on the way', () => {
  test('arrive: critically damped within the distance as in the closed form, at any number of substeps', () => {
    // at rest, 0.4 m away, slowing within 1 m at 2 m/s: ω = 2/s and r(t) = r₀·(1 + ωt)·e^(−ωt)
    for (const substeps of [1, 7]) {
      const { shot, meshes } = toPoints(
        [[0, 0, 0]],
        [[0.4, 0, 0]],
        [acting('arrive', { goal: 'g', speed: 2, slowing: 1 })],
        {},
        { quality: { substeps } },
      )
      const run = start(shot, meshes)
      for (const frame of [13, 25, 49]) {
        const t = (frame - 1) / 24
        const [x] = column(runTo(run, frame), 'position')
        expect(0.4 - x!).toBeCloseTo(0.4 * (1 + 2 * t) * Math.exp(-2 * t), 5)
      }
    }
  })

  test('arrive: from afar at its speed, then r = D·e^(−st/D), and never past the goal', () => {
    const { shot, meshes } = toPoints([[0, 0, 0]], [[5, 0, 0]], [acting('arrive', { goal: 'g', speed: 2, slowing: 0.5 })]) // prettier-ignore
    const run = start(shot, meshes)
    let before = 0
    for (let frame = 2; frame <= 120; frame++) {
      const [x] = column(runTo(run, frame), 'position')
      expect(x!).toBeGreaterThanOrEqual(before)
      expect(x!).toBeLessThanOrEqual(5)
      before = x!
    }
    expect(column(runTo(start(shot, meshes), 49), 'velocity')[0]).toBeCloseTo(2, 2)
    expect(run.measures().populations[0]!.goals).toEqual([
      expect.objectContaining({ id: 'g', paired: 1, arrived: 1 }),
    ])
  })

  test('settle: half of the way in a half-life, whatever else acts, and it rides on a goal that moves', () => {
    const influences = [
      acting('gravity'),
      acting('turbulence', { strength: 20 }),
      acting('settle', { goal: 'g', within: 2, halfLife: 0.5 }),
    ]
    const { shot, meshes } = toPoints([[0, 0, 0]], [[1, 0, 0]], influences)
    expect(column(runTo(start(shot, meshes), 13), 'position')[0]).toBeCloseTo(0.5, 4)
    // the goals go along y at 1 m/s
    const place = { position: [0, { keys: [[1, 0], [241, 10]] }, 0] } // prettier-ignore
    const moving = toPoints([[0, 0, 0]], [[0.5, 0, 0]], influences, {}, { place })
    const late = runTo(start(moving.shot, moving.meshes), 121)
    expect(column(late, 'position')).toEqual([expect.closeTo(0.5, 4), expect.closeTo(5, 4), expect.closeTo(0, 4)]) // prettier-ignore
    expect(column(late, 'velocity')[1]).toBeCloseTo(1, 3)
  })

  test.each([1, 2, 5, 7])(
    'blend with %i substeps: there on its last key, and back at home on the next',
    (substeps) => {
      const strength = { keys: [[1, 0], [11, 1], [21, 0]] } // prettier-ignore
      const { shot, meshes } = toPoints([[0, 0, 0], [1, 0, 1]], [[0, 3, 0], [1, 3, 1]], [acting('blend', { goal: 'g', strength })]) // prettier-ignore
      const run = start({ ...shot, quality: { ...shot.quality, substeps } }, meshes)
      const height = (frame: number): number => column(runTo(run, frame), 'position')[1]!
      expect([height(6), height(11), height(16), height(21), height(30)]).toEqual([
        expect.closeTo(1.5, 5),
        3,
        expect.closeTo(1.5, 5),
        0,
        0,
      ])
    },
  )

  test('seek passes its goal; two goals with weights that cross over take them from one to the other', () => {
    const far = toPoints([[0, 0, 0]], [[1, 0, 0]], [acting('seek', { goal: 'g', speed: 2, strength: 2 })]) // prettier-ignore
    const run = start(far.shot, far.meshes)
    let most = 0
    for (let frame = 2; frame < 60; frame++) most = Math.max(most, column(runTo(run, frame), 'position')[0]!)
    expect(most).toBeGreaterThan(1.2)
  })
})

test('goals by UV, nearest on a surface, and on another population; a goal that dies is lost', () => {
  // two squares with the same UV, one of them turned and moved
  const flat = (at: (u: number, v: number) => number[]): Mesh => ({
    positions: Float32Array.from([at(0, 0), at(1, 0), at(1, 1), at(0, 1)].flat()),
    triangles: Uint32Array.from([0, 1, 2, 0, 2, 3]),
    uvs: Float32Array.from([0, 0, 1, 0, 1, 1, 0, 0, 1, 1, 0, 1]),
  })
  const meshes = new Map([[ASSET, weld(flat((u, v) => [u, v, 0]))], [OTHER, weld(flat((u, v) => [5, 2 * u, 3 * v]))]]) // prettier-ignore
  const shot = (pairing: string): Shot =>
    shotOf(
      {
        births: [burst({ amount: { burst: 200, at: 1 } })],
        goals: [{ id: 'g', kind: 'surface', mesh: 'there', pairing }],
        influences: [acting('blend', { goal: 'g', strength: 1 })],
      },
      {
        meshes: [
          { id: 'box', source: { asset: ASSET } },
          { id: 'there', source: { asset: OTHER } },
        ],
      },
    )
  const before = column(start(shot('uv'), meshes), 'position')
  const after = column(runTo(start(shot('uv'), meshes), 2), 'position')
  for (let i = 0; i < 200; i++) {
    expect(after[i * 3]).toBeCloseTo(5, 5)
    expect(after[i * 3 + 1]).toBeCloseTo(2 * before[i * 3]!, 5)
    expect(after[i * 3 + 2]).toBeCloseTo(3 * before[i * 3 + 1]!, 5)
  }
  const near = column(runTo(start(shot('nearest'), meshes), 2), 'position')
  for (let i = 0; i < 200; i++)
    expect(near.slice(i * 3, i * 3 + 3)).toEqual([
      expect.closeTo(5, 5),
      expect.closeTo(Math.min(2, before[i * 3 + 1]!), 5),
      expect.closeTo(0, 5),
    ])

  const read = readShot({
    ...shotOf({}),
    populations: [
      { id: 'prey', births: [burst({ amount: { burst: 5, at: 3 } })], particle: { lifespan: 20 }, influences: [acting('gravity', { strength: -1 })] }, // prettier-ignore
      {
        id: 'hunters',
        births: [burst({ amount: { burst: 5, at: 1 } })],
        goals: [{ id: 'g', kind: 'population', population: 'prey' }],
        influences: [acting('settle', { goal: 'g', within: 100, halfLife: 0.05 })],
      },
    ],
  })
  const run = runTo(start(read.shot!, box()), 15)
  // what is followed accelerates by g: they lag by g/ω² = 9 mm
  const [prey, hunters] = run.populations().map((p) => [...p.columns.position!])
  expect(run.measures().populations[1]!.goals[0]).toMatchObject({ paired: 5, arrived: 5 })
  expect(hunters!.toSorted()).toEqual(prey!.toSorted().map((x) => expect.closeTo(x, 1)))
  expect(runTo(run, 30).measures().populations[1]!.goals[0]!.paired).toBe(0)
})

test.each(['random', 'order', 'least'])(
  '%s: those born later take the places that are left, then share them evenly',
  (pairing) => {
    // 60 marks in a row, and 40 particles every half second
    const marks = points(...Array.from({ length: 60 }, (_, k) => [k / 10, 2, 0]))
    const taken = (spare: string, kind: string, last: number): number[] => {
      const shot = shotOf(
        {
          births: [burst({ amount: { rate: 80 } })],
          goals: [{ id: 'g', kind, mesh: 'marks', pairing, spare }],
          influences: [acting('blend', { goal: 'g', strength: 1 })],
        },
        {
          meshes: [
            { id: 'box', source: { asset: ASSET } },
            { id: 'marks', source: { asset: OTHER } },
          ],
        },
      )
      const where = new Map([[ASSET, box()], [OTHER, kind === 'surface' ? box(6, 1, 1) : marks]]) // prettier-ignore
      const x = column(runTo(start(shot, where), last), 'position')
      const places = new Map<string, number>()
      for (let i = 0; i < x.length; i += 3) {
        if (kind === 'vertices' && Math.abs(x[i + 1]! - 2) > 1e-4) continue
        const key = x
          .slice(i, i + 3)
          .map((v) => v.toFixed(4))
          .join()
        places.set(key, (places.get(key) ?? 0) + 1)
      }
      return [...places.values()].toSorted((a, b) => a - b)
    }
    // 50 born by frame 16, 120 by 37, 160 by 49
    expect(taken('share', 'vertices', 16)).toEqual(Array(50).fill(1))
    expect(taken('share', 'vertices', 37)).toEqual(Array(60).fill(2))
    expect(taken('none', 'vertices', 49)).toEqual(Array(60).fill(1))
    // on a surface there is a place for each
    expect(taken('share', 'surface', 37)).toEqual(Array(120).fill(1))
  },
)

test('a goal that names nothing, leads to itself or has no UV is refused with where it stands', () => {
  const problems = (population: Loose): string[] => {
    const read = readShot({
      format: 'tangle-shot',
      version: 1,
      name: 'Test',
      frames: { first: 1, last: 2, rate: 24 },
      meshes: [{ id: 'box', source: { asset: ASSET } }],
      populations: [{ id: 'dust', phases: ['Loose'], ...population }],
    })
    return read.problems?.map((one) => one.path) ?? []
  }
  expect(problems({ influences: [acting('seek', { goal: 'nowhere' })] })).toEqual(['populations[0].influences[0].goal']) // prettier-ignore
  expect(problems({ influences: [acting('seek')] })).toEqual(['populations[0].influences[0].goal'])
  expect(problems({ goals: [{ id: 'g', kind: 'population', population: 'dust' }] })).toEqual(['populations[0].goals[0].population']) // prettier-ignore
  expect(problems({ goals: [{ id: 'g', kind: 'volume', mesh: 'box', pairing: 'uv' }] })).toEqual(['populations[0].goals[0].pairing']) // prettier-ignore
  expect(problems({ goals: Array.from({ length: 5 }, (_, k) => ({ id: `g${k}`, kind: 'surface', mesh: 'box' })) })).toEqual(['populations[0].goals']) // prettier-ignore
})
