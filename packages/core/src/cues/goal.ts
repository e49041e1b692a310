import { number } from '../shot/parameters.ts'
import { cue, NOT_BEFORE } from './kind.ts'

/** Nearer than a distance to its goal: its place on the mesh it was born on. */
export const goal = cue({
  kind: 'goal',
  label: 'Near its goal',
  glyph: '◎',
  help: 'When it is back at its place on the mesh',
  source: '',
  columns: ['anchor', 'anchorAt'],
  parameters: {
    distance: number({
      label: 'Within',
      unit: 'm',
      help: 'What counts as there',
      default: 0.02,
      range: [0, 1e4],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
    }),
    frames: NOT_BEFORE,
  },
  test({ distance, frames }, { column, toAnchor, rate }) {
    const phaseAge = column('phaseAge')
    const away = toAnchor()
    return (k) => phaseAge[k]! * rate >= frames && away[k]! <= distance
  },
  words: () => 'back at its place',
})
