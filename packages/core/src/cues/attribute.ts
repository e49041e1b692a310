import { ownName } from '../state/attribute.ts'
import { number, reference } from '../document/parameters.ts'
import { cue } from './cue.ts'

const level = (label: string, help: string) =>
  number({
    label,
    unit: '',
    help,
    default: 1,
    range: [-1e9, 1e9],
    usual: [0, 10],
    step: 0.01,
    keyable: true,
    absent: 'any',
  })

/** A number of the particle's own exceeds one level, or is below another; of vectors the first part counts. */
export const attributeCue = cue({
  kind: 'attribute',
  label: 'By an attribute',
  glyph: '≶',
  help: 'When an attribute of its own is above or below a level',
  pitfall: 'Nothing happens: nothing sets the attribute. Add Set, or give it a spread at birth.',
  source: '',
  parameters: {
    attribute: reference({ label: 'Attribute', help: 'Which of the population’s own', to: 'attribute' }),
    above: level('Above', 'It must be above this'),
    below: level('Below', 'It must be below this'),
  },
  test({ attribute, above, below }, { column, count }) {
    const values = column(ownName(attribute))
    const width = count > 0 ? values.length / count : 1
    const low = above ?? -Infinity
    const high = below ?? Infinity
    return (k) => values[k * width]! > low && values[k * width]! < high
  },
  words({ attribute, above, below }, names) {
    const parts = [
      ...(above === undefined ? [] : [`above ${wordOf(above)}`]),
      ...(below === undefined ? [] : [`below ${wordOf(below)}`]),
    ]
    return `${names(attribute as string)} is ${parts.length > 0 ? parts.join(' and ') : 'anything'}`
  },
})
const wordOf = (value: unknown): string => (typeof value === 'number' ? String(value) : 'a keyed level')
