import { reference } from '../document/parameters.ts'
import { COMMON, goal } from './goal.ts'

/** The vertices of a mesh, or the points of a file that has nothing but points. */
export const vertices = goal({
  kind: 'vertices',
  label: 'On given points',
  glyph: '⁘',
  help: 'The vertices of a mesh, or the points of a CSV or PLY file',
  source: '',
  parameters: {
    mesh: reference({ label: 'Mesh', help: 'Whose vertices they go to', to: 'mesh' }),
    ...COMMON,
  },
  independent: ({ pairing }) => pairing === 'nearest',
  places({ mesh }, { body, birthPoints }) {
    const on = body(mesh).number
    const source = birthPoints(mesh, 'vertices', {})
    const all = Uint32Array.from({ length: source.offered ?? 0 }, (_, k) => k)
    return { on, points: source.points(all, all), own: false, lasting: true }
  },
})
