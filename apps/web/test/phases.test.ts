/** @jest-environment jsdom */
/** What a new phase begins with. */
import './browser.ts'
import { readShot, type Shot } from '@tangle/core'
import { ActionCreators } from 'redux-undo'
import { addPhase } from '../src/steps/populations.ts'
import { store } from '../src/store/index.ts'
import { loaded } from '../src/store/shot.ts'
import { shotOf } from './page.tsx'

const present = (): Shot => store.getState().shot.present
const population = () => present().populations[0]!

test('a new phase has gravity, drag and what is touched of the one before it, in one step of undo', () => {
  store.dispatch(loaded(shotOf({
    phases: ['Held', 'Loose'],
    influences: [
      { id: 'pull', kind: 'gravity', weights: { Held: 0, Loose: 0.5 } },
      { id: 'ground', kind: 'floor', weights: { Loose: 1 } },
      { id: 'gale', kind: 'wind', weights: { Loose: 1 } },
      { id: 'early', kind: 'drag', weights: { Held: 1 } },
      { id: 'carried', kind: 'fade', weights: { Loose: 1 } },
    ],
  }))) // prettier-ignore
  store.dispatch(ActionCreators.clearHistory())
  addPhase(population(), 0)
  const [, , name] = population().phases
  expect(population().influences.map(({ weights }) => weights[name!])).toEqual([
    0.5,
    1,
    undefined,
    undefined,
    undefined,
  ])
  expect(readShot(JSON.parse(JSON.stringify(present()))).problems ?? []).toEqual([])
  store.dispatch(ActionCreators.undo())
  expect(population().phases).toEqual(['Held', 'Loose'])
  expect(Object.keys(population().influences[0]!.weights)).toEqual(['Held', 'Loose'])
})
