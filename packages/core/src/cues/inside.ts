import { choice, number, reference } from '../document/parameters.ts'
import { cue } from './cue.ts'

/** The signed distance to a mesh is below `within` (or, leaving, above it). */
export const insideCue = cue({
  kind: 'inside',
  label: 'Inside a mesh',
  glyph: '◉',
  help: 'When it comes into a mesh, or near it; the mesh may move and ripple',
  pitfall: 'Nobody goes: the mesh is open, or passes them between two frames. Give it some room.',
  source: 'Barill et al., "Fast winding numbers for soups and clouds" (2018)',
  parameters: {
    mesh: reference({ label: 'Mesh', help: 'The mesh it comes into', to: 'mesh' }),
    side: choice({
      label: 'When',
      help: 'Coming in or going out',
      default: 'inside',
      options: { inside: 'inside', outside: 'outside' },
    }),
    within: number({
      label: 'Within',
      unit: 'm',
      help: 'Distance that still counts as inside; below 0 it must be so deep',
      default: 0,
      range: [-1e5, 1e5],
      usual: [-1, 1],
      step: 0.01,
      keyable: true,
    }),
  },
  test({ mesh, side, within }, { distance }) {
    const values = distance(mesh, Math.abs(within))
    return side === 'inside' ? (k) => values[k]! <= within : (k) => values[k]! > within
  },
  words: ({ mesh, side }, names) => `${String(side ?? 'inside')} ${names(mesh as string)}`,
})
