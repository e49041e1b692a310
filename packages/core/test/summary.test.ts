/** A row of the score in words. */
import { influenceInWords, INFLUENCES, type Influence } from '../src/index.ts'
import { acting, shotOf } from './help.ts'

const names = (id: string): string => ({ front: 'the front', box: 'the bell' })[id] ?? id
const phases = ['Held', 'Loose', 'Home']
function words(kind: string, more: object = {}, weights: Record<string, number> = { Loose: 1 }): string {
  const shot = shotOf({ phases, influences: [{ ...acting(kind), weights, ...more } as Influence] })
  return influenceInWords(shot.populations[0]!.influences[0]!, shot.populations[0]!, names)
}
const keyed = (...keys: [number, number][]) => ({ strength: { keys } })

test.each<[string, object, Record<string, number>, string]>([
  ['one phase', {}, { Loose: 1 }, 'Loose: wind'],
  ['all phases', {}, { Held: 1, Loose: 1, Home: 1 }, 'All phases: wind'],
  ['some of them', {}, { Held: 1, Home: 1 }, 'Held, Home: wind'],
  ['by different weights', {}, { Held: 0.5, Loose: 1 }, 'Held × 0.5, Loose: wind'],
  ['by the same weight', {}, { Held: 0.5, Home: 0.5 }, 'Held, Home × 0.5: wind'],
  ['nowhere', {}, {}, 'Nowhere: wind'],
  ['another strength', { strength: 0.8 }, { Loose: 1 }, 'Loose: wind 0.8 1/s'],
  ['fading out', keyed([120, 0.8], [210, 0]), { Loose: 1 }, 'Loose: wind 0.8 1/s, fading out from frame 120 to 210'],
  ['fading in', keyed([1, 0], [24, 2]), { Loose: 1 }, 'Loose: wind, fading in to 2 1/s from frame 1 to 24'],
  ['rising', keyed([1, 1], [24, 2]), { Loose: 1 }, 'Loose: wind, rising from 1 to 2 1/s from frame 1 to 24'],
  ['up and down', keyed([1, 1], [24, 2], [48, 0]), { Loose: 1 }, 'Loose: wind, between 0 and 2 1/s from frame 1 to 48'],
  ['keys that say one thing', keyed([1, 2], [24, 2]), { Loose: 1 }, 'Loose: wind 2 1/s'],
  ['again and again', { strength: { keys: [[1, 0], [24, 2]], repeat: 'swing' } }, { Loose: 1 }, 'Loose: wind, fading in to 2 1/s from frame 1 to 24, again and again'],
  ['another parameter', { speed: 12 }, { Loose: 1 }, 'Loose: wind; air speed 12 m/s'],
  ['muted', { muted: true }, { Loose: 1 }, 'Loose: wind (muted)'],
  ['a response', { responses: [{ to: 'speed', from: 'age', curve: [[0, 1], [1, 0]] }] }, { Loose: 1 }, 'Loose: wind; air speed by age'],
])('%s', (_, more, weights, said) => expect(words('wind', more, weights)).toBe(said)) // prettier-ignore

test('what it acts through is named', () => {
  expect(words('collide', { mesh: 'box' })).toBe('Loose: collide; mesh the bell')
})

test('every kind has words, none of them unknown', () => {
  for (const { kind, label } of INFLUENCES) {
    const said = influenceInWords({ id: 'i', kind, weights: { Loose: 1 }, strength: 1 }, shotOf({ phases }).populations[0]!, names) // prettier-ignore
    expect(said.toLowerCase()).toContain(label.toLowerCase())
    expect(said).not.toMatch(/undefined|NaN|\[object/)
  }
})
