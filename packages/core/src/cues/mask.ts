import { number, reference } from '../document/parameters.ts'
import { cue } from './cue.ts'

const level = (label: string, help: string) =>
  number({
    label,
    unit: '',
    help,
    default: 0.5,
    range: [-1, 2],
    usual: [0, 1],
    step: 0.01,
    keyable: true,
    absent: 'any',
  })

/** The mask where the particle is exceeds one level, or is below another; with neither, above ½. */
export const maskCue = cue({
  kind: 'mask',
  label: 'By a mask',
  glyph: '◔',
  help: 'Where a mask is above or below a level',
  pitfall: 'All go at once: the mask was above the level from the start. Let a front spread, or key it.',
  source: '',
  attributes: ['anchor', 'anchorAt'],
  parameters: {
    mask: reference({ label: 'Mask', help: 'The mask that is read where the particle is', to: 'mask' }),
    above: level('Above', 'The mask must be above this'),
    below: level('Below', 'The mask must be below this'),
  },
  test({ mask, above, below }, context) {
    const values = context.mask(mask)
    const high = below ?? Infinity
    const low = above ?? (below === undefined ? 0.5 : -Infinity)
    return (k) => values[k]! > low && values[k]! < high
  },
  words({ mask, above, below }, names) {
    const parts = [
      ...(above === undefined && below !== undefined ? [] : [`above ${wordOf(above ?? 0.5)}`]),
      ...(below === undefined ? [] : [`below ${wordOf(below)}`]),
    ]
    return `${names(mask as string)} is ${parts.join(' and ')}`
  },
})
const wordOf = (value: unknown): string => (typeof value === 'number' ? String(value) : 'a keyed level')
