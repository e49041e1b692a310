import { BIRTHS, CUES, DEFORMATIONS, GOALS, INFLUENCES, MASKS, RESPONSES } from '../registry.ts'
import type { Parameters } from '../document/parameters.ts'
import { EATEN, PARTICLE, PLACE, PLAYBACK, TEXT, TRAIL } from '../document/ownParameters.ts'
import { FRACTURE, SHELL } from '../document/madeMeshes.ts'

/** A kind in words, for the command line, the API and the reference page. */
export interface Description {
  group: 'document' | 'deformations' | 'masks' | 'births' | 'cues' | 'goals' | 'influences' | 'responses'
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
    {
      group: 'document',
      kind: 'playback',
      label: 'Playback',
      help: 'How a mesh that moves in its file is played',
      parameters: PLAYBACK,
    },
    { group: 'document', kind: 'place', label: 'Place', help: 'Where a mesh stands', parameters: PLACE },
    {
      group: 'document',
      kind: 'particle',
      label: 'Particle',
      help: 'What each particle of a population is given at birth',
      parameters: PARTICLE,
    },
    {
      group: 'document',
      kind: 'fracture',
      label: 'Broken',
      help: 'A mesh broken into pieces',
      parameters: FRACTURE,
    },
    {
      group: 'document',
      kind: 'shell',
      label: 'Shell',
      help: 'A closed skin around a mesh',
      parameters: SHELL,
    },
    { group: 'document', kind: 'text', label: 'Text', help: 'Lettering made into a mesh', parameters: TEXT },
    {
      group: 'document',
      kind: 'eaten',
      label: 'Eaten',
      help: 'What a mask takes away of a mesh',
      parameters: EATEN,
    },
    {
      group: 'document',
      kind: 'trail',
      label: 'Trail',
      help: 'The line that a particle leaves behind',
      parameters: TRAIL,
    },
    ...DEFORMATIONS.map(({ deform: _, ...kind }) => ({ group: 'deformations' as const, ...kind })),
    ...MASKS.map(({ write: _, inputs: __, onSurface: ___, ...kind }) => ({
      group: 'masks' as const,
      ...kind,
    })),
    ...BIRTHS.map(({ prepare: _, gridSpacing: __, ...kind }) => ({ group: 'births' as const, ...kind })),
    ...CUES.map(({ test: _, words: __, attributes: ___, ...kind }) => ({ group: 'cues' as const, ...kind })),
    ...GOALS.map(({ places: _, ...kind }) => ({ group: 'goals' as const, ...kind })),
    ...INFLUENCES.map(({ kind, family, label, glyph, help, source, parameters }) => ({
      group: 'influences' as const,
      kind,
      family,
      label,
      glyph,
      help,
      source,
      parameters,
    })),
    ...RESPONSES.map(({ from: kind, label, unit, needs, offers }) => ({
      group: 'responses' as const,
      kind,
      label,
      help: `Reads ${label}${unit ? `, in ${unit}` : ''}${needs ? `; names a ${needs}` : ''}${offers ? `; may name a ${offers}` : ''}`,
      parameters: {},
    })),
  ]
}
