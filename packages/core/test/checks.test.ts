/** Each check speaks where something is wrong, says what with the number, is silent where nothing is, and its mend mends. */
import { checkFrame, checkShot, meshFacts, weld, type Check, type Mesh, type Shot } from '../src/index.ts'
import { acting, asset, box, burst, points, runTo, shotOf, start } from './help.ts'

/** Puts what a check offers into the document. */
function mended(shot: Shot, { mend }: Check): Shot {
  const copy = structuredClone(shot)
  for (const { path, value } of mend!.edits) {
    const holder = path
      .slice(0, -1)
      .reduce<unknown>((at, part) => (at as Record<string, unknown>)[part], copy)
    ;(holder as Record<string, unknown>)[path.at(-1)!] = value
  }
  return copy
}
const told = (shot: Shot, title: RegExp, mesh: Mesh = box()): Check[] =>
  checkShot(shot, new Map(shot.meshes.map(({ id }) => [id, meshFacts(mesh)]))).filter((check) => title.test(check.title)) // prettier-ignore
/** A sheet of a metre, with a hole on all sides. */
const sheet = weld({
  positions: new Float32Array([0, 0, 0, 1, 0, 0, 1, 0, 1, 0, 0, 1]),
  triangles: new Uint32Array([0, 2, 1, 0, 3, 2]),
})

const quiet = shotOf({ births: [burst()], influences: [acting('gravity')] })

test('a shot in which all is well says nothing', () => {
  expect(checkShot(quiet, new Map([['box', meshFacts(box())]]))).toEqual([])
  const simulation = runTo(start(quiet), 5)
  expect(checkFrame(quiet, simulation.measures(), 5)).toEqual([])
  simulation.dispose()
})

describe('balls on a grid', () => {
  const stacked = (more: object = {}): Shot =>
    shotOf({
      births: [burst({ kind: 'volume', fill: 'grid', spacing: 0.1 })],
      influences: [acting('gravity'), acting('floor'), acting('selfCollision')],
      ...more,
    })
  const title = /dust stand straight above one another/
  test('that will stand as columns are told, and packed by a click', () => {
    const [check] = told(stacked(), title)
    const next = mended(stacked(), check!)
    expect(next.populations[0]!.births[0]).toMatchObject({ fill: 'packed', spacing: 0.1 })
    expect(told(next, title)).toEqual([])
  })
  test.each<[string, object[]]>([
    ['linked', [acting('gravity'), acting('selfCollision'), acting('link', { to: 'grid' })]],
    ['without weight', [acting('selfCollision')]],
    ['that pass through one another', [acting('gravity')]],
  ])('%s are not', (_, influences) => expect(told(stacked({ influences }), title)).toEqual([]))
})

describe('snow that keeps falling', () => {
  const falling = (more: object = {}): Shot =>
    shotOf({
      births: [burst({ amount: { rate: 100 } })],
      influences: [acting('gravity'), acting('drag')],
      particle: { radius: 0.01, lifespan: null },
      ...more,
    })
  const title = /dust fall for ever/
  test('is told where nothing is below, and gets a floor under the mesh by a click', () => {
    const [check] = told(falling(), title)
    expect(check!.text).toMatch(/nothing to land on/)
    const next = mended(falling(), check!)
    const floor = next.populations[0]!.influences.at(-1)!
    expect(floor).toMatchObject({ kind: 'floor', weights: { Loose: 1 } })
    const { low } = meshFacts(box())
    expect(floor.height as number).toBeLessThanOrEqual(low[1]! + 1e-9)
    expect(floor.height as number).toBeGreaterThan(low[1]! - 0.05)
    expect(told(next, title)).toEqual([])
  })
  test.each<[string, object]>([
    ['a floor', { influences: [acting('gravity'), acting('floor')] }],
    ['a mesh', { influences: [acting('gravity'), acting('collide', { mesh: 'box' })] }],
    ['an end of life', { particle: { radius: 0.01, lifespan: { mean: 48, spread: 0 } } }],
    ['only one burst', { births: [burst()] }],
    ['no weight', { influences: [acting('drag')] }],
  ])('is not told with %s', (_, more) => expect(told(falling(more), title)).toEqual([]))
})

test.each<[string, Shot, RegExp, RegExp, Mesh?]>([
  ['no birth at all', shotOf({}), /dust is never born/, /Add a birth/],
  ['only muted births', shotOf({ births: [burst({ muted: true })] }), /dust is never born/, /Births step/],
  [
    'a burst behind the last frame',
    shotOf({ births: [burst({ amount: { burst: 10, at: 241 } })] }),
    /burst of dust never happens/,
    /at frame 241; the shot runs from 1 to 240/,
  ],
  [
    'more points than the mesh has',
    shotOf({ births: [burst({ kind: 'vertices', amount: { burst: 1000, at: 1 } })] }),
    /Only 8 of 1\s000 are born/,
    /no more vertices/,
  ],
  [
    'an inside of an open mesh',
    shotOf({ births: [burst({ kind: 'volume' })] }),
    /The mesh is open: 1 hole/,
    /flat sheet has no inside/,
    sheet,
  ],
  [
    'less than a birth a frame',
    shotOf({ births: [burst({ amount: { rate: 5 } })] }),
    /less than one birth per frame/,
    /5 per second is one every 5 frames at 24/,
  ],
  [
    'a phase that nothing leads to',
    shotOf({ phases: ['Loose', 'Far'], births: [burst()] }),
    /Nothing of dust ever gets to "Far"/,
    /Add a cue/,
  ],
  [
    'a phase to which nobody ever follows',
    shotOf({ phases: ['Loose', 'Far'], births: [burst()], cues: [{ id: 'c', from: 'Loose', to: 'Far', chance: 0, when: { kind: 'after' } }] }), // prettier-ignore
    /Nothing of dust ever gets to "Far"/,
    /Add a cue/,
  ],
  [
    'an attribute that the mesh does not carry',
    shotOf({ births: [burst()], attributes: [{ id: 'heat', name: 'Heat', type: 'number', birth: { data: 'warmth' } }] }), // prettier-ignore
    /Heat is 0 on box/,
    /carries no "warmth"; it carries nothing but its shape/,
  ],
  [
    'a band of UV on a mesh without',
    shotOf({ births: [burst()] }, { masks: [{ id: 'u', name: 'Band', kind: 'uv', mesh: 'box' }] }),
    /Band is empty/,
    /no texture coordinates/,
  ],
])('%s is told', (_, shot, title, text, ...[mesh]) => {
  const found = told(shot, title, mesh)
  expect(found).toHaveLength(1)
  expect(found[0]!.text).toMatch(text)
})

