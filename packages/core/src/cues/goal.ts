import { number, reference } from '../document/parameters.ts'
import { cue, NOT_BEFORE } from './cue.ts'

/** Nearer than a distance to a goal, or to its place on the mesh it was born on. */
export const goal = cue({
  kind: 'goal',
  label: 'Near its goal',
  glyph: '◎',
  help: 'When it is near enough to a goal, or back at its place on the mesh',
  pitfall: 'They never count as there: make the distance larger than what they swing by.',
  source: '',
  attributes: ['anchor', 'anchorAt'],
  parameters: {
    goal: reference({
      label: 'Goal',
      help: 'Which of the goals',
      to: 'goal',
      absent: 'its place on the mesh',
    }),
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
  test({ goal, distance, frames }, { column, toGoal, rate }) {
    const phaseAge = column('phaseAge')
    const away = toGoal(goal)
    return (k) => phaseAge[k]! * rate >= frames && away[k]! >= 0 && away[k]! <= distance
  },
  words: ({ goal }, names) => (goal === undefined ? 'back at its place' : `at ${names(goal as string)}`),
})
