import { scale, unit } from '../math/vector.ts'
import { direction, number } from '../document/parameters.ts'
import { influence } from './influence.ts'

/** Standard acceleration of free fall, m/s² (3rd General Conference on Weights and Measures, 1901). */
export const STANDARD_GRAVITY = 9.80665

/** a = strength · 9.80665 m/s² along the direction, the same for every mass. */
export const gravity = influence({
  kind: 'gravity',
  family: 'forces',
  surrounds: true,
  label: 'Gravity',
  glyph: '↓',
  help: 'Pulls everything one way, heavy and light alike',
  pitfall:
    'Everything falls out of the picture: lower its weight in the phase, or add drag. With too few substeps heaps sink in: see Quality.',
  source: 'Standard acceleration of free fall, 9.80665 m/s² (CGPM 1901)',
  parameters: {
    strength: number({
      label: 'Strength',
      unit: 'g',
      help: '1 is the pull on Earth',
      default: 1,
      range: [-100, 100],
      usual: [0, 2],
      step: 0.01,
      keyable: true,
      responsive: true,
    }),
    direction: direction({
      label: 'Direction',
      help: 'Where it pulls; the length does not matter',
      default: [0, -1, 0],
      keyable: true,
    }),
  },
  evenForce: ({ direction }) => ({
    acceleration: scale(unit(direction, [0, -1, 0]), STANDARD_GRAVITY),
    damping: 0,
  }),
})
