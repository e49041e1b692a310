import { number } from '../document/parameters.ts'
import { influence } from './influence.ts'
import { SPEED } from './seek.ts'
import { GOAL } from './settle.ts'

/** To the goal at a speed, slowing within a distance so as not to overshoot. */
export const arrive = influence({
  kind: 'arrive',
  family: 'goals',
  label: 'Arrive',
  glyph: '⇥',
  help: 'Makes for the goal and slows down near it, so that it does not overshoot',
  pitfall: 'They come too late: the way divided by the speed is the time that it takes.',
  source: 'Reynolds (1999), "arrival"; critically damped within the distance, solved exactly',
  attributes: ['stiffness'],
  radii: [{ of: 'slowing', about: 'goals' }],
  parameters: {
    goal: GOAL,
    strength: number({
      label: 'Strength',
      unit: '×',
      help: '1 as set below; less is slower to react, more is firmer',
      default: 1,
      range: [0, 1e4],
      usual: [0, 2],
      step: 0.05,
      keyable: true,
      responsive: true,
    }),
    speed: SPEED,
    slowing: number({
      label: 'Slows within',
      unit: 'm',
      help: 'Distance at which it begins to slow down',
      default: 0.5,
      range: [0.0001, 1e5],
      usual: [0.05, 3],
      step: 0.05,
      keyable: true,
    }),
  },
  applyForces({ goal, speed, slowing }, { machine, columns, amount, h, targets, factors }) {
    const { startPosition, velocity, acceleration, damping, stiffness } = columns.at
    const { on, from, to } = targets(goal)
    machine.run('arrive', columns.count, {
      amount,
      goal: on,
      from,
      to,
      h,
      startPosition,
      velocity,
      acceleration,
      damping,
      stiffness,
      speed,
      speedFactor: factors('speed'),
      slowing,
    })
  },
})
