/** @jest-environment jsdom */
/** What the interface adds by itself is sound, whatever the shot is like: from millimetres to hundreds of metres. */
import './browser.ts'
import {
  BIRTHS,
  CUES,
  GOALS,
  INFLUENCES,
  MASKS,
  meshFacts,
  readShot,
  type Mesh,
  type Shot,
} from '@tangle/core'
import { ActionCreators } from 'redux-undo'
import { engine } from '../src/engine/engine.ts'
import { fitTo } from '../src/steps/fit.ts'
import { dustFromMask, eatByMask, followers } from '../src/steps/follow.ts'
import { addMask, missingFor, withInputOff } from '../src/steps/masks.ts'
import { makeMorph } from '../src/steps/morph.ts'
import { addBirth, addPopulation } from '../src/steps/births.ts'
import {
  addCue,
  addInfluence,
  addPhase,
  copyInfluences,
  missingForInfluence,
  newGoal,
  pasteInfluences,
} from '../src/steps/populations.ts'
import { addStart } from '../src/steps/starts.ts'
import { stage } from '../src/stage/Stage.tsx'
import { store } from '../src/store/index.ts'
import { selected } from '../src/store/session.ts'
import { inserted, loaded, set } from '../src/store/shot.ts'
import { shotOf } from './page.tsx'

const present = (): Shot => store.getState().shot.present
const population = () => present().populations[0]!
/** The document as a file would have it: nothing is wrong with it. */
function expectSound(): void {
  const { problems } = readShot(JSON.parse(JSON.stringify(present())))
  expect(problems ?? []).toEqual([])
}
function open(shot: Shot): void {
  store.dispatch(loaded(shot))
  store.dispatch(ActionCreators.clearHistory())
  for (const name of ['mesh', 'population', 'influence', 'mask', 'cue', 'goal'] as const)
    store.dispatch(selected({ [name]: null }))
}
/** A stage whose meshes reach so many metres from their middle. */
const reaches = (reach: number): void => {
  const extent = () => ({ centre: [reach, 2 * reach, -reach], reach, top: 3 * reach })
  stage.world = { extent } as unknown as typeof stage.world
}
afterEach(() => {
  stage.world = null
})

const SIZES = [0.002, 0.3, 1, 7.7, 450]
const RANGES = [
  { first: 1, last: 1, rate: 24 },
  { first: -20, last: 3, rate: 25 },
  { first: 1001, last: 1240, rate: 60 },
]

describe.each(SIZES)('meshes that reach %p m', (reach) => {
  test.each(RANGES)('masks of every kind, over frames %p', (frames) => {
    open(shotOf({}, { frames }))
    reaches(reach)
    for (const { kind } of MASKS) {
      expect(missingFor(kind, present())).toBeNull()
      const before = present().masks.length
      const mask = addMask(kind)
      expect(present().masks).toHaveLength(before + 1)
      expect(present().masks.at(-1)).toEqual(mask)
      expect(store.getState().session.selected.mask).toBe(mask.id)
      expectSound()
    }
    expect(new Set(present().masks.map(({ id }) => id)).size).toBe(present().masks.length)
    expect(new Set(present().masks.map(({ name }) => name)).size).toBe(present().masks.length)
  })

  test('a mask that eats, and dust where it passes', () => {
    open(shotOf({}))
    reaches(reach)
    const mask = addMask('spread')
    eatByMask(mask)
    expect(present().meshes[0]!.eaten).toMatchObject({ mask: mask.id })
    expectSound()
    dustFromMask(mask)
    dustFromMask(mask)
    expectSound()
    const [, first, second] = present().populations
    expect(first!.births[0]).toMatchObject({ mesh: 'rock', amount: { mask: mask.id } })
    expect(second!.id).not.toBe(first!.id)
    expect(followers(present(), mask)).toEqual([
      'Rock is eaten by it',
      `${first!.name} is born by it on Rock`,
      `${second!.name} is born by it on Rock`,
    ])
    // grains are small against what they fall from, and nothing is faster than it could be seen
    const { radius } = first!.particle as { radius: { mean: number } }
    expect(radius.mean / reach).toBeGreaterThan(0.001)
    expect(radius.mean / reach).toBeLessThan(0.01)
  })
})

