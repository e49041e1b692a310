/** @jest-environment jsdom */
/** What an edit has changed is said in the words of the interface. */
import { completeInfluence, type Shot } from '@tangle/core'
import { changeInWords } from '../src/store/changes.ts'
import { shotOf } from './page.tsx'

const start = shotOf({
  influences: [
    { id: 'w', kind: 'wind', name: 'Sea breeze', weights: { Loose: 1 } },
    { id: 'g', kind: 'gravity', weights: { Loose: 1 } },
  ],
  births: [{ id: 'b', kind: 'surface', mesh: 'rock', into: 'Held', amount: { rate: 10 } }],
})
/** What is said of an edit of a copy. */
function said(edit: (shot: Shot) => void): string {
  const next = structuredClone(start)
  edit(next)
  return changeInWords(start, next)
}
const dust = (shot: Shot) => shot.populations[0]!

test.each<[string, (shot: Shot) => void]>([
  ['Sea breeze: air speed', (shot) => void (dust(shot).influences[0]!.speed = 9)],
  ['Gravity: strength', (shot) => void (dust(shot).influences[1]!.strength = 2)],
  ['Gravity: weights', (shot) => void (dust(shot).influences[1]!.weights = { Held: 1 })],
  ['Gravity: muted or not', (shot) => void (dust(shot).influences[1]!.muted = true)],
  ['Gravity removed', (shot) => void dust(shot).influences.pop()],
  ['Drag added', (shot) => void dust(shot).influences.push(completeInfluence({ id: 'd', kind: 'drag', weights: {} }, ['Held']))], // prettier-ignore
  ['2 influences removed', (shot) => void (dust(shot).influences = [])],
  ['order of influences', (shot) => void dust(shot).influences.reverse()],
  ['Rock: place', (shot) => void (shot.meshes[0]!.place.position = [1, 2, 3])],
  ['Cliff: name', (shot) => void (shot.meshes[0]!.name = 'Cliff')],
  ['Dust: look', (shot) => void (dust(shot).look.draw = 'discs')],
  ['Dust: phases', (shot) => void dust(shot).phases.push('Home')],
  ['frame range', (shot) => void (shot.frames.last = 50)],
  ['name', (shot) => void (shot.name = 'Other')],
  ['nothing', () => undefined],
])('%s', (words, edit) => expect(said(edit)).toBe(words))

test('the order of keys, which the database changes, is no change', () => {
  const turned = (value: unknown): unknown =>
    Array.isArray(value)
      ? value.map(turned)
      : typeof value === 'object' && value !== null
        ? Object.fromEntries(Object.entries(value).reverse().map(([key, one]) => [key, turned(one)]))
        : value // prettier-ignore
  const stored = turned(start) as Shot
  expect(JSON.stringify(stored)).not.toBe(JSON.stringify(start))
  expect(changeInWords(start, stored)).toBe('nothing')
  dust(stored).influences[1]!.strength = 2
  expect(changeInWords(start, stored)).toBe('Gravity: strength')
})

test('of several things at once the first is named and the rest are counted', () => {
  const words = said((shot) => {
    shot.meshes[0]!.visible = false
    shot.frames.rate = 25
    dust(shot).influences.pop()
  })
  expect(words).toMatch(/, and 2 more$/)
})
