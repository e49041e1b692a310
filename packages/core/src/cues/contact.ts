import { reference, number } from '../document/parameters.ts'
import { cue } from './cue.ts'

/** The surface of the mesh, or the floor y = 0, is nearer than the radius and a margin. */
export const contact = cue({
  kind: 'contact',
  label: 'On contact',
  glyph: '⊥',
  help: 'When it touches a mesh, or the floor',
  pitfall: 'Nobody goes: they have to collide first, or need more margin.',
  source: '',
  parameters: {
    mesh: reference({
      label: 'Mesh',
      help: 'What it touches; without one, the floor',
      to: 'mesh',
      absent: 'the floor',
    }),
    margin: number({
      label: 'Margin',
      unit: 'm',
      help: 'Touches already at this distance from its own surface',
      default: 0,
      range: [0, 1e4],
      usual: [0, 0.2],
      step: 0.001,
      keyable: true,
    }),
  },
  test({ mesh, margin }, { column, distance }) {
    const radius = column('radius') as Float32Array
    if (mesh === undefined) {
      const position = column('position')
      return (k) => position[k * 3 + 1]! <= radius[k]! + margin
    }
    const values = distance(mesh, radius.reduce((most, r) => Math.max(most, r), 0) + margin)
    return (k) => values[k]! <= radius[k]! + margin
  },
  words: ({ mesh }, names) => `touches ${mesh === undefined ? 'the floor' : names(mesh as string)}`,
})
