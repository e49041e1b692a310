import { projectToSurface } from '../scene/surfaceProjection.ts'
import { power2 } from '../math/functions.ts'
import { unit } from '../math/vector.ts'
import { choice, direction, number, reference } from '../document/parameters.ts'
import { APPLIED, influence } from './influence.ts'

/** Turns the front of each, its Z, towards where it goes, off a surface, or in a direction. */
export const face = influence({
  kind: 'face',
  family: 'change',
  label: 'Turn to',
  glyph: '↱',
  help: 'Turns the front of each: the way it goes, off a surface, or in a direction',
  pitfall: 'They flicker: who stands nearly still has no way to go. Raise the half-life.',
  source: 'Shortest turn between two directions, by unit quaternions',
  attributes: ['orientation', 'contactNormal'],
  parameters: {
    strength: APPLIED,
    to: choice({
      label: 'To',
      help: 'Where the front looks',
      default: 'way',
      options: { way: 'the way it goes', surface: 'off a surface', direction: 'a direction' },
    }),
    mesh: reference({
      label: 'Surface of',
      help: 'Whose nearest surface it is',
      to: 'mesh',
      absent: 'what it touches',
      when: { to: 'surface' },
    }),
    direction: direction({
      label: 'Direction',
      help: 'Where the front looks; the length does not matter',
      default: [0, 0, 1],
      when: { to: 'direction' },
    }),
    level: choice({
      label: 'Top',
      help: 'Whether the top, Y, stays up as far as it can, or goes wherever the turn takes it',
      default: 'free',
      options: { free: 'free', up: 'stays up' },
    }),
    halfLife: number({
      label: 'Half-life',
      unit: 'frames',
      help: 'Half of the turn is done in this time; 0 turns at once',
      default: 2,
      range: [0, 1e5],
      usual: [0, 24],
      step: 0.5,
      keyable: true,
    }),
  },
  updateAttributes({ to, mesh, direction, level, halfLife }, substep) {
    const { machine, columns, amount, bodies } = substep
    const { count, at } = columns
    const { heap } = machine
    const body = to === 'surface' ? bodies.get(mesh) : undefined
    const feet = body && projectToSurface(machine, body, substep, 'to', at.position, count)
    let ways = feet?.normal ?? (to === 'surface' ? at.contactNormal : at.velocity)
    if (to === 'direction') {
      ways = heap.allocate(count * 12)
      const one = unit(direction)
      const all = heap.f32(ways, count * 3)
      for (let i = 0; i < count; i++) all.set(one, i * 3)
    }
    const portion = halfLife === 0 ? 1 : 1 - power2((substep.from - substep.to) / halfLife)
    machine.run('faceTo', count, {
      amount,
      orientation: at.orientation,
      ways,
      portion,
      level: level === 'up' ? 1 : 0,
    })
    feet?.free()
    if (to === 'direction') heap.free(ways)
  },
})
