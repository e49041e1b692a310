import { number } from '../document/parameters.ts'
import { APPLIED, influence } from './influence.ts'

/** opacity = mix(1, opacity, strength), from 0 to 1. */
export const fade = influence({
  kind: 'fade',
  family: 'change',
  label: 'Fade',
  glyph: '◐',
  help: 'Makes them see-through, over age or whatever it responds to',
  pitfall:
    'Nothing is seen of it: points and spheres fade in the look, a renderer needs the opacity from the file.',
  source: '',
  attributes: ['opacity'],
  parameters: {
    strength: APPLIED,
    opacity: number({
      label: 'Opacity',
      unit: '×',
      help: '1 is solid, 0 can’t be seen',
      default: 1,
      range: [0, 1],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
      responsive: true,
    }),
  },
  updateAttributes(values, { machine, columns, amount, factors }) {
    machine.run('fadeTo', columns.count, {
      amount,
      opacity: columns.at.opacity,
      value: values.opacity,
      values: factors('opacity'),
    })
  },
})
