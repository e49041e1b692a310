import { RAMP_ENTRIES, rampTable } from '../look/ramps.ts'
import { number, ramp } from '../document/parameters.ts'
import { APPLIED, influence } from './influence.ts'

/** colour = mix(white, ramp(at), strength), linear RGB; the look must colour by "own". */
export const colour = influence({
  kind: 'colour',
  family: 'change',
  label: 'Colour',
  glyph: '◨',
  help: 'Gives each a colour of its own from a ramp; the look must colour by "own"',
  pitfall: 'The colours do not show: the look must colour by "own".',
  source: '',
  attributes: ['colour'],
  parameters: {
    strength: APPLIED,
    at: number({
      label: 'Position on the ramp',
      unit: '',
      help: 'Where on the ramp, 0 to 1; let it respond to something',
      default: 1,
      range: [0, 1],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
      responsive: true,
    }),
    ramp: ramp({ label: 'Ramp', help: 'The colours', default: 'ember' }),
  },
  updateAttributes(values, { machine, columns, amount, factors, scratch }) {
    const table = scratch(RAMP_ENTRIES * 12)
    machine.heap.f32(table, RAMP_ENTRIES * 3).set(rampTable(values.ramp))
    machine.run('tint', columns.count, {
      amount,
      colour: columns.at.colour,
      ramp: table,
      at: values.at,
      ats: factors('at'),
      r: 1,
      g: 1,
      b: 1,
    })
  },
})
