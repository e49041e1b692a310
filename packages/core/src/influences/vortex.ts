import { unit } from '../math/vector.ts'
import { direction, number, vector } from '../document/parameters.ts'
import { influence } from './influence.ts'
import { RATE } from './seek.ts'

/** A whirl about an axis. */
export const vortex = influence({
  kind: 'vortex',
  family: 'forces',
  label: 'Vortex',
  glyph: '⟲',
  help: 'Takes particles round an axis, and towards and along it if wanted',
  pitfall:
    'They fly off in a spiral: raise Inward, or lower the speed. Nothing turns: they are beyond its reach.',
  source: 'Rankine’s vortex: Rankine, "A Manual of Applied Mechanics" (1858)',
  radii: [
    { of: 'core', about: 'point' },
    { of: 'reach', about: 'point' },
  ],
  parameters: {
    strength: { ...RATE, help: 'How firmly it takes hold: 1 means within about a second' },
    point: vector({
      label: 'Point',
      unit: 'm',
      help: 'On the axis',
      default: [0, 0, 0],
      range: [-1e6, 1e6],
      usual: [-5, 5],
      step: 0.05,
      keyable: true,
    }),
    axis: direction({
      label: 'Axis',
      help: 'Its direction; seen from its tip, they turn anticlockwise',
      default: [0, 1, 0],
      keyable: true,
    }),
    speed: number({
      label: 'Speed',
      unit: 'm/s',
      help: 'Round the axis at the edge of the core, where it is highest',
      default: 2,
      range: [-1e4, 1e4],
      usual: [-10, 10],
      step: 0.05,
      keyable: true,
    }),
    core: number({
      label: 'Core',
      unit: 'm',
      help: 'Inside this radius everything turns as one; outside the speed falls as 1/r',
      default: 0.5,
      range: [0.0001, 1e5],
      usual: [0.05, 5],
      step: 0.05,
      keyable: true,
    }),
    inward: number({
      label: 'Inward',
      unit: 'm/s',
      help: 'Towards the axis, with the same profile; negative is outward',
      default: 0.3,
      range: [-1e4, 1e4],
      usual: [-2, 2],
      step: 0.05,
      keyable: true,
    }),
    lift: number({
      label: 'Along the axis',
      unit: 'm/s',
      help: 'Speed along the axis',
      default: 0,
      range: [-1e4, 1e4],
      usual: [-5, 5],
      step: 0.05,
      keyable: true,
    }),
    reach: number({
      label: 'Reach',
      unit: 'm',
      help: 'Distance from the axis beyond which it does nothing',
      default: 5,
      range: [0.0001, 1e6],
      usual: [0.1, 20],
      step: 0.1,
      keyable: true,
    }),
  },
  applyForces({ point, axis, core, speed, inward, lift, reach }, { machine, columns, amount }) {
    const [dx, dy, dz] = unit(axis)
    const { position, acceleration, damping } = columns.at
    machine.run('vortex', columns.count, {
      amount,
      acceleration,
      damping,
      position,
      cx: point[0],
      cy: point[1],
      cz: point[2],
      dx,
      dy,
      dz,
      core,
      speed,
      inward,
      lift,
      reach,
    })
  },
})
