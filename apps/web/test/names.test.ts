/** @jest-environment jsdom */
/** Names follow what they name until they are changed by hand, and no two in a list are the same. */
import { completeCombing, completeMesh, type Shot } from '@tangle/core'
import { ActionCreators } from 'redux-undo'
import { addInfluence, newGoal } from '../src/steps/populations.ts'
import { store } from '../src/store/index.ts'
import { inserted, loaded, set } from '../src/store/shot.ts'
import { shotOf } from './page.tsx'

const now = (): Shot => store.getState().shot.present
const open = (more: object = {}, shot: object = {}): void => {
  store.dispatch(loaded(shotOf(more, shot)))
  store.dispatch(ActionCreators.clearHistory())
}
const rename = (list: 'meshes' | 'masks' | 'populations', at: number, value: string): void =>
  void store.dispatch(set({ path: [list, at, 'name'], value }))
const goal = (at = 0) => now().populations[0]!.goals[at]!
const addGoal = (): void =>
  void store.dispatch(inserted({ path: ['populations', 0, 'goals'], value: newGoal(now().populations[0]!, 'surface') })) // prettier-ignore

describe('a goal', () => {
  test('is called as its mesh, also when that is renamed or another is chosen', () => {
    open()
    addGoal()
    expect(goal().name).toBe('Boat')
    rename('meshes', 1, 'Ferry')
    expect(goal().name).toBe('Ferry')
    store.dispatch(set({ path: ['populations', 0, 'goals', 0, 'mesh'], value: 'rock' }))
    expect(goal().name).toBe('Rock')
    store.dispatch(ActionCreators.undo())
    expect(goal().name).toBe('Ferry')
  })

  test('keeps a name that was given by hand', () => {
    open()
    addGoal()
    store.dispatch(set({ path: ['populations', 0, 'goals', 0, 'name'], value: 'Harbour' }))
    rename('meshes', 1, 'Ferry')
    store.dispatch(set({ path: ['populations', 0, 'goals', 0, 'mesh'], value: 'rock' }))
    expect(goal().name).toBe('Harbour')
  })

  test('a second one on the same mesh is told apart, and both follow', () => {
    open()
    addGoal()
    addGoal()
    expect([goal(0).name, goal(1).name]).toEqual(['Boat', 'Boat 2'])
    rename('meshes', 1, 'Ferry')
    expect([goal(0).name, goal(1).name].sort()).toEqual(['Ferry', 'Ferry 2'])
  })
})

test('what is made of a mesh and combings on it are called after it', () => {
  open()
  const add = (path: string, value: unknown): void => void store.dispatch(inserted({ path: [path], value }))
  add(
    'meshes',
    completeMesh({ id: 'p', name: 'Rock in pieces', source: { fracture: { mesh: 'rock' } as never } }),
  )
  add(
    'meshes',
    completeMesh({ id: 's', name: 'Shell of Rock', source: { shell: { mesh: 'rock' } as never } }),
  )
  add('combings', completeCombing({ id: 'c', name: 'Combing of Rock', mesh: 'rock' }))
  rename('meshes', 0, 'Cliff')
  expect(now().meshes.map(({ name }) => name)).toEqual(['Cliff', 'Boat', 'Cliff in pieces', 'Shell of Cliff'])
  expect(now().combings[0]!.name).toBe('Combing of Cliff')
})

test.each(['meshes', 'masks', 'populations'] as const)('no two of the %s are called the same', (list) => {
  const mask = (id: string, name: string) => ({ id, name, kind: 'slab' })
  open({}, { masks: [mask('a', 'Left'), mask('b', 'Right')] })
  if (list === 'populations') store.dispatch(inserted({ path: [list], value: { ...now().populations[0]!, id: 'two', name: 'Smoke' } })) // prettier-ignore
  const called = (): string[] => now()[list].map(({ name }) => name)
  const [first] = called()
  rename(list, 1, first!)
  expect(called().slice(0, 2)).toEqual([first, `${first} 2`])
  // the other one, to what this one is called now
  rename(list, 0, `${first} 2`)
  expect(new Set(called()).size).toBe(called().length)
})

test('a document that comes with equal names keeps them until one of them is edited', () => {
  const mask = (id: string) => ({ id, name: 'Same', kind: 'slab' })
  open({}, { masks: [mask('a'), mask('b')] })
  rename('meshes', 0, 'Cliff')
  expect(now().masks.map(({ name }) => name)).toEqual(['Same', 'Same'])
})

test('a second influence of a kind has a name of its own', () => {
  open()
  for (let n = 0; n < 3; n++) addInfluence(now().populations[0]!, 0, 'gravity')
  expect(now().populations[0]!.influences.map(({ name }) => name)).toEqual([
    undefined,
    'Gravity 2',
    'Gravity 3',
  ])
})