test('an input of a mask is off in what is compared, and on in the shot', () => {
  open(shotOf({}))
  for (const { kind, inputs } of MASKS) {
    const mask = addMask(kind)
    for (const input of Object.keys(inputs ?? {})) {
      const shot = present()
      const other = withInputOff(shot, mask.id, input)
      expect(readShot(JSON.parse(JSON.stringify(other))).problems ?? []).toEqual([])
      expect(other.masks.slice(0, -1)).toEqual(shot.masks.slice(0, -1))
      expect(present()).toBe(shot)
    }
  }
})

test('what a shot without meshes can’t have says what it needs', () => {
  open(shotOf({}, { meshes: [], masks: [], populations: [] }))
  const missing = Object.fromEntries(MASKS.map(({ kind }) => [kind, missingFor(kind, present())]))
  expect(missing).toMatchObject({ spread: 'needs a mesh', painted: 'needs a mesh', mix: 'needs another mask', ball: null }) // prettier-ignore
  addPopulation()
  expect(population().births).toEqual([])
  expectSound()
  for (const { kind, label } of INFLUENCES) {
    const reason = missingForInfluence(kind, population(), present())
    const before = population().influences.length
    addInfluence(population(), 0, kind)
    expect(population().influences).toHaveLength(before + (reason ? 0 : 1))
    if (reason) expect(store.getState().session.notice?.text).toBe(`${label}: ${reason}`)
    expectSound()
  }
  expect(missingForInfluence('collide', population(), present())).toMatch(/Needs a mesh/)
  expect(missingForInfluence('seek', population(), present())).toMatch(/mesh to go to/)
})

test('populations, births, phases, cues, influences and goals of every kind', () => {
  open(shotOf({ attributes: [{ id: 'pace', name: 'Pace', type: 'number', birth: { mean: 1, spread: 0 } }] }))
  addPopulation()
  addPopulation()
  expect(present().populations.map(({ name }) => name)).toEqual(['Dust', 'Dust 2', 'Dust 3'])
  for (const { kind } of BIRTHS) addBirth(population(), 0, kind)
  expect(population().births.map(({ kind }) => kind)).toEqual(BIRTHS.map(({ kind }) => kind))
  addPhase(population(), 0)
  addPhase(population(), 0)
  expect(new Set(population().phases).size).toBe(4)
  expectSound()
  for (const { kind } of GOALS) {
    const goal = newGoal(population(), kind)!
    store.dispatch(inserted({ path: ['populations', 0, 'goals'], value: goal }))
    expectSound()
  }
  for (const { kind } of CUES) addCue(population(), 0, 'Held', kind)
  expect(population().cues.map(({ when }) => when.kind)).toEqual(CUES.map(({ kind }) => kind))
  for (const { kind } of INFLUENCES) addInfluence(population(), 0, kind)
  expect(population().influences.map(({ kind }) => kind)).toEqual(INFLUENCES.map(({ kind }) => kind))
  expectSound()
  // what holds acts in the first phase, the rest in all
  const { phases, influences } = population()
  const actsIn = (wanted: string): string[] => {
    const { weights } = influences.find(({ kind }) => kind === wanted)!
    return phases.filter((phase) => weights[phase]! > 0)
  }
  expect(actsIn('ride')).toEqual(phases.slice(0, 1))
  expect(actsIn('link')).toEqual(phases.slice(0, 1))
  expect(actsIn('bonds')).toEqual(phases)
  expect(actsIn('drag')).toEqual(phases)
  for (const { kind } of influences) expect(actsIn(kind)).not.toEqual([])
})

