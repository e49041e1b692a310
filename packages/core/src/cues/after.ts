import { varied } from '../document/parameters.ts'
import { cue } from './cue.ts'

/** Frames in the phase ≥ mean + spread·(2r − 1), r of the particle's own. */
export const after = cue({
  kind: 'after',
  label: 'After a time',
  glyph: '◷',
  help: 'So many frames after it came into the phase',
  pitfall: 'All go together: let the frames vary.',
  source: '',
  parameters: {
    frames: varied({
      label: 'Frames after entering',
      unit: 'frames',
      help: 'How long it stays in the phase',
      default: { mean: 24, spread: 6 },
      range: [0, 1e6],
      usual: [0, 120],
      step: 1,
      spread: 'unit',
    }),
  },
  test({ frames }, { column, random, rate }) {
    const phaseAge = column('phaseAge')
    const { mean, spread } = typeof frames === 'number' ? { mean: frames, spread: 0 } : frames!
    // half a frame in a thousand: an age that is a sum of substeps falls short by rounding
    if (spread === 0) return (k) => phaseAge[k]! * rate >= mean - 5e-4
    const draws = random()
    return (k) => phaseAge[k]! * rate >= mean + spread * (2 * draws[k]! - 1) - 5e-4
  },
  words({ frames }) {
    const { mean, spread } = frames as { mean: number; spread: number }
    return mean === undefined ? `after ${String(frames)} frames` : `after ${mean} ± ${spread} frames`
  },
})
