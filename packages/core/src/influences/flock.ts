import { cosine, radians } from '../math/functions.ts'
import { number } from '../document/parameters.ts'
import { influence } from './influence.ts'
import { reference } from '../document/parameters.ts'

/** Whom they see: without one, each other. */
export const OTHERS = reference({
  label: 'Of',
  help: 'Another population that they see; without one, each other. For both, add the influence twice',
  to: 'population',
  absent: 'each other',
})
export const NEIGHBOURS = number({
  label: 'Neighbours',
  unit: '',
  help: 'Of more than this the nearest count',
  default: 24,
  range: [1, 256],
  usual: [4, 64],
  whole: true,
})

/** Birds of a feather: keep apart, fly the same way, stay together. */
export const flock = influence({
  kind: 'flock',
  family: 'steering',
  label: 'Flock',
  glyph: '⁂',
  help: 'Keeps apart from neighbours, flies their way and stays with them',
  pitfall:
    'They crowd into one ball: raise Separation. They fall apart: widen the radius, or raise Cohesion.',
  source:
    'Reynolds, "Flocks, herds, and schools" (1987); "Steering behaviors for autonomous characters" (1999)',
  attributes: ['stiffness'],
  keepsApart: true,
  radii: [
    { of: 'separationRadius', about: 'particles' },
    { of: 'radius', about: 'particles' },
  ],
  interacts: true,
  parameters: {
    strength: number({
      label: 'Strength',
      unit: '×',
      help: 'Of all three',
      default: 1,
      range: [0, 1e4],
      usual: [0, 3],
      step: 0.05,
      keyable: true,
      responsive: true,
    }),
    separation: number({
      label: 'Separation',
      unit: 'm/s²',
      help: 'Push off neighbours within the separation radius',
      default: 2,
      range: [0, 1e5],
      usual: [0, 10],
      step: 0.05,
      keyable: true,
      responsive: true,
    }),
    separationRadius: number({
      label: 'Apart within',
      unit: 'm',
      help: 'Nearer than this they keep apart. On a surface it must leave room for all',
      default: 0.2,
      range: [0.0001, 1e4],
      usual: [0.01, 2],
      step: 0.01,
      keyable: true,
    }),
    alignment: number({
      label: 'Alignment',
      unit: '1/s',
      help: 'How firmly they take on the velocity of their neighbours',
      default: 1,
      range: [0, 1e4],
      usual: [0, 5],
      step: 0.05,
      keyable: true,
      responsive: true,
    }),
    cohesion: number({
      label: 'Cohesion',
      unit: '1/s²',
      help: 'Pull to the middle of their neighbours, per metre',
      default: 1,
      range: [0, 1e5],
      usual: [0, 10],
      step: 0.05,
      keyable: true,
      responsive: true,
    }),
    radius: number({
      label: 'Sees within',
      unit: 'm',
      help: 'How far they see neighbours',
      default: 0.6,
      range: [0.0001, 1e4],
      usual: [0.05, 5],
      step: 0.05,
    }),
    view: number({
      label: 'Field of view',
      unit: '°',
      help: 'Whole angle about their heading: 360 sees behind too',
      default: 300,
      range: [0, 360],
      usual: [60, 360],
      step: 5,
    }),
    neighbours: NEIGHBOURS,
    with: OTHERS,
  },
  applyForces(values, { machine, columns, amount, neighbours, factors }) {
    const { position, startPosition, velocity, acceleration, damping, stiffness } = columns.at
    const { separation, separationRadius, alignment, cohesion, radius, view } = values
    const seen = neighbours(Math.max(radius, separationRadius), values.neighbours, values.with)
    if (!seen) return
    machine.run('flock', columns.count, {
      amount,
      ...seen,
      position,
      startPosition,
      velocity,
      acceleration,
      damping,
      stiffness,
      reach: radius,
      separate: separationRadius,
      most: values.neighbours,
      view: view >= 360 ? -1 : cosine(radians(view / 2)),
      s: separation,
      a: alignment,
      c: cohesion,
      sFactor: factors('separation'),
      aFactor: factors('alignment'),
      cFactor: factors('cohesion'),
    })
  },
})
