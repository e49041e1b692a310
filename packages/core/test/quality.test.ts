/** Substeps and rounds by what acts: levels, typed numbers, the check that mends, and that heaps stand by it. */
import fc from 'fast-check'
import { checkShot, firstChangedFrame, MATERIALS, qualityOf, type Shot } from '../src/index.ts'
import { firstOf } from './wide.ts'
import { acting, ASSET, burst, column, mended, runTo, shotOf, sphere, start } from './help.ts'

const grains = (
  radius: number,
  more: object = {},
  quality: object | undefined = { level: 'good' },
  rate = 24,
): Shot =>
  shotOf(
    {
      particle: { radius, density: 1000 },
      births: [burst()],
      influences: [acting('gravity'), acting('selfCollision'), acting('floor')],
      ...more,
    },
    { ...(quality && { quality }), frames: { first: 1, last: 200, rate } },
  )

describe('how many substeps', () => {
  test('a shot that says nothing is computed well; one that gives numbers keeps them', () => {
    const plain = grains(0.01, {}, undefined)
    expect(plain.quality.level).toBe('good')
    expect(qualityOf(plain).substeps).toBeGreaterThan(2)
    for (const given of [{ substeps: 3 }, { iterations: 7 }, { substeps: 3, iterations: 7 }]) {
      const { quality } = grains(0.01, {}, given)
      expect(quality).toMatchObject({ level: 'own', ...given })
    }
    expect(qualityOf(grains(0.01, {}, { substeps: 3, iterations: 7 }))).toEqual({
      substeps: 3,
      iterations: 7,
    })
    // a level that is given counts, whatever numbers stand beside it
    expect(qualityOf(grains(0.01, {}, { level: 'good', substeps: 1 }))).toEqual(qualityOf(plain))
  })

  test('what only flies needs few; more where it touches, more where it is linked; finer levels more', () => {
    const of = (influences: object[], level = 'good') =>
      qualityOf(grains(0.5, { influences }, { level })).substeps
    const [flies, touches, links] = [[acting('gravity')], [acting('selfCollision')], [acting('link')]].map((one) => of(one)) // prettier-ignore
    expect(flies).toBe(2)
    expect(touches!).toBeGreaterThan(flies!)
    expect(links!).toBeGreaterThan(touches!)
    const levels = ['draft', 'good', 'fine'].map((level) => of([acting('selfCollision')], level))
    expect(levels).toEqual([...levels].sort((a, b) => a - b))
    expect(new Set(levels).size).toBe(3)
    // what is muted asks for nothing
    expect(of([acting('gravity'), { ...acting('link'), muted: true }])).toBe(2)
  })

  test('smaller, heavier pulled, slower run and faster born need no fewer, and 64 are the most', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1e-4, max: 2, noNaN: true }),
        fc.double({ min: 1, max: 4, noNaN: true }),
        fc.integer({ min: 12, max: 120 }),
        (radius, more, rate) => {
          const one = (r: number, strength: number, fps: number, speed = 0) =>
            qualityOf(
              grains(
                r,
                {
                  influences: [acting('gravity', { strength }), acting('selfCollision')],
                  births: [burst({ speed })],
                },
                { level: 'good' },
                fps,
              ),
            ).substeps
          const base = one(radius, 1, rate)
          expect(one(radius / more, 1, rate)).toBeGreaterThanOrEqual(base)
          expect(one(radius, more, rate)).toBeGreaterThanOrEqual(base)
          expect(one(radius, 1, rate / more)).toBeGreaterThanOrEqual(base)
          expect(one(radius, 1, rate, 10 * more)).toBeGreaterThanOrEqual(base)
          expect(base).toBeLessThanOrEqual(64)
          // a substep in which a grain falls by more than a fiftieth of its radius is none
          const h = 1 / (rate * base)
          if (base < 64) expect(9.80665 * h * h).toBeLessThan(0.0201 * radius)
        },
      ),
      { numRuns: 60, seed: 5 },
    )
  })

  test('a pull that is keyed counts at its strongest', () => {
    const keyed = { strength: { keys: [[1, 0], [100, 30], [200, 0]] } } // prettier-ignore
    const of = (gravity: object) =>
      qualityOf(grains(0.02, { influences: [acting('gravity', gravity), acting('selfCollision')] })).substeps
    expect(of(keyed)).toBeGreaterThan(2 * of({}))
  })
})

