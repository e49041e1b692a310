import { choice, number } from '../document/parameters.ts'
import { cue } from './cue.ts'

/** It has come to a temperature: what melts, sets, boils or catches fire. */
export const temperatureCue = cue({
  kind: 'temperature',
  label: 'By its temperature',
  glyph: '°',
  help: 'When it is warmer or colder than a temperature: what melts goes to a phase in which it is liquid, what sets to one in which it is linked',
  pitfall: 'Nothing happens: they have no temperature. Add Warmth to their population.',
  source: '',
  parameters: {
    side: choice({
      label: 'When',
      help: 'Warmer or colder',
      default: 'above',
      options: { above: 'warmer than', below: 'colder than' },
    }),
    temperature: number({
      label: 'Temperature',
      unit: '°C',
      help: 'Wax melts at some 55 °C, water freezes at 0 °C',
      default: 55,
      range: [-273.15, 1e5],
      usual: [-20, 200],
      step: 0.5,
      keyable: true,
    }),
  },
  attributes: ['temperature'],
  test({ side, temperature }, { column }) {
    const values = column('temperature')
    return side === 'above' ? (k) => values[k]! > temperature : (k) => values[k]! < temperature
  },
  words: ({ side, temperature }) =>
    `${side === 'below' ? 'colder' : 'warmer'} than ${typeof temperature === 'number' ? `${String(temperature)} °C` : 'a keyed temperature'}`,
})
