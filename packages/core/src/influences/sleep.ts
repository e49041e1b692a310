import { number } from '../document/parameters.ts'
import { SLEEPING } from '../constraints/sleeping.ts'
import { APPLIED, influence } from './influence.ts'

/** What lies still stays so, and costs less. */
export const sleep = influence({
  kind: 'sleep',
  family: 'contact',
  label: 'Come to rest',
  glyph: '☾',
  help: 'What lies still for a while does not move at all, until something moving touches it or its support goes',
  pitfall:
    'Some hang in the air: the speed is too high for what falls slowly. A heap never rests: it is too low.',
  source: 'Common practice, no source',
  attributes: ['restTime', 'contactNormal', 'startVelocity'],
  parameters: {
    strength: APPLIED,
    speed: number({
      label: 'Slower than',
      unit: 'm/s',
      help: 'Counts as still; what touches it at twice that wakes it',
      default: 0.03,
      range: [0, 100],
      usual: [0, 0.5],
      step: 0.005,
      keyable: true,
    }),
    wait: number({
      label: 'For',
      unit: 's',
      help: 'How long it must have been still',
      default: 0.25,
      range: [0, 100],
      usual: [0, 2],
      step: 0.05,
    }),
  },
  constraint: SLEEPING,
  rule: ({ speed, wait }) => ({ speed, wait }),
})
