import { number } from '../document/parameters.ts'
import { influence } from './influence.ts'
import { settleAt } from './settle.ts'

/** Brings particles back to their place on the mesh, without overshoot and for any step. */
export const goHome = influence({
  kind: 'return',
  family: 'goals',
  leadsHome: true,
  label: 'Return',
  glyph: '↩',
  help: 'Brings each back to its place on the mesh, slowing as it comes',
  pitfall: 'Some never come back: they were not born on a mesh, or it is weighted out in their phase.',
  source: 'Critically damped oscillator, solved exactly: r(t) = (r₀ + (v₀ + ω·r₀)·t)·e^(−ω·t)',
  attributes: ['anchor', 'anchorAt', 'startVelocity', 'goalMotion'],
  parameters: {
    strength: number({
      label: 'Strength',
      unit: '×',
      help: '1 is the approach alone; below, other motion shows through',
      default: 1,
      range: [0, 1],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
      responsive: true,
    }),
    halfLife: number({
      label: 'Half-life',
      unit: 's',
      help: 'Time in which half of the way back is done',
      default: 0.5,
      range: [0.001, 1e4],
      usual: [0.05, 5],
      step: 0.05,
      keyable: true,
    }),
  },
  projectPositions: ({ halfLife }, substep) => settleAt(substep, undefined, halfLife, Infinity),
})
