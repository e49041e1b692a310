import { projectToSurface } from '../scene/surfaceProjection.ts'
import { number, reference } from '../document/parameters.ts'
import { APPLIED, influence } from './influence.ts'

export const SURFACE = reference({
  label: 'Mesh',
  help: 'Whose surface it is; it may move and ripple',
  to: 'mesh',
})
export const WITHIN = number({
  label: 'Within',
  unit: 'm',
  help: 'Farther from the surface than this they are left alone',
  default: 1000,
  range: [0, 1e6],
  usual: [0, 2],
  step: 0.01,
  keyable: true,
})

/** Keeps particles on the nearest place of a surface, on which they may run. */
export const stay = influence({
  kind: 'stay',
  family: 'constraints',
  startsIn: 'first',
  label: 'Stay on surface',
  glyph: '⏚',
  help: 'Keeps each on the nearest place of a surface, free to run over it, and carries it along',
  pitfall: 'They jump to the other side of a thin mesh: set Within to less than its thickness.',
  source: 'Closest points: Ericson, "Real-Time Collision Detection" (2005), §5.1.5',
  attributes: ['surfaceVelocity'],
  parameters: {
    mesh: SURFACE,
    strength: { ...APPLIED, help: '1 holds exactly; below, that share of the way is closed each 1/24 s' },
    offset: number({
      label: 'Offset',
      unit: 'm',
      help: 'Height above the surface',
      default: 0,
      range: [-1e3, 1e3],
      usual: [0, 0.5],
      step: 0.005,
      keyable: true,
      responsive: true,
    }),
    within: WITHIN,
  },
  projectPositions({ mesh, offset, within }, substep) {
    const { machine, columns, bodies, amount, h } = substep
    const { position, startPosition, velocity } = columns.at
    const { count } = columns
    const body = bodies.get(mesh)!
    if (body.moves) {
      const stood = projectToSurface(machine, body, substep, 'from', startPosition, count, within)
      machine.run('carryAlong', count, {
        amount,
        position,
        velocity,
        surfaceVelocity: columns.at.surfaceVelocity,
        distance: stood.distance,
        surface: stood.velocity,
        within,
        h,
      })
      stood.free()
    }
    const feet = projectToSurface(machine, body, substep, 'to', position, count)
    machine.run('holdToSurface', count, {
      amount,
      position,
      velocity,
      point: feet.point,
      distance: feet.distance,
      normal: feet.normal,
      surface: feet.velocity,
      offset,
      offsetFactor: substep.factors('offset'),
      within,
      frames: h * 24,
    })
    feet.free()
  },
})
