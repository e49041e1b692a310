/** @jest-environment jsdom */
/** Keys that repeat stay so, whatever is done to them, and are changed where they are seen. */
import './browser.ts'
import { valueAt, type Keyed } from '@tangle/core'
import { keyToggled, withValueAt } from '../src/fields/keyed.ts'
import { keyedOf } from '../src/score/keyEdits.ts'

const swing: Keyed = { keys: [[1, 0, 'linear'], [11, 10]], repeat: 'swing' } // prettier-ignore

test('a value that is typed beyond the last key goes where it is seen', () => {
  // frame 17 shows what frame 5 has: 4
  expect(valueAt(swing, 17)).toBe(4)
  const changed = withValueAt(swing, 17, 7)
  expect(changed).toEqual({ keys: [[1, 0, 'linear'], [5, 7, 'smooth'], [11, 10]], repeat: 'swing' }) // prettier-ignore
  for (const frame of [5, 17, 25]) expect(valueAt(changed, frame)).toBe(7)
})

test('taking keys away and putting them in leaves the repeat; the last one leaves a number', () => {
  const fewer = keyToggled(swing, 11)
  expect(fewer).toEqual({ keys: [[1, 0, 'linear']], repeat: 'swing' })
  expect(keyToggled(fewer, 1)).toBe(0)
  expect(keyedOf([[3, 1]], swing, 0)).toEqual({ keys: [[3, 1]], repeat: 'swing' })
  expect(keyedOf([], swing, 5)).toBe(5)
  expect(keyedOf([[3, 1]], 2, 0)).toEqual({ keys: [[3, 1]] })
})
