import { STREAM } from '../math/random.ts'
import { choice, number } from '../document/parameters.ts'
import { randomKeys } from '../state/columns.ts'
import { influence } from './influence.ts'

export const FLAT = choice({
  label: 'Moves',
  help: 'Everywhere, or level: what goes up and down is left out',
  default: 'free',
  options: { free: 'everywhere', level: 'keep on the ground' },
})

/** A push of each particle's own that changes its direction all the time. */
export const wander = influence({
  kind: 'wander',
  family: 'steering',
  label: 'Wander',
  glyph: '∿',
  help: 'Each strays on its own, now this way and now that',
  pitfall: 'They only tremble: fewer turns a second make larger loops. They run away: add Attract or a goal.',
  source: 'After Reynolds, "Steering behaviors for autonomous characters" (1999)',
  parameters: {
    strength: number({
      label: 'Strength',
      unit: 'm/s²',
      help: 'Of the push',
      default: 1,
      range: [0, 1e5],
      usual: [0, 10],
      step: 0.05,
      keyable: true,
      responsive: true,
    }),
    turns: number({
      label: 'Turns',
      unit: '1/s',
      help: 'How often it takes another direction',
      default: 1.5,
      range: [0.001, 1000],
      usual: [0.1, 10],
      step: 0.1,
    }),
    moves: FLAT,
  },
  applyForces({ turns, moves }, { machine, columns, amount, time, seed }) {
    const { acceleration } = columns.at
    const flat = moves === 'level' ? 1 : 0
    machine.run('wander', columns.count, {
      amount,
      ids: columns.at[randomKeys(columns)],
      acceleration,
      time,
      turns,
      flat,
      seed,
      stream: STREAM.wander,
    })
  },
})
