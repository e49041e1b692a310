import { drawRandoms } from '../math/draw.ts'
import { onSphere } from '../math/gradients.ts'
import { radians } from '../math/functions.ts'
import { STREAM } from '../math/random.ts'
import { unit, type Vector } from '../math/vector.ts'
import { randomKeys, words } from '../state/columns.ts'
import { choice, direction, number } from '../document/parameters.ts'
import { APPLIED, influence } from './influence.ts'

/** dq/dt = ½·ω·q about an axis of each particle's own, exactly over the substep. */
export const spin = influence({
  kind: 'spin',
  family: 'change',
  label: 'Spin',
  glyph: '↻',
  help: 'Turns each about an axis; discs and instances show it, and files carry it',
  pitfall: 'Nothing turns: spheres look the same from all sides. Draw discs or instances.',
  source: 'Rotation by unit quaternions',
  attributes: ['orientation'],
  parameters: {
    strength: APPLIED,
    rate: number({
      label: 'Rate',
      unit: '°/s',
      help: 'How fast they turn',
      default: 180,
      range: [-1e6, 1e6],
      usual: [-720, 720],
      step: 5,
      keyable: true,
      responsive: true,
    }),
    about: choice({
      label: 'About',
      help: 'An axis at random for each, or one for all',
      default: 'random',
      options: { random: 'at random', axis: 'an axis' },
    }),
    axis: direction({
      label: 'Axis',
      help: 'The axis for all; the length does not matter',
      default: [0, 1, 0],
      when: { about: 'axis' },
    }),
  },
  updateAttributes(values, { machine, columns, amount, factors, h, seed }) {
    const { heap } = machine
    const { count } = columns
    const axes = heap.allocate(count * 12)
    const all = heap.f32(axes, count * 3)
    if (values.about === 'random') {
      const draws = drawRandoms(machine, words(columns, randomKeys(columns)), seed, STREAM.spin)
      for (let i = 0; i < count; i++) all.set(onSphere(draws[i * 4]!, draws[i * 4 + 1]!), i * 3)
    } else {
      const axis: Vector = unit(values.axis)
      for (let i = 0; i < count; i++) all.set(axis, i * 3)
    }
    const angle = radians(values.rate) * h
    machine.run('spinBy', count, {
      amount,
      orientation: columns.at.orientation,
      axes,
      radians: angle,
      rates: factors('rate'),
    })
    heap.free(axes)
  },
})
