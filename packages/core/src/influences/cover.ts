import { number, reference } from '../document/parameters.ts'
import { APPLIED, influence } from './influence.ts'

/** What lies on a mesh becomes a cover on it: simulation/coverAccumulation.ts says how. */
export const cover = influence({
  kind: 'cover',
  family: 'contact',
  label: 'Gather to a cover',
  glyph: '⌒',
  help: 'What lies on a mesh becomes a cover that thickens, slides off where it is too steep, and melts',
  pitfall:
    'Nothing gathers: flakes have to lie still on it first, so add Come to rest or a cue. It looks like steps: finer detail.',
  source: 'Heights that run off above the angle of repose',
  parameters: {
    mesh: reference({ label: 'On', help: 'The mesh that is covered; what collides with it collides with the cover', to: 'mesh' }), // prettier-ignore
    strength: { ...APPLIED, responsive: false, help: 'Above 0 it takes up what lies, at 0 it does not' },
    depth: number({
      label: 'Stay particles',
      unit: 'm',
      help: 'This much of the cover stays as particles on top; the rest becomes its height',
      default: 0.01,
      range: [0, 1e3],
      usual: [0, 0.1],
      step: 0.005,
      keyable: true,
    }),
    gathers: number({
      label: 'Gathers',
      unit: '×',
      help: 'Volume of cover from a volume of particles: 1.6 is loosely packed balls, more is time in haste',
      default: 1.6,
      range: [0, 1e6],
      usual: [0, 50],
      step: 0.1,
      keyable: true,
    }),
    repose: number({
      label: 'Repose',
      unit: '°',
      help: 'Slides off where it is steeper than this',
      default: 38,
      range: [0, 89],
      usual: [10, 80],
      step: 1,
      keyable: true,
    }),
    melt: number({
      label: 'Melts',
      unit: 'm/s',
      help: 'How fast it sinks',
      default: 0,
      range: [0, 1e3],
      usual: [0, 0.05],
      step: 0.001,
      keyable: true,
    }),
    meltMask: reference({ label: 'Melts by', help: 'A mask that says where it melts', to: 'mask', absent: 'everywhere' }), // prettier-ignore
    detail: number({
      label: 'Detail',
      unit: 'm',
      help: 'Longest edge of the triangles of the cover',
      default: 0.15,
      range: [0.001, 1e4],
      usual: [0.02, 1],
      step: 0.01,
    }),
  },
  cover: ({ mesh, depth, gathers, repose, melt, meltMask }) => ({ mesh, depth, gathers, repose, melt, ...(meltMask && { meltMask }) }), // prettier-ignore
})
