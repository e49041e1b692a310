import { combedNear } from '../scene/combings.ts'
import { projectToSurface } from '../scene/surfaceProjection.ts'
import { unit } from '../math/vector.ts'
import { choice, direction, number, reference } from '../document/parameters.ts'
import { influence } from './influence.ts'
import { RATE, SPEED } from './seek.ts'
import { SURFACE, WITHIN } from './stay.ts'

/** In the order of their codes in the kernel. */
const ALONG = ['u', 'v', 'direction', 'combing']

/** Runs over a surface along U, V, a direction laid onto it or a combing, each at its own speed. */
export const march = influence({
  kind: 'march',
  family: 'steering',
  label: 'March',
  glyph: '⇶',
  help: 'Runs along a surface; with Stay on surface it keeps to it',
  pitfall: 'They leave the surface: add Stay on surface. They pile up at an edge: key or comb the direction.',
  source: '',
  parameters: {
    mesh: SURFACE,
    strength: { ...RATE, help: 'How firmly they take on the speed: 1 means within about a second' },
    along: choice({
      label: 'Along',
      help: 'Which way: the surface’s U or V, a direction laid onto it, or the directions of a combing of it',
      default: 'u',
      options: { u: 'U', v: 'V', direction: 'a direction', combing: 'a combing' },
    }),
    combing: reference({
      label: 'Combing',
      help: 'Of the same mesh',
      to: 'combing',
      absent: 'none',
      when: { along: 'combing' },
    }),
    direction: direction({
      label: 'Direction',
      help: 'Laid onto the surface wherever they are',
      default: [0, 1, 0],
      keyable: true,
      when: { along: 'direction' },
    }),
    speed: {
      ...SPEED,
      help: 'Negative runs the other way; a response on chance gives each its own',
      range: [-1e4, 1e4] as [number, number],
      usual: [-3, 3] as [number, number],
      default: 0.5,
    },
    avoid: reference({
      label: 'Keep out of',
      help: 'A mask: they turn aside where it grows',
      to: 'mask',
      absent: 'nothing',
    }),
    look: number({
      label: 'Look ahead',
      unit: 'm',
      help: 'How far ahead they see the mask',
      default: 0.1,
      range: [0.0001, 1e4],
      usual: [0.01, 1],
      step: 0.01,
    }),
    within: WITHIN,
  },
  applyForces({ mesh, along, combing, direction, speed, avoid, look, within }, substep) {
    const { machine, columns, bodies, masks, combings, amount, from, factors } = substep
    const { heap } = machine
    const { count } = columns
    const { position, acceleration, damping } = columns.at
    const body = bodies.get(mesh)!
    const mode = ALONG.indexOf(along)
    const uvs = body.uvs()
    if ((mode < 2 && !uvs) || (mode === 3 && combing === undefined)) return
    const owned: number[] = []
    const block = (bytes: number): number => {
      owned.push(heap.allocate(bytes))
      return owned.at(-1)!
    }
    const feet = projectToSurface(machine, body, substep, 'from', position, count)
    const way = block(count * 12)
    const given = mode === 3 ? combedNear(machine, combings.of(combing!), substep, position, count) : 0
    if (given) owned.push(given)
    const [dx, dy, dz] = unit(direction)
    // a negative speed runs the other way
    const sign = speed < 0 ? -1 : 1
    machine.run('surfaceWays', count, {
      triangle: feet.triangle,
      normal: feet.normal,
      vertices: body.worldAt(from),
      triangles: body.triangles(),
      uvs,
      given,
      mode,
      dx,
      dy,
      dz,
      sign,
      out: way,
    })
    const values = [0, 0, 0]
    if (avoid !== undefined) {
      const [ahead, aside] = [block(count * 12), block(count * 12)]
      machine.run('stepsAlong', count, { position, way, normal: feet.normal, step: look, ahead, aside })
      for (const [k, positions] of [position, ahead, aside].entries()) {
        values[k] = block(count * 4)
        masks.write(avoid, { count, positions, frame: from }, values[k]!)
      }
    }
    machine.run('march', count, {
      amount,
      way,
      normal: feet.normal,
      surface: feet.velocity,
      distance: feet.distance,
      within,
      acceleration,
      damping,
      speed: Math.abs(speed),
      speedFactor: factors('speed'),
      avoided: values[0]!,
      ahead: values[1]!,
      aside: values[2]!,
      step: look,
    })
    feet.free()
    owned.forEach((pointer) => heap.free(pointer))
  },
})
