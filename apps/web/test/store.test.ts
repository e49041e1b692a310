import { configureStore } from '@reduxjs/toolkit'
import { readShot, type Shot } from '@tangle/core'
import fc from 'fast-check'
import { ActionCreators } from 'redux-undo'
import { inserted, loaded, removed, set, shotReducer } from '../src/store/shot.ts'

const start = readShot({
  format: 'tangle-shot',
  version: 1,
  name: 'Start',
  frames: { first: 1, last: 50, rate: 24 },
  populations: [
    {
      id: 'dust',
      influences: [
        { id: 'a', kind: 'gravity' },
        { id: 'b', kind: 'drag' },
      ],
    },
  ],
}).shot as Shot
const influences = ['populations', 0, 'influences']

/** Any edit that the interface can make of this document. */
const edit = fc.oneof(
  fc.integer({ min: 2, max: 300 }).map((last) => set({ path: ['frames', 'last'], value: last })),
  fc
    .double({ min: 0, max: 3, noNaN: true })
    .map((strength) => set({ path: [...influences, 0, 'strength'], value: strength })),
  fc.constant(set({ path: [...influences, 0, 'muted'], value: true })),
  fc.constant(set({ path: [...influences, 0, 'muted'], value: undefined })),
  fc
    .integer({ min: 0, max: 1e6 })
    .map((n) =>
      inserted({ path: influences, value: { id: `n${n}`, kind: 'drag', weights: {}, strength: 1 }, at: 0 }),
    ),
  fc.constant(removed({ path: [...influences, 1] })),
)

test('any edits, undone all the way, give the document back; redone, they give the same again', () => {
  fc.assert(
    fc.property(fc.array(edit, { maxLength: 30 }), (edits) => {
      const store = configureStore({ reducer: { shot: shotReducer } })
      store.dispatch(loaded(start))
      store.dispatch(ActionCreators.clearHistory())
      for (const action of edits) store.dispatch(action)
      const end = store.getState().shot.present
      const steps = store.getState().shot.past.length
      for (let i = 0; i < steps; i++) store.dispatch(ActionCreators.undo())
      expect(store.getState().shot.present).toEqual(start)
      for (let i = 0; i < steps; i++) store.dispatch(ActionCreators.redo())
      expect(store.getState().shot.present).toEqual(end)
    }),
    { numRuns: 100, seed: 2 },
  )
})

test('one drag is one step of undo', () => {
  const store = configureStore({ reducer: { shot: shotReducer } })
  store.dispatch(loaded(start))
  store.dispatch(ActionCreators.clearHistory())
  for (const value of [1, 2, 3])
    store.dispatch(set({ path: [...influences, 0, 'strength'], value, gesture: 'drag 1' }))
  store.dispatch(set({ path: [...influences, 0, 'strength'], value: 9, gesture: 'drag 2' }))
  store.dispatch(ActionCreators.undo())
  expect(store.getState().shot.present.populations[0]!.influences[0]!.strength).toBe(3)
  store.dispatch(ActionCreators.undo())
  expect(store.getState().shot.present).toEqual(start)
})
