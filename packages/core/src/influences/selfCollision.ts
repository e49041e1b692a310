import { number, reference } from '../document/parameters.ts'
import { BOUNCE, FRICTION, SLIDING, STICKY } from './contactParameters.ts'
import { PARTICLE_CONTACTS } from '../constraints/particleContacts.ts'
import { APPLIED, influence } from './influence.ts'

const fixed = { keyable: true, responsive: false } as const

/** Particles touch one another. Its kernels, assembly/particleContacts.ts, give the equations. */
export const selfCollision = influence({
  kind: 'selfCollision',
  family: 'contact',
  surrounds: true,
  label: 'Self-collision',
  glyph: '⚭',
  help: 'They touch one another by their radii and masses; or those of another population',
  pitfall:
    'It is slow: fewer and larger ones look the same. They jump as they are born: they overlap, so give them more room.',
  source:
    'Macklin, Müller, Chentanez, Kim, "Unified particle physics" (2014), §6.1; Müller et al. (2020), §3.6',
  attributes: ['startVelocity'],
  keepsApart: true,
  parameters: {
    strength: { ...APPLIED, help: 'Above 0 they touch, at 0 they pass through one another' },
    with: reference({
      label: 'With',
      help: 'Another population that they touch; without one, each other',
      to: 'population',
      absent: 'each other',
    }),
    bounce: { ...BOUNCE, ...fixed, default: 0.1 },
    friction: { ...FRICTION, ...fixed },
    sliding: SLIDING,
    sticky: { ...STICKY, ...fixed, help: 'A pull on what touches: how hard it is to part them' },
    most: number({
      label: 'Neighbours',
      unit: '',
      help: 'Most of a higher number that each looks at; 12 fit around one of the same size',
      default: 16,
      range: [1, 64],
      usual: [4, 32],
      whole: true,
    }),
  },
  constraint: PARTICLE_CONTACTS,
  rule: (values) => values,
})
