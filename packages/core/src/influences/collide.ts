import { choice, reference } from '../document/parameters.ts'
import { SOLID } from './contactParameters.ts'
import { MESH_CONTACTS } from '../constraints/meshContacts.ts'
import { APPLIED, influence } from './influence.ts'

const SIDES: Record<string, number> = { outside: 1, inside: -1, either: 0 }

/** Particles hit a mesh, which may move and deform. Its kernel, assembly/sweepCollide.ts, gives the equations. */
export const collide = influence({
  kind: 'collide',
  family: 'contact',
  surrounds: true,
  label: 'Collide',
  glyph: '⌓',
  help: 'They hit a mesh and bounce, slide or lie; nothing passes through, however fast or thin',
  pitfall:
    'They stick or crawl: lower the friction. They stand off: their radius counts. Born inside, they are pushed out: choose what inside means.',
  source:
    'Moving balls against triangles: Ericson, "Real-Time Collision Detection" (2005), §5.5.6; Coulomb friction',
  attributes: ['startVelocity', 'sideFlags', 'contactNormal', 'contactTime', 'contactCollider'],
  parameters: {
    mesh: reference({ label: 'Mesh', help: 'What they hit', to: 'mesh' }),
    strength: { ...APPLIED, help: 'Above 0 it is there, at 0 it is not' },
    side: choice({
      label: 'They are',
      help: 'Outside of it, in it as in a vessel, or on whichever side they are, as of a sheet',
      default: 'outside',
      options: { outside: 'outside', inside: 'inside', either: 'on either side' },
    }),
    ...SOLID,
  },
  constraint: MESH_CONTACTS,
  rule: ({ mesh, side, inside, out, ...material }, { solid }) => {
    const of = solid(mesh)
    return of ? { ...material, of, side: SIDES[side]!, out: inside === 'out' ? out : 0 } : null
  },
  keepsOutside: ({ mesh, side }) => (side === 'inside' ? undefined : (mesh as string)),
})
