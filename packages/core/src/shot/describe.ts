import { BIRTHS } from '../births/index.ts'
import { INFLUENCES } from '../influences/index.ts'
import type { Parameters } from './parameters.ts'
import { PARTICLE, PLACE } from './rules.ts'

/** A kind in words, for the command line, the API and the reference page. */
export interface Description {
  group: 'births' | 'influences' | 'document'
  family?: string
  kind: string
  label: string
  glyph?: string
  help: string
  source?: string
  parameters: Parameters
}

/** Every kind there is, in the order of the work. */
export function descriptions(): Description[] {
  return [
    { group: 'document', kind: 'place', label: 'Place', help: 'Where a mesh stands', parameters: PLACE },
    {
      group: 'document',
      kind: 'particle',
      label: 'Particle',
      help: 'What each particle of a population is given at birth',
      parameters: PARTICLE,
    },
    ...BIRTHS.map(({ prepare: _, ...kind }) => ({ group: 'births' as const, ...kind })),
    ...INFLUENCES.map(({ act: _, ...kind }) => ({ group: 'influences' as const, ...kind })),
  ]
}
