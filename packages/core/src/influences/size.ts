import { number } from '../document/parameters.ts'
import { APPLIED, influence } from './influence.ts'

/** radius = radius at birth · mix(1, size, strength). A particle of size 0 dies. */
export const size = influence({
  kind: 'size',
  family: 'change',
  label: 'Size',
  glyph: '◦',
  help: 'Makes them grow or shrink, over age or whatever it responds to; at size 0 they die',
  pitfall: 'They die at once: at size 0 they are gone. A response to age makes them shrink.',
  source: '',
  attributes: ['birthRadius'],
  parameters: {
    strength: APPLIED,
    size: number({
      label: 'Size',
      unit: '×',
      help: 'Of the size at birth',
      default: 1,
      range: [0, 1e4],
      usual: [0, 4],
      step: 0.01,
      keyable: true,
      responsive: true,
    }),
  },
  updateAttributes(values, { machine, columns, amount, factors }) {
    const { birthRadius, radius, inverseMass } = columns.at
    const sizes = factors('size')
    machine.run('resize', columns.count, {
      amount,
      birthRadius,
      radius,
      inverseMass,
      size: values.size,
      sizes,
    })
  },
})