test('a cue of the last phase ends in death; one that needs what is not there says so', () => {
  open(shotOf({}, { masks: [] }))
  addCue(population(), 0, 'Loose', 'after')
  expect(population().cues[0]).toMatchObject({ from: 'Loose', to: 'dies' })
  addCue(population(), 0, 'Held', 'mask')
  expect(population().cues).toHaveLength(1)
  expect(store.getState().session.notice?.text).toBe('This cue needs a mask: make one first')
})

describe('copied influences', () => {
  const copied = {
    phases: ['Held', 'Loose'],
    attributes: [{ id: 'pace', name: 'Pace', type: 'number', birth: { mean: 1, spread: 0 } }],
    goals: [{ id: 'there', kind: 'surface', mesh: 'boat' }],
    influences: [
      {
        id: 'wind',
        kind: 'wind',
        weights: { Held: 0.25, Loose: 1 },
        responses: [
          { to: 'strength', from: 'own', attribute: 'pace', curve: [[0, 0], [1, 1]] }, // prettier-ignore
          { to: 'strength', from: 'mask', mask: 'left', curve: [[0, 0], [1, 1]] }, // prettier-ignore
          { to: 'strength', from: 'goal', goal: 'there', curve: [[0, 0], [1, 1]] }, // prettier-ignore
          { to: 'strength', from: 'age', curve: [[0, 0], [1, 1]] }, // prettier-ignore
        ],
      },
      { id: 'seek', kind: 'seek', goal: 'there', weights: { Loose: 1 } },
      { id: 'set', kind: 'set', attribute: 'pace', weights: { Loose: 1 } },
      { id: 'collide', kind: 'collide', mesh: 'rock', weights: { Loose: 1 } },
    ],
  }
  const readers = () => population().influences[0]!.responses?.map(({ from }) => from)

  test('are put into the same population with ids of their own, as they were', () => {
    open(shotOf(copied))
    copyInfluences(true)
    expect(store.getState().session.notice?.text).toMatch(/^4 influences copied/)
    const before = population().influences
    pasteInfluences()
    expect(population().influences).toHaveLength(8)
    expect(new Set(population().influences.map(({ id }) => id)).size).toBe(8)
    expect(population().influences.slice(4).map(({ id: _, ...rest }) => rest)).toEqual(before.map(({ id: _, ...rest }) => rest)) // prettier-ignore
    expectSound()
  })

  test('lose what another shot has not, and stay sound', () => {
    open(shotOf(copied))
    copyInfluences(true)
    open(shotOf({ phases: ['Elsewhere'] }, { masks: [] }))
    pasteInfluences()
    expectSound()
    expect(readers()).toEqual(['age'])
    expect(population().influences.map(({ kind }) => kind)).toEqual(['wind', 'collide'])
    // a phase that is not here: it acts in the last one, as strongly
    expect(population().influences[0]!.weights).toEqual({ Elsewhere: 1 })
    expect(store.getState().session.notice?.text).toMatch(/was not pasted: it needs a/)
  })

  test('one alone is copied where one is selected', () => {
    open(shotOf(copied))
    store.dispatch(selected({ influence: 'seek' }))
    copyInfluences(false)
    pasteInfluences()
    expect(population().influences.map(({ kind }) => kind)).toEqual([
      'wind',
      'seek',
      'set',
      'collide',
      'seek',
    ])
  })
})

const cube = (side: number): Mesh => {
  const corner = (n: number): number[] => [n & 1, (n >> 1) & 1, n >> 2].map((bit) => (bit - 0.5) * side)
  const faces = [[0, 2, 3], [0, 3, 1], [4, 5, 7], [4, 7, 6], [0, 1, 5], [0, 5, 4], [2, 6, 7], [2, 7, 3], [0, 4, 6], [0, 6, 2], [1, 3, 7], [1, 7, 5]] // prettier-ignore
  return {
    positions: Float32Array.from([0, 1, 2, 3, 4, 5, 6, 7].flatMap(corner)),
    triangles: Uint32Array.from(faces.flat()),
  }
}

