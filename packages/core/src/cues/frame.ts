import { number } from '../document/parameters.ts'
import { cue } from './cue.ts'

/** The frame ≥ frame + spread·(2r − 1), r of the particle's own. */
export const frameCue = cue({
  kind: 'frame',
  label: 'At a frame',
  glyph: '⚑',
  help: 'From a frame of the shot on, however long it has been in the phase',
  pitfall: 'It comes too early for those who were born later: they go on as soon as they are there.',
  source: '',
  parameters: {
    frame: number({
      label: 'Frame',
      unit: 'frames',
      help: 'Who comes into the phase later goes on at once',
      moment: true,
      default: 100,
      range: [-1e6, 1e6],
      usual: [1, 240],
      step: 1,
      keyable: true,
    }),
    spread: number({
      label: 'Varies',
      unit: 'frames',
      help: 'Each goes up to this much earlier or later',
      default: 0,
      range: [0, 1e6],
      usual: [0, 48],
      step: 1,
      keyable: true,
    }),
  },
  test({ frame, spread }, { frame: now, random }) {
    const draws = random()
    // a frame that is a sum of substeps falls short by rounding
    return (k) => now >= frame + spread * (2 * draws[k]! - 1) - 5e-4
  },
  words({ frame, spread }) {
    const at = (value: unknown): string => (typeof value === 'number' ? String(value) : '…')
    return `at frame ${at(frame ?? 100)}${spread ? ` ± ${at(spread)}` : ''}`
  },
})
