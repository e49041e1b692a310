/** Random edits as an artist makes them: undo, redo, save and load bring the document back identical. */
import { configureStore } from '@reduxjs/toolkit'
import {
  completeCombing,
  completeCue,
  completeEaten,
  completeGoal,
  completeInfluence,
  completeInstances,
  completeMask,
  completeMesh,
  completePopulation,
  emptyShot,
  readShot,
  type Shot,
} from '@tangle/core'
import fc from 'fast-check'
import { ActionCreators } from 'redux-undo'
import {
  combingRemoved,
  inserted,
  loaded,
  goalRemoved,
  maskRemoved,
  meshRemoved,
  moved,
  phaseRemoved,
  phaseRenamed,
  populationRemoved,
  removed,
  set,
  shotReducer,
} from '../src/store/shot.ts'

const { look: LOOK } = completePopulation({ id: 'plain' })
const asset = `sha256:${'ab'.repeat(32)}`

/** A shot in which everything names something else. */
function tangled(): Shot {
  const phases = ['Held', 'Loose']
  return {
    ...emptyShot('Tangled'),
    meshes: [
      completeMesh({
        id: 'tower',
        source: { asset },
        eaten: completeEaten({ mask: 'front', crumbleMask: 'noise' }),
      }),
      completeMesh({ id: 'body', source: { text: { text: 'A', weight: 700, size: 1, depth: 1, bevel: 0 } } }),
    ],
    masks: [
      completeMask({ id: 'noise', kind: 'noise' }),
      completeMask({ id: 'front', kind: 'spread', mesh: 'tower', from: { mask: 'noise' } }),
      completeMask({ id: 'both', kind: 'mix', of: 'front', with: 'noise' }),
      completeMask({ id: 'in', kind: 'inside', mesh: 'body' }),
    ],
    combings: [completeCombing({ id: 'hair', mesh: 'tower' }), completeCombing({ id: 'fur', mesh: 'body' })],
    populations: [
      completePopulation({
        id: 'dust',
        phases,
        births: [
          { id: 'a', kind: 'surface', mesh: 'tower', into: 'Held', amount: { swept: 10, mask: 'front' } },
          { id: 'b', kind: 'surface', mesh: 'body', into: 'Loose', amount: { rate: 5 }, density: 'both' },
        ],
        cues: [
          completeCue({ id: 'c', from: 'Held', to: 'Loose', when: { kind: 'mask', mask: 'in' } }),
          completeCue({ id: 'd', from: 'Loose', to: 'dies', when: { kind: 'inside', mesh: 'body' } }),
          completeCue({ id: 'e', from: 'Loose', to: 'Held', when: { kind: 'goal', goal: 'top' } }),
        ],
        goals: [
          completeGoal({ id: 'top', kind: 'surface', mesh: 'tower' }),
          completeGoal({ id: 'them', kind: 'population', population: 'others' }),
        ],
        influences: [
          completeInfluence({ id: 'g', kind: 'gravity', responses: [{ to: 'strength', from: 'mask', mask: 'both', curve: [[0, 1]] }] }, phases), // prettier-ignore
          completeInfluence({ id: 'r', kind: 'ride', weights: { Held: 1 } }, phases),
          completeInfluence({ id: 's', kind: 'seek', goal: 'top', weights: { Loose: 1 } }, phases),
          completeInfluence({ id: 't', kind: 'arrive', goal: 'them', weights: { Loose: 1 } }, phases),
          completeInfluence({ id: 'f', kind: 'follow', combing: 'hair' }, phases),
          completeInfluence(
            { id: 'm', kind: 'march', mesh: 'body', along: 'combing', combing: 'fur' },
            phases,
          ),
          completeInfluence({ id: 'k', kind: 'cover', mesh: 'tower', meltMask: 'noise' }, phases),
        ],
        look: { ...LOOK, draw: 'instances', instances: completeInstances({ set: [{ mesh: 'tower', weight: 1 }, { mesh: 'body', weight: 2 }] }) }, // prettier-ignore
      }),
      completePopulation({ id: 'others' }),
    ],
  }
}

type Action = ReturnType<typeof set>
const edit: fc.Arbitrary<Action> = fc.oneof(
  fc.constantFrom('tower', 'body').map((id) => meshRemoved(id) as unknown as Action),
  fc.constantFrom('noise', 'front', 'both', 'in').map((id) => maskRemoved(id) as unknown as Action),
  fc.constantFrom('hair', 'fur').map((id) => combingRemoved(id) as unknown as Action),
  fc.constantFrom('top', 'them').map((goal) => goalRemoved({ index: 0, goal }) as unknown as Action),
  fc.constant(populationRemoved('others') as unknown as Action),
  fc.constantFrom('Held', 'Loose').map((phase) => phaseRemoved({ index: 0, phase }) as unknown as Action),
  fc
    .tuple(fc.constantFrom('Held', 'Loose'), fc.constantFrom('Free', 'Gone'))
    .map(([from, to]) => phaseRenamed({ index: 0, from, to }) as unknown as Action),
  fc.constantFrom(0, 0.25, 1).map((value) => set({ path: ['populations', 0, 'influences', 0, 'strength'], value })), // prettier-ignore
  fc.constant(moved({ path: ['populations', 0, 'influences'], from: 0, to: 1 }) as unknown as Action),
  fc.constant(removed({ path: ['populations', 0, 'cues', 0] }) as unknown as Action),
  fc.constant(
    inserted({ path: ['masks'], value: completeMask({ id: 'more', kind: 'ball' }) }) as unknown as Action,
  ),
  fc.constant(set({ path: ['meshes', 0, 'eaten'], value: null })),
  fc.constantFrom('set', 'scrub').map((gesture) => set({ path: ['seed'], value: gesture.length, gesture })),
)

