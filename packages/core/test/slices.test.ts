import { createMachine } from '@tangle/kernels'
import {
  createSimulation,
  GOALS,
  INFLUENCES,
  interactionIn,
  joinMeasures,
  PAIRINGS,
  RESPONSES,
  type PopulationFrame,
  type Shot,
  type Slice,
} from '../src/index.ts'
import { acting, ASSET, box, burst, runTo, shotOf } from './help.ts'
import { allNamesOf, everything, responsesTo, SHOTS } from './shots.ts'

const meshes = new Map([[ASSET, box()]])
const computed = (shot: Shot, slice: Slice | null, frame: number) =>
  runTo(createSimulation(createMachine(), shot, meshes, { slice }), frame)

/** Each particle's values as words, by its id. */
function rowsOf({ columns }: PopulationFrame): Map<number, string> {
  const ids = columns.id as Uint32Array
  const names = Object.keys(columns) as (keyof typeof columns)[]
  return new Map(
    Array.from(ids, (id, i) => {
      const row = names.map((name) => {
        const column = columns[name]!
        const width = column.length / ids.length
        return Buffer.from(column.slice(i * width, (i + 1) * width).buffer).toString('hex')
      })
      return [id, row.join()]
    }),
  )
}

/** The slices have each particle of the whole once, with the same bits. */
function expectSameParticles(shot: Shot, of: number, frame: number): number {
  const whole = computed(shot, null, frame)
  const slices = Array.from({ length: of }, (_, index) => computed(shot, { index, of }, frame))
  let count = 0
  whole.populations().forEach((population, n) => {
    const parts = slices.map((one) => rowsOf(one.populations()[n]!))
    expect(parts.reduce((sum, part) => sum + part.size, 0)).toBe(population.count)
    expect(new Map(parts.flatMap((part) => [...part]))).toEqual(rowsOf(population))
    count += population.count
  })
  return count
}

/** A goal that leaves everybody alone, and enough particles for all slices to have some. */
const alone = {
  population: {
    goals: [{ id: 'g', kind: 'surface', mesh: 'there', pairing: 'nearest' }],
    births: [burst({ amount: { burst: 900, at: 1 } })],
  },
}

const INTERACTING = [
  'liquid',
  'avoid',
  'bonds',
  'calm',
  'cover',
  'float',
  'flock',
  'froth',
  'link',
  'mutual',
  'rigid',
  'selfCollision',
  'sleep',
  'warmth',
]

test.each(INFLUENCES.map(({ kind }) => kind))(
  '%s either makes particles act on one another, or does the same without the others',
  (kind) => {
    const { parameters } = INFLUENCES.find((one) => one.kind === kind)!
    const shot = everything([acting(kind, allNamesOf(parameters))], alone)
    expect(interactionIn(shot) !== null).toBe(INTERACTING.includes(kind))
    if (INTERACTING.includes(kind)) return
    const count = expectSameParticles(shot, 2, 6)
    // of those that are thinned out about half are left
    if (kind === 'thin') expect(Math.abs(count - 470)).toBeLessThan(60)
    else expect(count).toBe(940)
  },
)

test('a skin lies about all of its particles: no part of them makes it', () => {
  const { population } = alone
  const skinned = everything([acting('gravity')], { population: { ...population, look: { skin: {} } } })
  expect(interactionIn(skinned)).toBe('The skin of dust')
  expect(interactionIn(everything([acting('gravity')], alone))).toBeNull()
})

test.each(RESPONSES.map(({ from }) => from))('the response to %s likewise', (from) => {
  const responses = responsesTo('strength').filter((one) => (one as { from: string }).from === from)
  const shot = everything([acting('turbulence', { strength: 3, responses })], alone)
  expect(interactionIn(shot) !== null).toBe(['neighbours', 'crowding'].includes(from))
  if (interactionIn(shot) === null) expectSameParticles(shot, 3, 5)
})

