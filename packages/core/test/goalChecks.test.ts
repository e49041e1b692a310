/** What is found about goals and swarms, and that its mend does mend it. */
import { checkFrame, checkShot, meshFacts, type Shot } from '../src/index.ts'
import { acting, box, burst, mended, runTo, shotOf, start } from './help.ts'

const facts = new Map([['box', meshFacts(box())]])
const goal = (more: object = {}) => ({ id: 'g', name: 'Box', kind: 'surface', mesh: 'box', ...more })

test.each<[string, object, RegExp, RegExp]>([
  [
    'two goals that pull alike',
    {
      goals: [goal(), goal({ id: 'h', name: 'Other' })],
      influences: [acting('arrive', { goal: 'g' }), acting('seek', { goal: 'h', strength: 1 })],
    },
    /torn between two goals/,
    /Let Other lead/,
  ],
  ['UV where there is none', { goals: [goal({ pairing: 'uv' })] }, /No UV to pair/, /Pair by least travel/],
  [
    'fewer places than particles',
    { goals: [goal({ kind: 'vertices', spare: 'none' })] },
    /992 of dust have no place/,
    /Share the places/,
  ],
  [
    'a march along U without U',
    { influences: [acting('march', { mesh: 'box' })] },
    /no U and V/,
    /direction/,
  ],
  [
    'repulsion that reaches farther than attraction',
    { influences: [acting('mutual', { near: 0.4, far: 0.3 })] },
    /dust scatter/,
    /Attract within 1 m/,
  ],
  [
    'hard avoidance that looks a short way ahead',
    { influences: [acting('avoid', { strength: 6, ahead: 0.4 })] },
    /may zigzag/,
    /Look 3 s ahead/,
  ],
])('%s: told, and mended', (_, population, title, label) => {
  const shot = shotOf({ births: [burst()], ...population })
  const found = checkShot(shot, facts).filter((check) => title.test(check.title))
  expect(found.map((check) => check.mend!.label)).toEqual([expect.stringMatching(label)])
  expect(checkShot(mended(shot, found[0]!), facts).filter((check) => title.test(check.title))).toEqual([])
})

test('a band of U that the mesh does not have is told, and put where it is', () => {
  const shot = shotOf(
    { births: [burst()] },
    { masks: [{ id: 'u', name: 'Edge', kind: 'uv', mesh: 'box', low: 2, high: 3 }] },
  )
  const told = (uv: { low: [number, number]; high: [number, number] } | null, of = shot) =>
    checkShot(of, new Map([['box', { ...meshFacts(box()), uv }]]))
  expect(told(null)).toMatchObject([{ title: 'Edge is empty', text: expect.stringContaining('no texture') }])
  const uv: { low: [number, number]; high: [number, number] } = { low: [4, 0], high: [6, 1] }
  const [found] = told(uv)
  expect(found).toMatchObject({ title: 'Edge is empty', text: 'U of its mesh runs from 4 to 6.' })
  const after = mended(shot, found!)
  expect(after.masks[0]).toMatchObject({ low: 4, high: 4.2 })
  expect(told(uv, after)).toEqual([])
})

/** What is told about the last frame of a shot. */
function atTheEnd(shot: Shot, title: RegExp): Check | undefined {
  const { last } = shot.frames
  return checkFrame(shot, runTo(start(shot), last).measures(), last, facts).find((check) =>
    title.test(check.title),
  )
}
const crossing = (influences: object[], last: number, amount = 200): Shot =>
  shotOf(
    { births: [burst({ amount: { burst: amount, at: 1 } })], goals: [goal()], influences },
    { frames: { first: 1, last, rate: 24 } },
  )

test('a range that ends before they arrive is made as long as it takes', () => {
  const shot = crossing([acting('arrive', { goal: 'g', speed: 0.5 })], 20)
  const late = atTheEnd(shot, /have not arrived at Box by the last frame/)!
  expect(late.mend!.label).toMatch(/^\d+ frames more$/)
  let longer = mended(shot, late)
  // a slow end may want more than one look
  for (
    let again = atTheEnd(longer, /have not arrived/);
    again;
    again = atTheEnd(longer, /have not arrived/)
  ) {
    longer = mended(longer, again)
    expect(longer.frames.last).toBeLessThan(400)
  }
})

test('seekers that run past their goal are told to arrive', () => {
  const shot = crossing([acting('seek', { goal: 'g', speed: 4 })], 30)
  const late = atTheEnd(shot, /have not arrived/)!
  expect(late.mend!.label).toBe('Arrive instead')
  expect(atTheEnd(mended(shot, late), /% of dust have not arrived/)?.mend?.label).not.toBe('Arrive instead')
})

test('a flock that keeps too far apart to land is given room', () => {
  const shot = crossing([acting('arrive', { goal: 'g' }), acting('flock', { separationRadius: 0.5 })], 10)
  const tight = atTheEnd(shot, /no room to land on Box/)!
  expect(atTheEnd(mended(shot, tight), /no room to land/)).toBeUndefined()
})

test('avoiders that overlap are told, and let step aside', () => {
  const avoiding = (aside: number): Shot => ({
    ...crossing([acting('avoid', { aside })], 4, 300),
  })
  const wide = avoiding(0)
  wide.populations[0]!.particle.radius = 0.04
  const tight = atTheEnd(wide, /overlap/)!
  expect(tight.mend!.label).toBe('Step aside')
  expect(mended(wide, tight).populations[0]!.influences[0]!.aside).toBe(1)
})
