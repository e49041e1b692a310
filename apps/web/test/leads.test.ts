/** @jest-environment jsdom */
/** A check leads to the row that it is about. */
import type { Check } from '@tangle/core'
import { leadOf } from '../src/stage/leads.ts'
import { shotOf } from './page.tsx'

const shot = shotOf({
  births: [{ id: 'on-rock', kind: 'surface', mesh: 'rock', into: 'Held', amount: { rate: 10 } }],
  influences: [{ id: 'w', kind: 'wind', weights: { Loose: 1 } }],
  goals: [{ id: 'g', name: 'Goal', kind: 'surface', mesh: 'boat' }],
})
const lead = (id: string, path?: (string | number)[]) => {
  const check: Check = {
    id,
    title: '',
    text: '',
    ...(path && { mend: { label: '', edits: [{ path, value: 0 }] } }),
  }
  return leadOf(check, shot)
}

test.each<[string, (string | number)[] | undefined, object | null]>([
  ['x', ['populations', 0, 'influences', 0, 'strength'], { step: 'motion', select: { population: 'dust', influence: 'w' } }],
  ['x', ['populations', 0, 'births', 0, 'kind'], { step: 'births', select: { population: 'dust', birth: 'on-rock' } }],
  ['x', ['populations', 0, 'look', 'draw'], { step: 'look', select: { population: 'dust' } }],
  ['x', ['populations', 0, 'influences'], { step: 'motion', select: { population: 'dust', influence: null } }],
  ['x', ['meshes', 1, 'detail'], { step: 'meshes', select: { mesh: 'boat' } }],
  ['x', ['masks', 0, 'scale'], { step: 'masks', select: { mask: 'left', combing: null } }],
  ['dust:on-rock:slow', undefined, { step: 'births', select: { population: 'dust', birth: 'on-rock' } }],
  ['dust:none', undefined, { step: 'births', select: { population: 'dust', birth: null } }],
  ['dust:w:strays', undefined, { step: 'motion', select: { population: 'dust', influence: 'w' } }],
  ['dust:g:far', undefined, { step: 'motion', select: { population: 'dust', goal: 'g' } }],
  ['dust:astray', undefined, { step: 'motion', select: { population: 'dust', influence: null } }],
  ['left:uv', undefined, { step: 'masks', select: { mask: 'left', combing: null } }],
  ['rock:turns', undefined, { step: 'meshes', select: { mesh: 'rock' } }],
  ['quality', ['quality', 'level'], null],
])('%s, %j', (id, path, expected) => expect(lead(id, path)).toEqual(expected)) // prettier-ignore
