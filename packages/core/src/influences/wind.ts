import { TABLE_BYTES, writeGradients } from '../math/gradients.ts'
import { scale, unit } from '../math/vector.ts'
import { direction, number } from '../document/parameters.ts'
import { influence } from './influence.ts'

/** dv/dt = strength · (u − v): particles take on the air's velocity u, exactly and without overshoot. */
export const wind = influence({
  kind: 'wind',
  family: 'forces',
  label: 'Wind',
  glyph: '⇢',
  help: 'Moving air that takes particles along',
  pitfall:
    'All go at one pace like a sheet: raise Gusts, or add turbulence. A strength above 5 takes them along at once and nothing else counts.',
  source: 'Linear drag towards the velocity of the air, solved exactly',
  parameters: {
    strength: number({
      label: 'Strength',
      unit: '1/s',
      help: 'How firmly the air takes hold: 1 means within about a second',
      default: 1,
      range: [0, 1e4],
      usual: [0, 5],
      step: 0.05,
      keyable: true,
      responsive: true,
    }),
    speed: number({
      label: 'Air speed',
      unit: 'm/s',
      help: '3 stirs leaves, 15 is a gale',
      default: 3,
      range: [-1e4, 1e4],
      usual: [0, 20],
      step: 0.1,
      keyable: true,
      responsive: true,
    }),
    direction: direction({
      label: 'Direction',
      help: 'Where the air goes; the length does not matter',
      default: [1, 0, 0],
      keyable: true,
    }),
    gusts: number({
      label: 'Gusts',
      unit: '×',
      help: 'How much the speed rises and falls from place to place; 0 is steady',
      default: 0.3,
      range: [0, 10],
      usual: [0, 1],
      step: 0.01,
      keyable: true,
    }),
    gustSize: number({
      label: 'Gust size',
      unit: 'm',
      help: 'Distance from one gust to the next',
      default: 4,
      range: [0.001, 1e5],
      usual: [0.5, 20],
      step: 0.1,
    }),
    gustChange: number({
      label: 'Gust change',
      unit: '1/s',
      help: 'How fast gusts come and go',
      default: 0.3,
      range: [0, 100],
      usual: [0, 2],
      step: 0.01,
    }),
  },
  evenForce: ({ gusts, direction, speed }) =>
    gusts > 0 ? null : { acceleration: scale(unit(direction, [1, 0, 0]), speed), damping: 1 },
  applyForces(values, { machine, columns, amount, time, seed, scratch, factors }) {
    const { acceleration, damping, position } = columns.at
    const [x, y, z] = scale(unit(values.direction, [1, 0, 0]), values.speed)
    const table = scratch(TABLE_BYTES)
    if (values.gusts > 0) writeGradients(machine.heap, table, seed, time * values.gustChange)
    machine.run('blow', columns.count, {
      amount,
      acceleration,
      damping,
      position,
      ux: x,
      uy: y,
      uz: z,
      speeds: factors('speed'),
      gust: values.gusts,
      gradients: table,
      frequency: 1 / values.gustSize,
      offset: 0.5,
    })
  },
})
