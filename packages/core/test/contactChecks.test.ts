/** What is found about contact and links, and that its mend does mend it. */
import { checkFrame, checkShot, type Check, type Shot } from '../src/index.ts'
import { acting, box, burst, mended, runTo, shotOf, start } from './help.ts'

const quality = { substeps: 6, iterations: 4 }
const frames = { first: 1, last: 30, rate: 24 }
const block = { kind: 'volume', fill: 'grid', spacing: 0.1, amount: { burst: 'all', at: 1 } }

/** What is said at a frame. */
function said(shot: Shot, frame: number, meshSize = 0.6): Check[] {
  const simulation = runTo(start(shot, box(meshSize, meshSize, meshSize)), frame)
  const checks = checkFrame(shot, simulation.measures(), frame)
  simulation.dispose()
  return checks
}

test.each<[string, object, number, RegExp, RegExp]>([
  [
    'who starts inside of what it collides with',
    { births: [burst({ offset: -0.02 })], influences: [acting('collide', { mesh: 'box', inside: 'stay' })] },
    1,
    /start on the wrong side/,
    /Begin 0\.011 m off/,
  ],
  [
    'links that break at once',
    {
      particle: { radius: 0.04, density: 1000 },
      births: [burst(block)],
      influences: [
        acting('gravity'),
        acting('floor', { height: -0.4 }),
        acting('link', { to: 'faces', stiffness: 0.8, breaks: 0.004, spread: 0 }),
      ],
    },
    9,
    /breaks at once/,
    /Break at 2 %/,
  ],
  [
    'links that never break',
    {
      particle: { radius: 0.04, density: 1000 },
      births: [burst(block)],
      influences: [
        acting('gravity'),
        acting('floor', { height: -0.4 }),
        acting('link', { to: 'faces', stiffness: 0.8, breaks: 5, spread: 0 }),
      ],
    },
    30,
    /never breaks/,
    /Break at/,
  ],
  [
    'grains that are pressed into one another',
    {
      particle: { radius: 0.06, density: 1000 },
      births: [burst({ ...block, spacing: 0.06 })],
      influences: [acting('floor', { height: -0.4 }), acting('selfCollision')],
    },
    1,
    /overlap by up to/,
    /Twice the substeps/,
  ],
])('%s', (_, population, frame, title, label) => {
  const shot = shotOf(population as never, { quality, frames })
  const found = said(shot, frame).find((check) => title.test(check.title))
  expect(found).toBeDefined()
  expect(found!.mend!.label).toMatch(label)
  if (/overlap|at once/.test(found!.title)) return
  const after = mended(shot, found!)
  expect(said(after, frame).some((check) => title.test(check.title))).toBe(false)
})

test('a thinned preview of what is linked is told', () => {
  const shot = shotOf({ births: [burst()], influences: [acting('link')] }, { quality: { previewShare: 0.1 } })
  const [found] = checkShot(shot, new Map()).filter((check) => /lacks links/.test(check.title))
  expect(mended(shot, found!).quality.previewShare).toBe(1)
})

test('those whom a link holds together do not count as overlapping, others do', () => {
  const overlaps = (influences: object[]) => {
    const births = [burst({ ...block, spacing: 0.06 })]
    const shot = shotOf(
      { particle: { radius: 0.06, density: 1000 }, births, influences },
      { quality, frames },
    )
    const simulation = runTo(start(shot, box(0.3, 0.3, 0.3)), 2)
    return simulation.measures().populations[0]!.overlaps!.pairs
  }
  // nearer than two radii are the 26 around each, and all of them are linked
  expect(overlaps([acting('link', { to: 'cells' })])).toBe(0)
  expect(overlaps([acting('link', { to: 'faces' })])).toBeGreaterThan(0)
  expect(overlaps([])).toBeGreaterThan(100)
})

test('a cover on a mesh with which nothing collides is told, by the name of the mesh', () => {
  const found = (influences: object[]) =>
    checkShot(shotOf({ births: [burst()], influences }), new Map()).filter(({ title }) =>
      /no cover/.test(title),
    )
  expect(found([acting('cover', { mesh: 'box' })])).toMatchObject([{ title: 'box gathers no cover' }])
  expect(found([acting('cover', { mesh: 'box' }), acting('collide', { mesh: 'box' })])).toEqual([])
})

test('instances with too many triangles for the stage are told, and how they turn where nothing shows it', () => {
  const look = { draw: 'instances', instances: { set: [{ mesh: 'box' }] } }
  const shot = shotOf({ births: [burst()], look })
  const measures = start(shot).measures()
  const told = (triangles: number) =>
    checkFrame(shot, measures, 1, new Map([['box', { triangles } as never]])).map(({ id }) => id)
  expect(told(12)).not.toContain('dust:instances')
  expect(told(12_000)).toContain('dust:instances')
  const turned = (draw: object) =>
    checkShot(shotOf({ births: [burst()], influences: [acting('tumble')], look: draw }), new Map()).some(({ id }) => id === 'dust:spin') // prettier-ignore
  expect([turned({ draw: 'spheres' }), turned(look)]).toEqual([true, false])
})