/** Only places on a surface have UV. */
const pairingsOf = (kind: string) =>
  Object.keys(PAIRINGS).filter((pairing) => pairing !== 'uv' || kind === 'surface')
const INDEPENDENT = ['surface random', 'surface nearest', 'surface uv', 'volume random', 'vertices nearest']

test.each(GOALS.flatMap(({ kind }) => pairingsOf(kind).map((pairing) => [kind, pairing] as const)))(
  'the goal %s, paired %s, likewise',
  (kind, pairing) => {
    const scatter = kind === 'surface' ? { scatter: 'random' } : {}
    const on = kind === 'population' ? { population: 'others' } : { mesh: 'there' }
    const goal = { id: 'g', kind, pairing, ...scatter, ...on }
    const populations = { ...alone.population, goals: [goal] }
    const shot = everything([acting('seek', { goal: 'g' })], { population: populations })
    if (interactionIn(shot) === null) expectSameParticles(shot, 3, 5)
    else expect(interactionIn(shot)).toMatch(/a goal of dust/)
    expect(interactionIn(shot) === null).toBe(INDEPENDENT.includes(`${kind} ${pairing}`))
  },
)

const independent = Object.entries(SHOTS).filter(([, shot]) => interactionIn(shot()) === null)
test.each(independent)('%s: the same in slices', (_, shot) => {
  for (const parts of [2, 5]) expectSameParticles(shot(), parts, 12)
})

test('what acts is said in words; what is muted, or settles first, counts as it should', () => {
  const shot = (influences: object[], more = {}) => shotOf({ births: [burst()], influences }, more)
  expect(interactionIn(shot([acting('flock')]))).toBe('Flock of dust')
  expect(interactionIn(shot([acting('flock', { muted: true })]))).toBeNull()
  expect(interactionIn(shot([acting('gravity')], { quality: { settle: 20 } }))).toBe('Settling first')
})

test('a slice goes on from its snapshot', () => {
  const shot = shotOf({ births: [burst({ amount: { rate: 9000 } })], influences: [acting('gravity')] })
  const slice = { index: 1, of: 3 }
  const first = computed(shot, slice, 6)
  const later = createSimulation(createMachine(), shot, meshes, { slice, from: first.snapshot() })
  expect(runTo(later, 14).fingerprint()).toBe(computed(shot, slice, 14).fingerprint())
})

test('measures of slices make those of the whole: sums and extremes exactly, percentiles nearly', () => {
  const shot = shotOf(
    {
      particle: { radius: 0.01, density: 1000, lifespan: { mean: 12, spread: 6 } },
      births: [burst({ amount: { rate: 30000 }, speed: 2, speedSpread: 1 })],
      goals: [{ id: 'g', kind: 'surface', mesh: 'box', pairing: 'nearest' }],
      influences: [acting('gravity'), acting('floor', { height: -0.6 }), acting('turbulence', { strength: 4 })],
    },
  ) // prettier-ignore
  const { populations: [whole] } = computed(shot, null, 24).measures() // prettier-ignore
  const parts = [0, 1, 2, 3].map((index) => computed(shot, { index, of: 4 }, 24).measures())
  const { populations: [joined] } = joinMeasures(parts) // prettier-ignore
  const { alive, phases, born, died, events, astray, contact } = whole!
  expect(joined).toMatchObject({ alive, phases, born, died, events, astray, contact })
  expect(alive).toBeGreaterThan(10_000)
  expect(joined!.speed.most).toBe(whole!.speed.most)
  expect(joined!.energy.kinetic / whole!.energy.kinetic).toBeCloseTo(1, 5)
  expect(joined!.goals[0]!.most).toBe(whole!.goals[0]!.most)
  for (const [a, b] of [
    [joined!.speed.median, whole!.speed.median],
    [joined!.speed.high, whole!.speed.high],
    [joined!.goals[0]!.median, whole!.goals[0]!.median],
  ])
    expect(a! / b!).toBeCloseTo(1, 1)
})
