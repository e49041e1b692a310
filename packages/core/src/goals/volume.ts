import { number, reference } from '../document/parameters.ts'
import { COMMON, goal } from './goal.ts'

/** As many places inside a mesh as there are particles. */
export const volume = goal({
  kind: 'volume',
  label: 'In a volume',
  glyph: '▦',
  help: 'Anywhere inside a mesh, one place for each particle',
  source: 'Barill et al., "Fast winding numbers for soups and clouds" (2018)',
  parameters: {
    mesh: reference({ label: 'Mesh', help: 'What they fill', to: 'mesh' }),
    ...COMMON,
    margin: number({
      label: 'Margin',
      unit: 'm',
      help: 'Least distance from the surface, so that whole particles fit',
      default: 0,
      range: [0, 1e4],
      usual: [0, 0.5],
      step: 0.001,
    }),
  },
  independent: ({ pairing }) => pairing === 'random',
  places({ mesh, margin, pairing }, { body, birthPoints, seekers }) {
    const source = birthPoints(mesh, 'volume', { fill: 'random', spacing: 0.1, margin })
    return { on: body(mesh).number, points: source.points(seekers.ids), own: pairing === 'random' }
  },
})