test('numbers that are far too low are a check whose mend is one click; a level never is', () => {
  const said = (shot: Shot) => checkShot(shot, new Map()).filter(({ id }) => id === 'quality')
  const poor = grains(0.004, {}, { substeps: 2, iterations: 4 })
  const [check] = said(poor)
  expect(check!.text).toMatch(/^2 a frame .* 15 are needed/)
  const better = mended(poor, check!)
  expect(better.quality.level).toBe('good')
  expect(said(better)).toEqual([])
  for (const level of ['draft', 'good', 'fine']) expect(said(grains(0.004, {}, { level }))).toEqual([])
  expect(said(grains(0.004, {}, { substeps: 12 }))).toEqual([])
  // one substep is enough for what touches nothing
  expect(said(grains(0.004, { influences: [acting('gravity')] }, { substeps: 1 }))).toEqual([])
})

test('what no number of substeps can do is said, too', () => {
  const tiny = grains(2e-5, {}, { level: 'good' })
  expect(qualityOf(tiny).substeps).toBe(64)
  const [check] = checkShot(tiny, new Map()).filter(({ id }) => id === 'quality')
  expect(check!.text).toMatch(/^For what acts.* 64 are the most/)
  expect(check!.mend).toBeUndefined()
})

test('an edit that asks for other substeps recomputes from the first frame, one that does not as before', () => {
  const late = (strength: number) => ({
    influences: [acting('gravity', { strength: { keys: [[1, 1, 'hold'], [150, strength]] } }), acting('selfCollision')], // prettier-ignore
  })
  const [one, more] = [grains(0.02, late(1)), grains(0.02, late(9))]
  expect(qualityOf(more).substeps).toBeGreaterThan(qualityOf(one).substeps)
  expect(firstChangedFrame(one, more)).toBe(1)
  const same = (shot: Shot): Shot => ({ ...shot, quality: { ...shot.quality, level: 'own', substeps: 4 } })
  expect(firstChangedFrame(same(one), same(more))).not.toBe(1)
})

test.each(firstOf(1, [0.001, 0.02]))(
  'sand of %p m radius heaps by itself, without sleep',
  (radius) => {
    const { friction, sliding, sticky, bounce, density } = MATERIALS.find((one) => one.id === 'dry-sand')!
    const grip = { friction, sliding, sticky, bounce }
    const shot = shotOf(
      {
        particle: { radius: { mean: radius, spread: 0.25 }, density },
        births: [burst({ kind: 'volume', amount: { rate: 500, cap: 400 } })],
        influences: [
          acting('gravity'),
          acting('floor', { ...grip, friction: 0.8, sliding: 0.8 }),
          acting('selfCollision', grip),
        ],
      },
      {
        frames: { first: 1, last: 400, rate: 24 },
        meshes: [
          {
            id: 'box',
            source: { asset: ASSET },
            place: { position: [0, 30 * radius, 0], scale: [6 * radius, 6 * radius, 6 * radius] },
          },
        ],
      },
    )
    expect(shot.quality.level).toBe('good')
    const simulation = runTo(start(shot, sphere(12)), 60)
    /** Height of the heap over half of its width, of the grains that lie in it. */
    const steepness = (): number => {
      const x = column(simulation, 'position')
      const out = Array.from({ length: x.length / 3 }, (_, i) => Math.hypot(x[i * 3]!, x[i * 3 + 2]!)).sort((a, b) => a - b) // prettier-ignore
      const ys = Array.from({ length: x.length / 3 }, (_, i) => x[i * 3 + 1]!).sort((a, b) => a - b)
      return ys.at(-3)! / out[Math.floor(0.9 * out.length)]!
    }
    const first = steepness()
    // tan 34° is 0.67; grains that run out are one layer: two radii over fifteen
    expect(first).toBeGreaterThan(0.4)
    runTo(simulation, 180)
    expect(steepness()).toBeGreaterThan(0.8 * first)
  },
  120_000,
)