test('after any edits the document is sound, comes back from JSON identical, and undo and redo go both ways', () => {
  fc.assert(
    fc.property(fc.array(edit, { minLength: 1, maxLength: 8 }), (edits) => {
      const store = configureStore({ reducer: { shot: shotReducer }, middleware: () => [] as never })
      const present = (): Shot => store.getState().shot.present
      store.dispatch(loaded(tangled()))
      store.dispatch(ActionCreators.clearHistory())
      const history = [present()]
      for (const one of edits) {
        try {
          store.dispatch(one)
        } catch {
          // an edit before it has taken its place away
          continue
        }
        if (present() !== history.at(-1)) history.push(present())
        const read = readShot(JSON.parse(JSON.stringify(present())))
        if (new Set(present().masks.map((mask) => mask.id)).size === present().masks.length) {
          expect(read.problems ?? []).toEqual([])
          expect(read.shot).toEqual(present())
        }
      }
      const end = present()
      const steps = store.getState().shot.past.length
      for (let k = 0; k < steps; k++) store.dispatch(ActionCreators.undo())
      expect(present()).toEqual(tangled())
      for (let k = 0; k < steps; k++) store.dispatch(ActionCreators.redo())
      expect(present()).toEqual(end)
    }),
    { numRuns: 90, seed: 21 },
  )
})

test('a mesh that goes takes along what is made of it; a mask only the density of its seeds', () => {
  const store = configureStore({ reducer: { shot: shotReducer }, middleware: () => [] as never })
  const made = (id: string, source: object) => completeMesh({ id, source } as never)
  const shot = tangled()
  const [mask] = shot.masks
  const meshes = [
    ...shot.meshes,
    made('skin', { shell: { mesh: 'tower' } }),
    made('bits', { fracture: { mesh: 'skin', density: mask!.id } }),
  ]
  store.dispatch(loaded({ ...shot, meshes }))
  store.dispatch(maskRemoved(mask!.id))
  const bits = store.getState().shot.present.meshes.find(({ id }) => id === 'bits')!
  expect(bits.source).toMatchObject({ fracture: { mesh: 'skin' } })
  expect(bits.source).not.toHaveProperty('fracture.density')
  store.dispatch(meshRemoved('tower'))
  expect(store.getState().shot.present.meshes.map(({ id }) => id)).toEqual(['body'])
})

test('a mesh that goes takes along just what names it', () => {
  const store = configureStore({ reducer: { shot: shotReducer }, middleware: () => [] as never })
  store.dispatch(loaded(tangled()))
  store.dispatch(meshRemoved('tower'))
  const { masks, populations, meshes } = store.getState().shot.present
  expect(meshes.map((mesh) => mesh.id)).toEqual(['body'])
  // the spread lay on it, the mix read the spread, and the response read the mix
  expect(masks.map((mask) => mask.id)).toEqual(['noise', 'in'])
  expect(populations[0]!.births.map((birth) => [birth.id, birth.density])).toEqual([['b', undefined]])
  expect(populations[0]!.cues.map((cue) => cue.id)).toEqual(['c', 'd'])
  // the goal lay on it, and the cue and the seekers wanted there
  expect(populations[0]!.goals.map((goal) => goal.id)).toEqual(['them'])
  expect(populations[0]!.influences.map(({ id, responses }) => [id, responses])).toEqual([
    ['g', []],
    ['r', undefined],
    ['t', undefined],
    ['m', undefined],
  ])
  // of the meshes that they are drawn as the other one is left, then none: they are spheres
  expect(populations[0]!.look).toMatchObject({ draw: 'instances', instances: { set: [{ mesh: 'body' }] } })
  const last = configureStore({ reducer: { shot: shotReducer }, middleware: () => [] as never })
  last.dispatch(loaded(store.getState().shot.present))
  last.dispatch(meshRemoved('body'))
  expect(last.getState().shot.present.populations[0]!.look).toMatchObject({
    draw: 'spheres',
    instances: null,
  })
  store.dispatch(populationRemoved('others'))
  expect(store.getState().shot.present.populations).toMatchObject([{ id: 'dust', goals: [], influences: [{ id: 'g' }, { id: 'r' }, { id: 'm' }] }]) // prettier-ignore
})
