import { choice, number, reference } from '../shot/parameters.ts'
import { BOUNCE, FRICTION, SLIDING, STICKY } from './grip.ts'
import { APPLIED, influence } from './kind.ts'

const SIDES: Record<string, number> = { outside: 1, inside: -1, either: 0 }

export const OFFSET = number({
  label: 'Offset',
  unit: 'm',
  help: 'Between its own surface and the other; below 0 it sinks in',
  default: 0,
  range: [-1e3, 1e3],
  usual: [-0.05, 0.05],
  step: 0.001,
  keyable: true,
})
export const DEFLECTION = number({
  label: 'Deflection',
  unit: '°',
  help: 'What bounces off is turned by up to this, at random',
  default: 0,
  range: [0, 90],
  usual: [0, 60],
  step: 1,
  keyable: true,
})
export const IS_INSIDE = {
  inside: choice({
    label: 'On the wrong side',
    help: 'What happens to those that start there: they come out to the nearest place, or stay and do not collide',
    default: 'out',
    options: { out: 'come out', stay: 'stay' },
  }),
  out: number({
    label: 'Come out at',
    unit: 'm/s',
    help: 'Slowly, so that nothing explodes',
    default: 1,
    range: [0.001, 1e4],
    usual: [0.1, 5],
    step: 0.1,
    when: { inside: 'out' },
  }),
}

/** Particles hit a mesh, which may move and deform. Its kernel, assembly/colliders.ts, gives the equations. */
export const collide = influence({
  kind: 'collide',
  family: 'contact',
  label: 'Collide',
  glyph: '⌓',
  help: 'They hit a mesh and bounce, slide or lie; nothing passes through, however fast or thin',
  source:
    'Moving balls against triangles: Ericson, "Real-Time Collision Detection" (2005), §5.5.6; Coulomb friction',
  columns: ['before', 'wrong', 'touched'],
  parameters: {
    mesh: reference({ label: 'Mesh', help: 'What they hit', to: 'mesh' }),
    strength: { ...APPLIED, help: 'Above 0 it is there, at 0 it is not' },
    side: choice({
      label: 'They are',
      help: 'Outside of it, in it as in a vessel, or on whichever side they are, as of a sheet',
      default: 'outside',
      options: { outside: 'outside', inside: 'inside', either: 'on either side' },
    }),
    bounce: BOUNCE,
    friction: FRICTION,
    sliding: SLIDING,
    sticky: STICKY,
    deflection: DEFLECTION,
    offset: OFFSET,
    ...IS_INSIDE,
  },
  collider({ mesh, side, inside, out, ...grip }, { bodies }) {
    const of = bodies.get(mesh)
    return of ? { ...grip, of, side: SIDES[side]!, out: inside === 'out' ? out : 0 } : null
  },
})
