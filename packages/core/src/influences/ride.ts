import { number } from '../document/parameters.ts'
import { influence } from './influence.ts'

/** Holds particles where they were born on their mesh while it moves and ripples. */
export const ride = influence({
  kind: 'ride',
  family: 'constraints',
  label: 'Ride',
  glyph: '⚓',
  help: 'Keeps each at its place on the mesh, which may move and ripple; let go, it has the mesh’s velocity',
  source: 'Position by barycentric weights in the triangle of birth',
  attributes: ['anchor', 'anchorAt'],
  pins: true,
  parameters: {
    strength: number({
      label: 'Strength',
      unit: '×',
      help: '1 holds exactly; below, that share of the way is closed each 1/24 s',
      default: 1,
      range: [0, 1],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
      responsive: true,
    }),
    inherit: number({
      label: 'Inherit motion',
      unit: '×',
      help: 'How much of the mesh’s velocity they have when they are let go',
      default: 1,
      range: [-10, 10],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
    }),
  },
  projectPositions({ inherit }, substep) {
    const { machine, columns, amount, h } = substep
    const { anchor, position, velocity, travelled } = columns.at
    const { from, to } = substep.targets()
    machine.run('ride', columns.count, {
      anchor,
      amount,
      position,
      velocity,
      travelled,
      from,
      to,
      h,
      frames: h * 24,
      inherit,
    })
  },
})
