/** Parameters of all that touch: how a contact takes what hits it. */
import { choice, number } from '../document/parameters.ts'

export const BOUNCE = number({
  label: 'Bounce',
  unit: '×',
  help: 'Speed after a hit as a share of that before: 0 stays, 1 loses nothing',
  default: 0.2,
  range: [0, 1],
  usual: [0, 1],
  step: 0.01,
  keyable: true,
  responsive: true,
})
export const FRICTION = number({
  label: 'Friction at rest',
  unit: 'μ',
  help: 'Lies still on slopes up to tan θ = μ: 0.6 is 31°',
  default: 0.5,
  range: [0, 100],
  usual: [0, 2],
  step: 0.01,
  keyable: true,
  responsive: true,
})
export const SLIDING = number({
  label: 'Friction sliding',
  unit: 'μ',
  help: 'What slides is slowed by this share of what presses it on; a little less than at rest',
  default: 0.4,
  range: [0, 100],
  usual: [0, 2],
  step: 0.01,
  keyable: true,
})
export const STICKY = number({
  label: 'Stickiness',
  unit: 'm/s²',
  help: 'A pull on what touches; above 9.8 it hangs from a ceiling',
  default: 0,
  range: [0, 1e6],
  usual: [0, 40],
  step: 0.5,
  keyable: true,
  responsive: true,
})

const OFFSET = number({
  label: 'Offset',
  unit: 'm',
  help: 'Between its own surface and the other; below 0 it sinks in',
  default: 0,
  range: [-1e3, 1e3],
  usual: [-0.05, 0.05],
  step: 0.001,
  keyable: true,
})
const DEFLECTION = number({
  label: 'Deflection',
  unit: '°',
  help: 'What bounces off is turned by up to this, at random',
  default: 0,
  range: [0, 90],
  usual: [0, 60],
  step: 1,
  keyable: true,
})
const IS_INSIDE = {
  inside: choice({
    label: 'On the wrong side',
    help: 'What happens to those that start there: they come out to the nearest place, or stay and do not collide',
    default: 'out',
    options: { out: 'come out', stay: 'stay' },
  }),
  out: number({
    label: 'Come out at',
    unit: 'm/s',
    help: 'Slowly, so that nothing explodes',
    default: 1,
    range: [0.001, 1e4],
    usual: [0.1, 5],
    step: 0.1,
    when: { inside: 'out' },
  }),
}

/** What is solid, a mesh or a plane. */
export const SOLID = {
  bounce: BOUNCE,
  friction: FRICTION,
  sliding: SLIDING,
  sticky: STICKY,
  deflection: DEFLECTION,
  offset: OFFSET,
  ...IS_INSIDE,
}
