import { number } from '../document/parameters.ts'
import { influence } from './influence.ts'
import { GOAL } from './settle.ts'

export const RATE = number({
  label: 'Strength',
  unit: '1/s',
  help: 'How firmly they turn to it: 1 means within about a second',
  default: 2,
  range: [0, 1e4],
  usual: [0, 10],
  step: 0.05,
  keyable: true,
  responsive: true,
})
export const SPEED = number({
  label: 'Speed',
  unit: 'm/s',
  help: 'How fast they go',
  default: 1,
  range: [0, 1e4],
  usual: [0, 5],
  step: 0.05,
  keyable: true,
  responsive: true,
})

/** Straight for the goal at a speed, without slowing down. */
export const seek = influence({
  kind: 'seek',
  family: 'goals',
  label: 'Seek',
  glyph: '➹',
  help: 'Makes for the goal at a steady speed, and passes it: swarms about it',
  pitfall: 'They never arrive, they circle: that is what it does. Arrive slows down at the goal.',
  source: 'Reynolds, "Steering behaviors for autonomous characters" (1999)',
  parameters: { goal: GOAL, strength: RATE, speed: SPEED },
  applyForces({ goal, speed }, { machine, columns, amount, h, targets, factors }) {
    const { position, acceleration, damping } = columns.at
    const { on, from, to } = targets(goal)
    machine.run('seek', columns.count, {
      amount,
      goal: on,
      from,
      to,
      h,
      position,
      acceleration,
      damping,
      speed,
      speedFactor: factors('speed'),
    })
  },
})
