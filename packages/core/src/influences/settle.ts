import { number, reference } from '../document/parameters.ts'
import { APPLIED, influence, type Substep } from './influence.ts'

/** Half-life of a critically damped approach from rest: (1 + x)·e^(−x) = ½ at x = ω·t½ = 1.6783… */
const HALF_WAY = 1.6783469900166605

export const GOAL = reference({ label: 'Goal', help: 'Where they want to go', to: 'goal' })

/** The last bit of the way: exact, without overshoot or shaking, and at rest on a goal that moves. */
export const settle = influence({
  kind: 'settle',
  family: 'goals',
  label: 'Settle',
  glyph: '⊙',
  help: 'Near its goal, it comes to rest there and goes along with it, whatever else acts',
  pitfall: 'They jump the last bit: make Within smaller, or the half-life longer.',
  source: 'Critically damped oscillator, solved exactly: r(t) = (r₀ + (v₀ + ω·r₀)·t)·e^(−ω·t)',
  attributes: ['startVelocity', 'goalMotion'],
  radii: [{ of: 'within', about: 'goals' }],
  parameters: {
    goal: GOAL,
    strength: {
      ...APPLIED,
      help: '1 is the approach alone, whatever else acts; below, other motion shows through',
    },
    within: number({
      label: 'Within',
      unit: 'm',
      help: 'How near they must be before it takes hold',
      default: 0.3,
      range: [0, 1e6],
      usual: [0, 2],
      step: 0.01,
      keyable: true,
    }),
    halfLife: number({
      label: 'Half-life',
      unit: 's',
      help: 'Time in which half of the way that is left is done',
      default: 0.25,
      range: [0.001, 1e4],
      usual: [0.05, 2],
      step: 0.01,
      keyable: true,
    }),
  },
  projectPositions: ({ goal, within, halfLife }, substep) => settleAt(substep, goal, halfLife, within),
})

/** Draws particles to a goal, or without one to their place of birth. */
export function settleAt(substep: Substep, goal: string | undefined, halfLife: number, within: number): void {
  const { machine, columns, amount, h } = substep
  const { position, startPosition, velocity, startVelocity, age, goalMotion: motion } = columns.at
  const { on, from, to } = substep.targets(goal)
  machine.run('settle', columns.count, {
    goal: on,
    amount,
    position,
    startPosition,
    velocity,
    startVelocity,
    age,
    motion,
    from,
    to,
    h,
    rate: HALF_WAY / halfLife,
    within,
  })
}
