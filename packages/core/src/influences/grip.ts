/** Parameters of all that touch: how a contact takes what hits it. */
import { number } from '../shot/parameters.ts'

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
