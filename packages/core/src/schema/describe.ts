import { BIRTHS, CUES, DEFORMATIONS, GOALS, INFLUENCES, MASKS, RESPONSES } from '../registry.ts'
import type { Parameters } from '../document/parameters.ts'
import { COMBING } from '../document/combing.ts'
import { CUT } from '../document/cut.ts'
import { BLOOM, GLOW, THREADS } from '../document/lightParameters.ts'
import { CAMERA } from '../document/camera.ts'
import { MESH_LOOK } from '../document/meshLook.ts'
import { LIGHT, PICTURE, SURROUNDINGS } from '../document/stageParameters.ts'
import { SKIN } from '../document/skin.ts'
import { EATEN, PARTICLE, PLACE, PLAYBACK, TEXT } from '../document/ownParameters.ts'
import { STREAK, TRAIL } from '../document/trailParameters.ts'
import { FRACTURE, SHELL } from '../document/madeMeshes.ts'

/** A kind in words, for the command line, the API and the reference page. */
export interface Description {
  group: 'document' | 'deformations' | 'masks' | 'births' | 'cues' | 'goals' | 'influences' | 'responses'
  family?: string
  kind: string
  label: string
  glyph?: string
  help: string
  /** What goes wrong with it, and what helps. */
  pitfall?: string
  source?: string
  parameters: Parameters
}

const ofDocument = (kind: string, label: string, help: string, parameters: Parameters): Description => ({
  group: 'document',
  kind,
  label,
  help,
  parameters,
})

/** Every kind there is, in the order of the work. */
export function descriptions(): Description[] {
  return [
    ofDocument('playback', 'Playback', 'How a mesh that moves in its file is played', PLAYBACK),
    ofDocument('place', 'Place', 'Where a mesh stands', PLACE),
    ofDocument('particle', 'Particle', 'What each particle of a population is given at birth', PARTICLE),
    ofDocument('fracture', 'Broken', 'A mesh broken into pieces', FRACTURE),
    ofDocument('shell', 'Shell', 'A closed skin around a mesh', SHELL),
    ofDocument('text', 'Text', 'Lettering made into a mesh', TEXT),
    ofDocument('eaten', 'Eaten', 'What a mask takes away of a mesh', EATEN),
    ofDocument('cut', 'Cut', 'A mesh cut by another', CUT),
    ofDocument('combing', 'Combing', 'A layer of directions on a mesh, brushed by hand', COMBING),
    ofDocument('streak', 'Streak', 'Particles drawn as long as they go', STREAK),
    ofDocument('trail', 'Trail', 'The line that a particle leaves behind', TRAIL),
    ofDocument('glow', 'Glow', 'The light that particles give', GLOW),
    ofDocument('threads', 'Threads', 'Lines between particles', THREADS),
    ofDocument(
      'skin',
      'Skin',
      'The surface of a liquid as a closed mesh. Source: Yu, Turk, "Reconstructing surfaces of particle-based fluids using anisotropic kernels", ACM Trans. Graph. 32 (2013).',
      SKIN,
    ),
    ofDocument(
      'meshLook',
      'Look of a mesh',
      'What a mesh is made of, as it is seen and as files hand it on',
      MESH_LOOK,
    ),
    ofDocument('camera', 'Camera', 'Where one looks from: what movies are made by', CAMERA),
    ofDocument('light', 'Light', 'The sun of a shot', LIGHT),
    ofDocument('surroundings', 'Surroundings', 'Light from all sides, the floor and the air', SURROUNDINGS),
    ofDocument('picture', 'Picture', 'From light to the colours of the picture', PICTURE),
    ofDocument('bloom', 'Bloom', 'Light of what glows that spills over its edges', BLOOM),
    ...DEFORMATIONS.map(({ deform: _, ...kind }) => ({ group: 'deformations' as const, ...kind })),
    ...MASKS.map(({ write: _, inputs: __, onSurface: ___, ...kind }) => ({
      group: 'masks' as const,
      ...kind,
    })),
    ...BIRTHS.map(({ prepare: _, gridSpacing: __, ...kind }) => ({ group: 'births' as const, ...kind })),
    ...CUES.map(({ test: _, words: __, attributes: ___, ...kind }) => ({ group: 'cues' as const, ...kind })),
    ...GOALS.map(({ places: _, ...kind }) => ({ group: 'goals' as const, ...kind })),
    ...INFLUENCES.map(({ kind, family, label, glyph, help, pitfall, source, parameters }) => ({
      group: 'influences' as const,
      kind,
      family,
      label,
      glyph,
      help,
      pitfall,
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
