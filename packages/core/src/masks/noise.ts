import { TABLE_BYTES, writeGradients } from '../math/gradients.ts'
import { choice, number } from '../document/parameters.ts'
import { followed } from './follow.ts'
import { FOLLOW, mask } from './mask.ts'

const MOST_OCTAVES = 8

/**
 * Smooth: ½ + ½·Σ 2^(−o)·n(2^o·x/scale), made even in strength. Cellular: 1 − distance to the nearest of the
 * points scattered one in each cell. Then v = (n − level)·contrast + ½, cut to 0…1.
 */
export const noise = mask({
  kind: 'noise',
  label: 'Noise',
  glyph: '▒',
  help: 'Patches at random, smooth or in cells',
  pitfall: 'All is grey: raise the contrast, or make the patches smaller than the mesh.',
  source: 'Perlin, "Noise hardware" (2001); Worley, "A cellular texture basis function" (1996)',
  parameters: {
    pattern: choice({
      label: 'Pattern',
      help: 'Soft patches, or cells',
      default: 'smooth',
      options: { smooth: 'smooth', cells: 'cells' },
    }),
    scale: number({
      label: 'Scale',
      unit: 'm',
      help: 'Size of the patches',
      default: 0.5,
      range: [0.0001, 1e5],
      usual: [0.05, 5],
      step: 0.01,
      keyable: true,
    }),
    octaves: number({
      label: 'Octaves',
      unit: '',
      help: 'Layers of finer patches, each half the size and strength',
      default: 2,
      range: [1, MOST_OCTAVES],
      usual: [1, 6],
      whole: true,
      when: { pattern: 'smooth' },
    }),
    level: number({
      label: 'Level',
      unit: '',
      help: 'What becomes the middle, ½: lower fills more',
      default: 0.5,
      range: [-2, 3],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
    }),
    contrast: number({
      label: 'Contrast',
      unit: '×',
      help: 'Above 1 makes edges harder',
      default: 1,
      range: [0, 1e4],
      usual: [0, 10],
      step: 0.1,
      keyable: true,
    }),
    change: number({
      label: 'Change',
      unit: '1/s',
      help: 'How fast the patches change; 0 keeps them',
      default: 0,
      range: [0, 100],
      usual: [0, 2],
      step: 0.01,
    }),
    follow: FOLLOW,
  },
  write(values, places, out, context) {
    const { machine, seed, first, rate } = context
    const smooth = values.pattern === 'smooth'
    const octaves = smooth ? values.octaves : 1
    const tables = context.keep('tables', TABLE_BYTES * MOST_OCTAVES)
    const turns = ((places.frame - first) / rate) * values.change * 0.25
    for (let octave = 0; octave < octaves; octave++) {
      writeGradients(machine.heap, tables + octave * TABLE_BYTES, seed + octave, turns * 1.587 ** octave)
    }
    const { contrast, level } = values
    const frequency = 1 / values.scale
    followed(values.follow, places, context, (points) => {
      if (smooth)
        machine.run('maskNoise', places.count, {
          points,
          out,
          tables,
          tableBytes: TABLE_BYTES,
          octaves,
          frequency,
          contrast,
          level,
        })
      else machine.run('maskCells', places.count, { points, out, table: tables, frequency, contrast, level })
    })
  },
})
