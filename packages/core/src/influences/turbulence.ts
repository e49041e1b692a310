import { CURL_RMS, TABLE_BYTES, WHIRL_RMS, writeGradients } from '../math/gradients.ts'
import { choice, number } from '../document/parameters.ts'
import { influence } from './influence.ts'

/** Most octaves: the finest is then 2⁷ times smaller than the scale. */
const MOST_OCTAVES = 8

/**
 * a = strength · Σ 2^(−o) · curl(2^o · x / scale) / norm, so that `strength` is the root mean square
 * acceleration; in cells, one layer of whirls likewise. Source: Bridson, Houriham, Nordenstam 2007.
 */
export const turbulence = influence({
  kind: 'turbulence',
  family: 'forces',
  label: 'Turbulence',
  glyph: '≋',
  help: 'Swirling push without sources or sinks (curl noise)',
  pitfall:
    'They boil instead of flowing: make the swirls larger, or their change slower. They scatter for ever: add drag.',
  source:
    'Bridson, Houriham, Nordenstam, "Curl-noise for procedural fluid flow" (2007); in cells: Worley, "A cellular texture basis function" (1996)',
  parameters: {
    strength: number({
      label: 'Strength',
      unit: 'm/s²',
      help: 'Root mean square of the push',
      default: 2,
      range: [-1e5, 1e5],
      usual: [0, 10],
      step: 0.05,
      keyable: true,
      responsive: true,
    }),
    pattern: choice({
      label: 'Pattern',
      help: 'Flowing swirls, or a whirl of its own in each cell',
      default: 'swirls',
      options: { swirls: 'swirls', cells: 'cells' },
    }),
    scale: number({
      label: 'Scale',
      unit: 'm',
      help: 'Size of the largest swirls',
      default: 1,
      range: [0.0001, 1e5],
      usual: [0.1, 5],
      step: 0.01,
      keyable: true,
    }),
    octaves: number({
      label: 'Octaves',
      unit: '',
      help: 'Layers of finer swirls, each half the size and strength',
      default: 2,
      range: [1, MOST_OCTAVES],
      usual: [1, 6],
      whole: true,
      when: { pattern: 'swirls' },
    }),
    change: number({
      label: 'Change',
      unit: '1/s',
      help: 'How fast the swirls change; 0 keeps them still',
      default: 0.3,
      range: [0, 100],
      usual: [0, 2],
      step: 0.01,
    }),
  },
  applyForces({ pattern, scale, octaves, change }, { machine, columns, amount, time, seed, scratch }) {
    const tables = scratch(TABLE_BYTES * MOST_OCTAVES)
    const { acceleration, position } = columns.at
    if (pattern === 'cells') {
      const axes = tables + TABLE_BYTES
      writeGradients(machine.heap, tables, seed, time * change * 0.25)
      writeGradients(machine.heap, axes, seed + 1, time * change * 0.25)
      machine.run('cellularCurl', columns.count, {
        amount,
        acceleration,
        position,
        table: tables,
        axes,
        frequency: 1 / scale,
        amplitude: 1 / WHIRL_RMS,
      })
      return
    }
    let squares = 0
    for (let octave = 0; octave < octaves; octave++) {
      // finer swirls live shorter: Kolmogorov's turnover time goes with size^(2/3)
      const turns = time * change * 0.25 * 1.587 ** octave
      writeGradients(machine.heap, tables + octave * TABLE_BYTES, seed + octave, turns)
      squares += 4 ** -octave
    }
    machine.run('curlNoise', columns.count, {
      amount,
      acceleration,
      position,
      gradients: tables,
      tableBytes: TABLE_BYTES,
      octaves,
      frequency: 1 / scale,
      amplitude: 1 / (CURL_RMS * Math.sqrt(squares)),
      offset: 0.5,
    })
  },
})
