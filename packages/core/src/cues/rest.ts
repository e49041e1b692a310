import { number } from '../document/parameters.ts'
import { cue, NOT_BEFORE } from './cue.ts'

/** Slower than a speed, after some frames in the phase. */
export const rest = cue({
  kind: 'rest',
  label: 'At rest',
  glyph: '⌄',
  help: 'When it has become slow',
  pitfall: 'All go at once as they are born: who stands still has no speed. Wait for some frames.',
  source: '',
  parameters: {
    speed: number({
      label: 'Slower than',
      unit: 'm/s',
      help: 'What counts as rest',
      default: 0.02,
      range: [0, 1e4],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
    }),
    frames: NOT_BEFORE,
  },
  test({ speed, frames }, { column, rate }) {
    const v = column('velocity')
    const phaseAge = column('phaseAge')
    return (k) =>
      phaseAge[k]! * rate >= frames &&
      v[k * 3]! ** 2 + v[k * 3 + 1]! ** 2 + v[k * 3 + 2]! ** 2 < speed * speed
  },
  words: () => 'at rest',
})
