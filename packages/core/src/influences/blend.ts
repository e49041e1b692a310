import { APPLIED, influence } from './influence.ts'
import { GOAL } from './settle.ts'

/** Between the place of birth and the goal, by one number: a morph without motion of its own. */
export const blend = influence({
  kind: 'blend',
  family: 'goals',
  label: 'Blend',
  glyph: '⇿',
  help: 'Puts each between its place on the mesh it was born on and its goal: strength 0 there, 1 here',
  pitfall:
    'They go through what is in the way: it puts them there, it does not push. Key its strength from 0 to 1.',
  source: 'Linear interpolation',
  attributes: ['anchor', 'anchorAt'],
  actsAtZero: true,
  readsAtEnd: true,
  parameters: { goal: GOAL, strength: { ...APPLIED, help: '0 at its place of birth, 1 at its goal' } },
  projectPositions({ goal }, { machine, columns, amount, h, targets }) {
    const { position, startPosition, velocity } = columns.at
    const [home, away] = [targets(), targets(goal)]
    machine.run('blend', columns.count, {
      goal: away.on,
      amount,
      position,
      startPosition,
      velocity,
      home: home.to,
      at: away.to,
      h,
    })
  },
})
