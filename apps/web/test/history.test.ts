/** @jest-environment jsdom */
/** Undo outlives a reload, and never leads into another document. */
import './browser.ts'
import type { Shot } from '@tangle/core'
import { ActionCreators } from 'redux-undo'
import { keepHistory, restoreHistory } from '../src/store/history.ts'
import { store } from '../src/store/index.ts'
import { opened } from '../src/store/session.ts'
import { loaded, set } from '../src/store/shot.ts'
import { shotOf } from './page.tsx'

const present = (): Shot => store.getState().shot.present
const steps = (): number[] => [store.getState().shot.past.length, store.getState().shot.future.length]
/** As the server gives it back: equal, with its keys in another order. */
const stored = (document: Shot): Shot => Object.fromEntries(Object.entries(structuredClone(document)).reverse()) as unknown as Shot // prettier-ignore

/** The page is loaded anew with a document. */
function reload(document: Shot): void {
  store.dispatch(loaded(document))
  store.dispatch(ActionCreators.clearHistory())
  restoreHistory('here', document)
}
/** Three edits, of which one has been undone. */
function edited(): { first: Shot; last: Shot } {
  const first = shotOf({})
  store.dispatch(loaded(first))
  store.dispatch(ActionCreators.clearHistory())
  store.dispatch(opened({ shotId: 'here', version: 1 }))
  for (const seed of [11, 12, 13]) store.dispatch(set({ path: ['seed'], value: seed }))
  store.dispatch(ActionCreators.undo())
  return { first, last: present() }
}
beforeEach(() => sessionStorage.clear())

test('what was done before a reload is undone after it, and what was undone is done again', () => {
  const { first, last } = edited()
  keepHistory()
  reload(stored(last))
  expect(steps()).toEqual([2, 1])
  store.dispatch(ActionCreators.redo())
  expect(present().seed).toBe(13)
  for (let n = 0; n < 3; n++) store.dispatch(ActionCreators.undo())
  expect(present()).toEqual(first)
  // and edits go on from there
  store.dispatch(set({ path: ['seed'], value: 5 }))
  expect(steps()).toEqual([1, 0])
})

test('where another window has changed the shot meanwhile, and in another shot, there is nothing to undo', () => {
  const { last } = edited()
  keepHistory()
  reload({ ...last, seed: 99 })
  expect(steps()).toEqual([0, 0])
  keepHistory()
  store.dispatch(loaded(last))
  store.dispatch(ActionCreators.clearHistory())
  restoreHistory('there', last)
  expect(steps()).toEqual([0, 0])
})

test.each(['{', 'null', '{"document":{}}', '{"document":{},"past":1,"future":[]}'])(
  'what the browser kept is broken (%s): the shot opens without',
  (broken) => {
    const { last } = edited()
    sessionStorage.setItem('tangle.undo.here', broken)
    expect(() => reload(stored(last))).not.toThrow()
    expect(steps()).toEqual([0, 0])
  },
)

test('where the browser has little room, the last steps are kept', () => {
  const { last } = edited()
  for (let n = 0; n < 40; n++) store.dispatch(set({ path: ['seed'], value: 100 + n }))
  const end = present()
  const { setItem } = Storage.prototype
  const room = 12 * JSON.stringify(last).length
  Storage.prototype.setItem = function (this: Storage, key: string, value: string): void {
    if (value.length > room) throw new Error('QuotaExceededError')
    setItem.call(this, key, value)
  }
  try {
    keepHistory()
  } finally {
    Storage.prototype.setItem = setItem
  }
  reload(stored(end))
  const [past] = steps() as [number, number]
  expect(past).toBeGreaterThanOrEqual(3)
  expect(past).toBeLessThan(12)
  store.dispatch(ActionCreators.undo())
  expect(present().seed).toBe(138)
})