describe('with meshes that are here', () => {
  beforeAll(() => {
    const { meshes } = shotOf({})
    for (const [n, side] of [2, 5].entries()) {
      const source = meshes[n]!.source as { asset: string }
      const mesh = cube(side)
      engine.addMesh(source.asset, { mesh, facts: meshFacts(mesh) })
    }
  })

  test('a mesh is fitted to another: as large, and in its place, however both stand', () => {
    const place = (position: number[], rotation: number[], scale: number[]) => ({ position, rotation, scale })
    open(
      shotOf({}, {
        meshes: [
          { id: 'rock', name: 'Rock', source: { asset: `sha256:${'1'.repeat(64)}` }, place: place([9, 9, 9], [10, 20, 30], [3, 3, 3]) },
          { id: 'boat', name: 'Boat', source: { asset: `sha256:${'2'.repeat(64)}` }, place: place([1, -2, 3], [0, 45, 0], [2, 2, 2]) },
        ],
      }), // prettier-ignore
    )
    const [rock, boat] = present().meshes
    fitTo(rock!, boat!)
    const { position, scale, rotation } = present().meshes[0]!.place
    // cubes of 2 and of 5 · 2 m about their own middles
    expect(scale).toEqual([5, 5, 5])
    expect(rotation).toEqual(rock!.place.rotation)
    for (const [axis, x] of [1, -2, 3].entries()) expect(position[axis]).toBeCloseTo(x, 4)
    expectSound()
  })

  test.each([1, 0.0004, 300])(
    'a morph, scaled %p times: held, let go by a mask, settled at the goal',
    (scale) => {
      for (const frames of RANGES) {
        open(
          shotOf(
            {
              births: [{ id: 'b', kind: 'surface', mesh: 'rock', into: 'Loose', amount: { rate: 100 } }],
              goals: [{ id: 'there', name: 'Boat', kind: 'surface', mesh: 'boat' }],
            },
            { frames },
          ),
        )
        for (const mesh of [0, 1])
          store.dispatch(set({ path: ['meshes', mesh, 'place', 'scale'], value: [scale, scale, scale] }))
        store.dispatch(ActionCreators.clearHistory())
        makeMorph(population(), 0, population().goals[0]!)
        expectSound()
        const { phases, births, influences, cues, particle, goals } = population()
        expect(phases).toEqual(['Held', 'Going'])
        expect(births[0]).toMatchObject({ into: 'Held', amount: { at: frames.first } })
        expect(cues[0]).toMatchObject({ from: 'Held', to: 'Going' })
        expect(influences.map(({ kind }) => kind)).toEqual(['ride', 'turbulence', 'arrive', 'settle'])
        expect(particle.lifespan).toBeNull()
        expect(goals[0]!.pairing).toBe('least')
        // one step of undo takes all of it back
        store.dispatch(ActionCreators.undo())
        expect(population().phases).toEqual(['Held', 'Loose'])
        expect(present().masks).toHaveLength(1)
      }
    },
  )

  test('a start of a front is added where the mesh was at the first frame', () => {
    open(shotOf({}))
    const mask = addMask('spread')
    const at = present().masks.findIndex(({ id }) => id === mask.id)
    store.dispatch(set({ path: ['meshes', 0, 'place', 'position', 0], value: { keys: [[1, 0, 'linear'], [100, 99]] } })) // prettier-ignore
    engine.setShot(present())
    engine.seek(51)
    addStart([50.5, 1, 0.25])
    addStart([49.5, 0, 0])
    const { points } = present().masks[at]!.from as { points: number[][] }
    expect(points).toHaveLength(2)
    for (const [n, x] of [0.5, -0.5].entries()) expect(points[n]![0]).toBeCloseTo(x, 3)
    expectSound()
    engine.close()
  })
})
