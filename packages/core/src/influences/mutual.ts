import { number } from '../document/parameters.ts'
import { NEIGHBOURS, OTHERS } from './flock.ts'
import { influence } from './influence.ts'

const push = {
  unit: 'm/s²',
  range: [-1e6, 1e6] as [number, number],
  usual: [0, 20] as [number, number],
  step: 0.1,
  keyable: true,
  responsive: true,
}
const metres = {
  unit: 'm',
  range: [0.0001, 1e4] as [number, number],
  usual: [0.01, 2] as [number, number],
  step: 0.01,
  keyable: true,
}

/** Particles pull one another from afar and push one another from nearby. */
export const mutual = influence({
  kind: 'mutual',
  family: 'forces',
  label: 'Mutual',
  glyph: '⇌',
  help: 'They attract one another within one radius and repel within a smaller one: a living clump',
  pitfall:
    'The clump explodes: lower Repulsion, or make Near smaller than the distance at birth. It collapses: the other way round.',
  source: '',
  keepsApart: true,
  radii: [
    { of: 'near', about: 'particles' },
    { of: 'far', about: 'particles' },
  ],
  interacts: true,
  parameters: {
    strength: number({
      label: 'Strength',
      unit: '×',
      help: 'Of both',
      default: 1,
      range: [-1e4, 1e4],
      usual: [0, 3],
      step: 0.05,
      keyable: true,
      responsive: true,
    }),
    attraction: number({
      ...push,
      label: 'Attraction',
      help: 'Half-way between the radii, per neighbour',
      default: 1,
    }),
    far: number({
      ...metres,
      label: 'Attracts to',
      help: 'Farther neighbours do not count',
      default: 0.4,
    }),
    repulsion: number({ ...push, label: 'Repulsion', help: 'Where they touch, per neighbour', default: 10 }),
    near: number({
      ...metres,
      label: 'Repels to',
      help: 'Should be less than the other, or they scatter',
      default: 0.15,
    }),
    neighbours: NEIGHBOURS,
    with: OTHERS,
  },
  applyForces({ attraction, far, repulsion, near, neighbours: most, with: of }, substep) {
    const { machine, columns, amount, factors } = substep
    const { heap } = machine
    const { count } = columns
    const { position, acceleration } = columns.at
    const seen = substep.neighbours(Math.max(near, far), most, of)
    if (!seen) return
    const pFactor = factors('repulsion')
    const qFactor = factors('attraction')
    const pulls = {
      amount,
      position,
      acceleration,
      near,
      far,
      most,
      p: repulsion,
      q: attraction,
      pFactor,
      qFactor,
    }
    if (seen.own === 0) {
      machine.run('attractToOthers', count, { ...pulls, cells: seen.cells })
      return
    }
    // a pair acts on both, also where only one of them has room for it
    const [slots, first] = [heap.allocate(count * most * 4), heap.allocate((count + 1) * 4)]
    const list = heap.allocate(count * most * 4)
    const reach = Math.max(near, far)
    machine.run('namedNeighbours', count, { position, cells: seen.cells, reach, most, out: slots })
    machine.call('oneSidedNeighbours', { count, most, slots, first, list })
    machine.run('attractMutually', count, { ...pulls, slots, first, list })
    for (const pointer of [slots, first, list]) heap.free(pointer)
  },
})
