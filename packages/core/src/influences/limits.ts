import { cosine, radians, sine } from '../math/functions.ts'
import { number } from '../document/parameters.ts'
import { APPLIED, influence } from './influence.ts'

const speed = {
  unit: 'm/s',
  range: [0, 1e5] as [number, number],
  usual: [0, 10] as [number, number],
  step: 0.05,
  keyable: true,
}

/** No faster, no slower, and no sharper turns. */
export const limits = influence({
  kind: 'limits',
  family: 'steering',
  label: 'Limits',
  glyph: '⟷',
  help: 'Bounds on speed and on how sharply they turn: put it below what steers them',
  pitfall: 'It cannot bound what acts below it in the score: put it last.',
  source: 'Reynolds, "Flocks, herds, and schools" (1987): maximum speed and turning',
  attributes: ['startVelocity'],
  parameters: {
    strength: APPLIED,
    most: number({ ...speed, label: 'Fastest', help: 'Speed at most', default: 5, responsive: true }),
    least: number({ ...speed, label: 'Slowest', help: 'Speed at least', default: 0 }),
    turn: number({
      label: 'Turns by',
      unit: '°/s',
      help: 'Angle per second at most; 0 sets no bound',
      default: 0,
      range: [0, 1e5],
      usual: [0, 720],
      step: 5,
      keyable: true,
    }),
  },
  projectPositions({ most, least, turn }, { machine, columns, amount, h, factors }) {
    const { position, startPosition, velocity, startVelocity } = columns.at
    const angle = radians(turn * h)
    const [c, s] = turn === 0 || turn * h >= 180 ? [-2, 0] : [cosine(angle), sine(angle)]
    machine.run('limit', columns.count, {
      amount,
      position,
      startPosition,
      velocity,
      startVelocity,
      h,
      most,
      least,
      cosine: c,
      sine: s,
      mostFactor: factors('most'),
    })
  },
})
