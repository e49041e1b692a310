import { projectToSurface } from '../scene/surfaceProjection.ts'
import { combedWays } from '../scene/combings.ts'
import { number, reference } from '../document/parameters.ts'
import { influence } from './influence.ts'
import { RATE, SPEED } from './seek.ts'
import { WITHIN } from './stay.ts'

const SHARE = {
  unit: '×',
  range: [0, 100] as [number, number],
  usual: [0, 2] as [number, number],
  step: 0.01,
  keyable: true,
}

/** Runs along combed directions, held near the surface by a pull to it. */
export const follow = influence({
  kind: 'follow',
  family: 'steering',
  label: 'Follow',
  glyph: '≋',
  help: 'Runs along the directions of a combing, at a height above its mesh, which may move and bend',
  pitfall: 'They lift off where the mesh bends: pull harder, go slower, or widen the reach.',
  source: 'The mean of the direction and of the pull to the surface, by their weights',
  parameters: {
    combing: reference({ label: 'Combing', help: 'Whose directions they follow', to: 'combing' }),
    strength: {
      ...RATE,
      default: 8,
      help: 'How firmly they take on the speed: 1 means within about a second',
    },
    speed: {
      ...SPEED,
      help: 'Negative runs the other way; keys that swing make it pulse',
      range: [-1e4, 1e4] as [number, number],
      usual: [-3, 3] as [number, number],
      default: 0.5,
    },
    along: number({ label: 'Combed', help: 'How much the combed direction counts', default: 1, ...SHARE }),
    pull: number({
      label: 'Pull',
      help: 'How much the way back to the surface counts',
      default: 1,
      ...SHARE,
    }),
    offset: number({
      label: 'Offset',
      unit: 'm',
      help: 'The height above the surface at which they run',
      default: 0.01,
      range: [-1e3, 1e3],
      usual: [0, 0.5],
      step: 0.005,
      keyable: true,
      responsive: true,
    }),
    reach: number({
      label: 'Reach',
      unit: 'm',
      help: 'So far from that height the pull is full; nearer it is as much less',
      default: 0.05,
      range: [1e-6, 1e4],
      usual: [0.005, 1],
      step: 0.005,
      keyable: true,
    }),
    within: { ...WITHIN, help: 'Farther from the surface than this they have strayed, and are left alone' },
  },
  radii: [{ of: 'reach', about: 'particles' }],
  applyForces({ combing, speed, along, pull, offset, reach, within }, substep) {
    const { machine, columns, combings, amount, from, factors } = substep
    const { position, acceleration, damping } = columns.at
    const { count } = columns
    const combed = combings.of(combing)
    const feet = projectToSurface(machine, combed.body, substep, 'from', position, count)
    const way = combedWays(machine, combed, feet, from, count)
    machine.run('followWays', count, {
      amount,
      position,
      point: feet.point,
      way,
      normal: feet.normal,
      surface: feet.velocity,
      distance: feet.distance,
      acceleration,
      damping,
      speed,
      speedFactor: factors('speed'),
      along,
      pull,
      offset,
      offsetFactor: factors('offset'),
      reach,
      within,
    })
    machine.heap.free(way)
    feet.free()
  },
})
