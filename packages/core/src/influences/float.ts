import { FLOATING } from '../constraints/fluidTable.ts'
import { APPLIED, influence } from './influence.ts'

/** Grains in liquids: each displaces a cell as wide as it is, and weighs what its density says. */
export const float = influence({
  kind: 'float',
  family: 'constraints',
  label: 'Float',
  glyph: '◒',
  help: 'They push liquids aside: the lighter float, the heavier sink, and what flows carries them along. As wide as the particles of the liquid, or up to half as wide again',
  pitfall: 'It sinks at once: its density is above that of the liquid.',
  source: 'After Akinci et al., "Versatile rigid-fluid coupling for incompressible SPH" (2012)',
  attributes: ['startVelocity', 'pressure', 'compression'],
  interacts: true,
  parameters: { strength: { ...APPLIED, help: 'Above 0 they do, at 0 liquids do not see them' } },
  constraint: FLOATING,
  rule: () => ({}),
})
