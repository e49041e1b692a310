import { RIGID_BODIES } from '../constraints/rigidKind.ts'
import { number } from '../document/parameters.ts'
import { APPLIED, influence } from './influence.ts'

/** Gives particles a body: pieces of a broken mesh their shape, others that of the mesh they are drawn as, or a ball. */
export const rigid = influence({
  kind: 'rigid',
  family: 'contact',
  label: 'Rigid body',
  glyph: '◧',
  help: 'They have a shape and turn: they hit one another and whatever they collide with, topple, roll and rest',
  pitfall:
    'They tremble in a heap: raise the quality. They bounce about: lower Bounce. They have no shape: draw them as instances or pieces.',
  source: 'Contacts by Rapier; free flight: Dullweber, Leimkuhler, McLachlan (1997)',
  attributes: ['startVelocity', 'orientation', 'angularVelocity', 'contactNormal', 'piece', 'torque'],
  interacts: true,
  parameters: {
    strength: {
      ...APPLIED,
      help: 'Above 0 they are free; at 0, and in phases of weight 0, they are where they are put and push others away',
    },
    bounce: number({
      label: 'Bounce',
      unit: '×',
      help: 'Speed after a blow as a share of the speed before',
      default: 0.2,
      range: [0, 1],
      usual: [0, 1],
      step: 0.01,
    }),
    friction: number({
      label: 'Friction at rest',
      unit: '',
      help: 'Between them: the tangent of the slope on which they begin to slide',
      default: 0.6,
      range: [0, 10],
      usual: [0, 1.5],
      step: 0.01,
    }),
    sliding: number({
      label: 'Friction sliding',
      unit: '',
      help: 'The same once they slide: as a rule somewhat less',
      default: 0.5,
      range: [0, 10],
      usual: [0, 1.5],
      step: 0.01,
    }),
    spinDamping: number({
      label: 'Spin dies',
      unit: '1/s',
      help: 'What share of their spin they lose in a second: air, at 0 none',
      default: 0.1,
      range: [0, 1000],
      usual: [0, 5],
      step: 0.05,
      keyable: true,
    }),
  },
  constraint: RIGID_BODIES,
  rule: ({ bounce, friction, sliding, spinDamping }) => ({ bounce, friction, sliding, spinDamping }),
})
