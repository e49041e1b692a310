import { number } from '../document/parameters.ts'
import { NEIGHBOURS, OTHERS } from './flock.ts'
import { influence } from './influence.ts'
import { RATE } from './seek.ts'

/** Friction between neighbours: what is frenetic calms down, and they move as one. */
export const calm = influence({
  kind: 'calm',
  family: 'forces',
  label: 'Neighbour friction',
  glyph: '≈',
  help: 'Draws their velocities together, which calms what is frenetic',
  pitfall: 'It freezes into one lump: lower the strength or the radius.',
  source: 'After Monaghan, "On the problem of penetration in particle methods" (1989)',
  radii: [{ of: 'radius', about: 'particles' }],
  interacts: true,
  parameters: {
    strength: { ...RATE, help: 'How fast velocities become alike: 1 means within about a second' },
    radius: number({
      label: 'Within',
      unit: 'm',
      help: 'Who counts as a neighbour; nearer ones count more',
      default: 0.2,
      range: [0.0001, 1e4],
      usual: [0.01, 2],
      step: 0.01,
    }),
    neighbours: NEIGHBOURS,
    with: OTHERS,
  },
  applyForces({ radius, neighbours: most, with: of }, { machine, columns, amount, neighbours }) {
    const { position, acceleration, damping } = columns.at
    const seen = neighbours(radius, most, of)
    if (!seen) return
    machine.run('calm', columns.count, {
      amount,
      ...seen,
      position,
      acceleration,
      damping,
      reach: radius,
      most,
    })
  },
})
