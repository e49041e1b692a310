import { STREAM } from '../math/random.ts'
import { choice, vector } from '../document/parameters.ts'
import { RIGID } from '../scene/points.ts'
import { drawRandoms } from '../math/draw.ts'
import { birth, COMMON } from './birth.ts'

/** Born in a box that stands upright and goes along with a mesh or with the camera: weather. */
export const region = birth({
  kind: 'region',
  label: 'In a region',
  glyph: '▭',
  help: 'In an upright box that goes along with a mesh, or stands over what the camera sees: weather',
  source: 'Even over the box',
  parameters: {
    ...COMMON,
    follows: choice({
      label: 'Follows',
      help: 'The middle of the mesh, or half way from the camera to what it looks at',
      default: 'mesh',
      options: { mesh: 'the mesh', camera: 'the camera' },
    }),
    size: vector({
      label: 'Size',
      unit: 'm',
      help: 'Of the box',
      default: [6, 0.5, 6],
      range: [0, 1e5],
      usual: [0, 20],
      step: 0.1,
    }),
    middle: vector({
      label: 'Middle',
      unit: 'm',
      help: 'Of the box, from what it follows',
      default: [0, 3, 0],
      range: [-1e5, 1e5],
      usual: [-10, 10],
      step: 0.1,
    }),
    aim: { ...COMMON.aim, default: 'direction' },
    direction: { ...COMMON.direction, default: [0, -1, 0] },
    inherit: { ...COMMON.inherit, default: 0 },
  },
  prepare: ({ follows, size, middle }, { machine, seed }) => ({
    offered: null,
    points(ids) {
      const draws = drawRandoms(machine, ids, seed, STREAM.volume)
      return {
        triangles: new Uint32Array(ids.length).fill(RIGID),
        weights: new Float32Array(ids.length * 2),
        about: follows === 'camera' ? 'camera' : 'mesh',
        positions: Float32Array.from({ length: ids.length * 3 }, (_, i) => {
          const axis = i % 3
          return middle[axis]! + (draws[Math.floor(i / 3) * 4 + axis]! - 0.5) * size[axis]!
        }),
      }
    },
  }),
})
