import { checkFrame, checkShot, meshFacts, type Shot } from '../src/index.ts'
import { acting, box, burst, runTo, shotOf, start } from './help.ts'

const measured = (shot: Shot, frame: number) => runTo(start(shot), frame).measures().populations[0]!

test('counts, births and deaths of a frame, and speeds', () => {
  const shot = shotOf({
    particle: { radius: 0.01, lifespan: 10 },
    births: [burst({ amount: { rate: 240 }, aim: 'direction', speed: 3 })],
  })
  expect(measured(shot, 5)).toMatchObject({ alive: 40, phases: { Loose: 40 }, born: 10, died: 0, astray: 0 })
  const later = measured(shot, 30)
  expect(later.born).toBe(10)
  expect(later.died).toBe(10)
  expect(later.speed.median).toBeCloseTo(3, 4)
  expect(later.speed.most).toBeCloseTo(3, 4)
})

test('speed percentiles are those of all particles, also when only some are sorted', () => {
  const shot = shotOf({ births: [burst({ amount: { burst: 20000, at: 1 }, speed: 2, speedSpread: 1 })] })
  const { speed } = measured(shot, 2)
  // even from 0 to 4 m/s
  expect(speed.median).toBeCloseTo(2, 1)
  expect(speed.high).toBeCloseTo(3.6, 1)
  expect(speed.most).toBeGreaterThan(3.95)
})

const facts = new Map([['box', meshFacts(box())]])
const titles = (shot: Shot): string[] => checkShot(shot, facts).map((check) => check.title)

test.each<[string, object, RegExp]>([
  ['no birth', { births: [] }, /never born/],
  ['colours that are not drawn', { births: [burst()], influences: [acting('colour')] }, /do not show/],
  ['spin that is not drawn', { births: [burst()], influences: [acting('spin')] }, /does not show/],
  ['a phase that nothing leads to', { births: [burst()], phases: ['Loose', 'Lost'] }, /ever gets to "Lost"/],
  ['a muted birth', { births: [burst({ muted: true })] }, /never born/],
  ['a burst outside the range', { births: [burst({ amount: { burst: 5, at: 900 } })] }, /never happens/],
  [
    'more than there are vertices',
    { births: [burst({ kind: 'vertices', amount: { burst: 100, at: 1 } })] },
    /Only 8 of 100/,
  ],
  ['less than one a frame', { births: [burst({ amount: { rate: 3 } })] }, /less than one birth per frame/],
])('a shot with %s is told so', (_, population, title) => {
  expect(titles(shotOf(population)).join()).toMatch(title)
})

test('an open mesh is told where its inside is asked for, and only there', () => {
  const open = { ...box(), triangles: box().triangles.slice(6) }
  const found = (kind: string): string[] =>
    checkShot(shotOf({ births: [burst({ kind })] }), new Map([['box', meshFacts(open)]])).map(
      (check) => check.title,
    )
  expect(found('volume')).toEqual(['The mesh is open: 1 hole'])
  expect(found('surface')).toEqual([])
  expect(titles(shotOf({ births: [burst({ kind: 'volume' })] }))).toEqual([])
})

test('particles far outside everything, and at their speed limit, are told', () => {
  const shot = shotOf({
    particle: { radius: 0.01, speedLimit: 50 },
    births: [burst()],
    influences: [acting('gravity', { strength: 10 })],
  })
  const early = checkFrame(shot, runTo(start(shot), 3).measures(), 3)
  expect(early).toEqual([])
  const late = checkFrame(shot, runTo(start(shot), 120).measures(), 120).map((check) => check.title)
  expect(late).toEqual(['100 % of dust have gone astray', 'dust run at their speed limit'])
})
