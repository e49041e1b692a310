import { TABLE_BYTES, writeGradients } from '../math/gradients.ts'
import { number } from '../document/parameters.ts'
import { deformation } from './deformation.ts'

/** p += n·amount·noise(p/scale, t). */
export const wrinkle = deformation({
  kind: 'noise',
  label: 'Noise',
  glyph: '≈',
  help: 'Bulges that come and go',
  source: 'Perlin, "Noise hardware" (2001): gradient noise on the simplex lattice',
  parameters: {
    amount: number({
      label: 'Amount',
      unit: 'm',
      help: 'How far it bulges',
      default: 0.05,
      range: [-1e3, 1e3],
      usual: [0, 0.5],
      step: 0.005,
      keyable: true,
    }),
    scale: number({
      label: 'Scale',
      unit: 'm',
      help: 'Size of the bulges',
      default: 0.4,
      range: [0.001, 1e5],
      usual: [0.05, 5],
      step: 0.01,
    }),
    change: number({
      label: 'Change',
      unit: '1/s',
      help: 'How fast they come and go; 0 keeps them',
      default: 0.5,
      range: [0, 100],
      usual: [0, 3],
      step: 0.05,
    }),
  },
  deform(values, { machine, count, points, rest, normals, time, seed, scale, scratch }) {
    const table = scratch(TABLE_BYTES)
    writeGradients(machine.heap, table, seed, time * values.change)
    const frequency = scale / values.scale
    machine.run('wrinkleMesh', count, {
      points,
      rest,
      normals,
      amount: values.amount / scale,
      table,
      frequency,
    })
  },
})
