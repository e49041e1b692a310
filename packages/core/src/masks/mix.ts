import { curveBytes, writeCurve } from '../document/curves.ts'
import { choice, curve, reference } from '../document/parameters.ts'
import { mask } from './mask.ts'

const HOW = ['multiply', 'max', 'min', 'subtract', 'add']

/** Two masks a and b as a·b, max, min, a − b or a + b, cut to 0…1; or one: 1 − a, or through a curve. */
export const mixMask = mask({
  kind: 'mix',
  label: 'Mix',
  glyph: '⊕',
  help: 'Two masks combined, or one turned round or bent',
  pitfall: 'It is empty: where one of the two is 0 a product is 0.',
  source: '',
  parameters: {
    how: choice({
      label: 'How',
      help: 'What is done',
      default: 'multiply',
      options: {
        multiply: 'multiply',
        max: 'max',
        min: 'min',
        subtract: 'subtract',
        add: 'add',
        invert: 'invert',
        remap: 'remap',
      },
    }),
    of: reference({ label: 'First', help: 'The first mask', to: 'mask' }),
    with: reference({
      label: 'Second',
      help: 'The second mask; invert and remap need none',
      to: 'mask',
      absent: 'nothing',
    }),
    curve: curve({
      label: 'Curve',
      help: 'What each value becomes',
      default: [
        [0, 0, 'smooth'],
        [1, 1],
      ],
      x: { label: 'value', range: [0, 1] },
      y: { label: 'becomes', range: [0, 1] },
      when: { how: 'remap' },
    }),
  },
  inputs: { with: undefined },
  write(values, places, out, { machine, write, keep }) {
    const { count } = places
    write(values.of, places, out)
    if (values.how === 'invert')
      return machine.run('linear', count, { input: out, out, scale: -1, offset: 1 })
    if (values.how === 'remap') {
      const keys = keep('curve', curveBytes(values.curve))
      writeCurve(machine.heap, keys, values.curve)
      return machine.run('remap', count, { input: out, keys, count: values.curve.length, out })
    }
    if (values.with === undefined) return
    const other = machine.heap.allocate(count * 4)
    write(values.with, places, other)
    machine.run('maskMix', count, { a: out, b: other, out, how: HOW.indexOf(values.how) })
    machine.heap.free(other)
  },
})