describe('is told, and mended by what it offers', () => {
  test.each<[string, Shot, RegExp, Mesh?]>([
    [
      'birth on a set of points',
      shotOf({ births: [burst()] }),
      /born on a set of points/,
      points([0, 0, 0], [1, 0, 0]),
    ],
    ['colours that do not show', shotOf({ births: [burst()], influences: [acting('colour')] }), /colours that dust get do not show/], // prettier-ignore
    [
      'turns that do not show',
      shotOf({ births: [burst()], influences: [acting('spin')] }),
      /How dust turn does not show/,
    ],
    [
      'a rotor that turns too far in a substep',
      shotOf(
        { births: [burst()], influences: [acting('collide', { mesh: 'box' })] },
        {
          quality: { substeps: 2 },
          meshes: [{ id: 'box', source: { asset: asset(0) }, place: { rotation: [0, { keys: [[1, 0, 'linear'], [25, 2400]] }, 0] } }], // prettier-ignore
        },
      ),
      /turns too far in a substep/,
    ],
  ])('%s', (_, shot, title, ...[mesh]) => {
    const [found] = told(shot, title, mesh)
    expect(told(mended(shot, found!), title, mesh)).toEqual([])
  })

  test('a muted rule is none', () => {
    const tinted = shotOf({ births: [burst()], influences: [acting('colour', { muted: true })] })
    expect(told(tinted, /colours/)).toEqual([])
  })

  test('what turns fast but is hit by nobody needs no substeps', () => {
    const place = { rotation: [0, { keys: [[1, 0, 'linear'], [25, 2400]] }, 0] } // prettier-ignore
    const shot = shotOf({ births: [burst()] }, { quality: { substeps: 2 }, meshes: [{ id: 'box', source: { asset: asset(0) }, place }] }) // prettier-ignore
    expect(told(shot, /too far/)).toEqual([])
  })
})

describe('frames', () => {
  const at = (shot: Shot, frame: number): Check[] => {
    const simulation = runTo(start(shot), frame)
    const found = checkFrame(shot, simulation.measures(), frame, new Map([['box', meshFacts(box())]]))
    simulation.dispose()
    return found
  }

  test.each([24, 60])('those that fly off everything are told, at %p frames a second', (rate) => {
    const shot = shotOf(
      { births: [burst({ speed: 150, aim: 'direction', direction: [1, 0, 0] })] },
      { frames: { first: 1, last: 400, rate } },
    )
    const last = Math.round(rate * 4)
    const [found] = at(shot, last).filter(({ title }) => /gone astray/.test(title))
    expect(found!.title).toBe('100 % of dust have gone astray')
    expect(at(shot, 3).filter(({ title }) => /gone astray/.test(title))).toEqual([])
  })

  test('those at their speed limit are told, with the limit', () => {
    const shot = shotOf({
      particle: { radius: 0.01, speedLimit: 3 },
      births: [burst()],
      influences: [acting('gravity', { strength: 5 })],
    })
    const [found] = at(shot, 24).filter(({ title }) => /speed limit/.test(title))
    expect(found!.text).toContain('at 3 m/s')
    expect(at(shot, 2).filter(({ title }) => /speed limit/.test(title))).toEqual([])
  })

  test('nobody alive: nothing to say', () => {
    const shot = shotOf({
      particle: { radius: 0.01, lifespan: 2, speedLimit: 0.1 },
      births: [burst({ speed: 5 })],
    })
    expect(at(shot, 20)).toEqual([])
  })
})

test('every check of a shot has an id of its own, a title and a text that ends', () => {
  const shot = shotOf({
    phases: ['Loose', 'A', 'B'],
    births: [
      burst({ id: 'x', amount: { burst: 10, at: 900 } }),
      burst({ id: 'y', amount: { rate: 1 } }),
      burst({ id: 'z', kind: 'volume' }),
    ],
    influences: [acting('colour'), acting('tumble')],
    attributes: ['p', 'q'].map((id) => ({ id, name: id, type: 'number', birth: { data: 'none' } })),
  })
  const found = checkShot(shot, new Map([['box', meshFacts(sheet)]]))
  expect(found.length).toBeGreaterThanOrEqual(8)
  expect(new Set(found.map(({ id }) => id)).size).toBe(found.length)
  for (const { title, text } of found) {
    expect(title.length).toBeGreaterThan(5)
    expect(title).not.toMatch(/undefined|NaN|\[object/)
    expect(text).toMatch(/^[A-Z0-9].*\.$/s)
    expect(text).not.toMatch(/undefined|NaN|\[object/)
  }
})
