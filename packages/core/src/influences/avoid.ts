import { projectToSurface } from '../scene/surfaceProjection.ts'
import { number, reference } from '../document/parameters.ts'
import { widestRadius } from '../state/neighbours.ts'
import { NEIGHBOURS, OTHERS } from './flock.ts'
import { influence } from './influence.ts'
import { FLAT } from './wander.ts'

/**
 * Looks ahead: a push that grows as a collision comes nearer in time, so that they make way early and gently,
 * like people in a crowd.
 */
export const avoid = influence({
  kind: 'avoid',
  family: 'steering',
  label: 'Avoid',
  glyph: '⤨',
  help: 'Sees collisions coming and makes way in time, among themselves and for a mesh',
  pitfall:
    'They stop before one another: raise Steps aside. They still meet: look further ahead, and see within more.',
  source:
    'Karamouzas, Skinner, Guy, "Universal power law governing pedestrian interactions", Phys. Rev. Lett. 113 (2014)',
  keepsApart: true,
  radii: [{ of: 'reach', about: 'particles' }],
  interacts: true,
  parameters: {
    strength: number({
      label: 'Strength',
      unit: '×',
      help: 'k of the published law, in m²; people have about 1.5',
      default: 1.5,
      range: [0, 1e4],
      usual: [0, 5],
      step: 0.05,
      keyable: true,
      responsive: true,
    }),
    ahead: number({
      label: 'Look ahead',
      unit: 's',
      help: 'Collisions later than this hardly count; τ₀ of the published law, 3 s for people',
      default: 3,
      range: [0.01, 100],
      usual: [0.5, 6],
      step: 0.1,
      keyable: true,
    }),
    size: number({
      label: 'Size',
      unit: '× radius',
      help: 'How large they take one another to be',
      default: 1.05,
      range: [0.01, 100],
      usual: [1, 3],
      step: 0.05,
      keyable: true,
    }),
    reach: number({
      label: 'Sees within',
      unit: 'm',
      help: 'How far they see neighbours',
      default: 3,
      range: [0.001, 1e4],
      usual: [0.1, 10],
      step: 0.1,
    }),
    neighbours: NEIGHBOURS,
    with: OTHERS,
    limit: number({
      label: 'Hardest push',
      unit: 'm/s²',
      help: 'So that nothing explodes when all start too close',
      default: 15,
      range: [0, 1e6],
      usual: [1, 100],
      step: 1,
    }),
    aside: number({
      label: 'Steps aside',
      unit: '×',
      help: 'How far those that touch after all, or the mesh, are moved apart at once: 1 wholly, 0 not at all',
      default: 1,
      range: [0, 1],
      usual: [0, 1],
      step: 0.05,
    }),
    mesh: reference({
      label: 'And a mesh',
      help: 'A mesh that they make way for too; it may move',
      to: 'mesh',
      absent: 'none',
    }),
    moves: FLAT,
  },
  applyForces({ ahead, size, reach, neighbours: most, with: of, limit, mesh, moves }, substep) {
    const { machine, columns, amount, bodies, neighbours } = substep
    const { position, velocity, radius, acceleration } = columns.at
    const { count } = columns
    const flat = moves === 'level' ? 1 : 0
    const seen = neighbours(reach, most, of)
    if (seen)
      machine.run('avoid', count, {
        amount,
        ...seen,
        position,
        velocity,
        radius,
        acceleration,
        reach,
        most,
        size,
        horizon: ahead,
        limit,
        flat,
      })
    const body = mesh === undefined ? undefined : bodies.get(mesh)
    if (!body) return
    const feet = projectToSurface(machine, body, substep, 'from', position, count, reach)
    machine.run('avoidSurface', count, {
      amount,
      position,
      velocity,
      radius,
      acceleration,
      point: feet.point,
      surface: feet.velocity,
      distance: feet.distance,
      reach,
      size,
      horizon: ahead,
      limit,
      flat,
    })
    feet.free()
  },
  projectPositions({ aside, mesh, moves, with: of }, substep) {
    if (aside === 0) return
    const { machine, columns, amount, bodies, neighbours } = substep
    const { heap } = machine
    const flat = moves === 'level' ? 1 : 0
    const { count } = columns
    const { position, velocity, radius } = columns.at
    const widest = Math.max(widestRadius(columns), substep.widestOf(of))
    const seen = neighbours(2 * widest, 64, of)
    if (!seen) return
    const [shift, change] = [heap.allocate(count * 12), heap.allocate(count * 12)]
    machine.run('stepAside', count, {
      amount,
      ...seen,
      position,
      velocity,
      radius,
      widest,
      size: 1,
      firm: aside,
      flat,
      shift,
      change,
    })
    machine.run('applyShift', count, { position, velocity, shift, change })
    heap.free(shift)
    heap.free(change)
    const body = mesh === undefined ? undefined : bodies.get(mesh)
    if (!body) return
    const feet = projectToSurface(machine, body, substep, 'to', position, count, 2 * widest)
    machine.run('stepOff', count, {
      amount,
      position,
      velocity,
      radius,
      point: feet.point,
      distance: feet.distance,
      normal: feet.normal,
      surface: feet.velocity,
      firm: aside,
      flat,
    })
    feet.free()
  },
})
