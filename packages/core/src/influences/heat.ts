import { choice, number, reference, vector } from '../document/parameters.ts'
import { nearSurface } from '../scene/distance.ts'
import { APPLIED, influence } from './influence.ts'

/** Draws temperatures towards one: of all particles, or of those near a mesh or a point. */
export const heat = influence({
  kind: 'heat',
  family: 'change',
  label: 'Heat',
  glyph: '☼',
  help: 'Warms or cools them to a temperature: all of them, near a mesh or a point, or where a response says',
  pitfall: 'All is warm at once: choose from what it warms, or lower the rate.',
  source: 'dT/dt = r·(T₀ − T), solved exactly',
  attributes: ['temperature'],
  radii: [{ of: 'reach', about: 'point' }],
  parameters: {
    strength: APPLIED,
    temperature: number({
      label: 'Temperature',
      unit: '°C',
      help: 'What they come to',
      default: 80,
      range: [-273.15, 1e5],
      usual: [0, 200],
      step: 1,
      keyable: true,
    }),
    rate: number({
      label: 'Rate',
      unit: '1/s',
      help: 'How fast: 1 means within about a second',
      default: 1,
      range: [0, 1e6],
      usual: [0, 10],
      step: 0.05,
      keyable: true,
    }),
    from: choice({
      label: 'From',
      help: 'What is warm, or cold',
      default: 'everywhere',
      options: { everywhere: 'everywhere', mesh: 'a mesh', point: 'a point' },
    }),
    mesh: reference({
      label: 'Mesh',
      help: 'Its surface and inside, which may move and ripple',
      to: 'mesh',
      absent: 'none',
      when: { from: 'mesh' },
    }),
    point: vector({
      label: 'Point',
      unit: 'm',
      help: 'Where it is',
      default: [0, 0, 0],
      range: [-1e6, 1e6],
      usual: [-5, 5],
      step: 0.05,
      keyable: true,
      when: { from: 'point' },
    }),
    reach: number({
      label: 'Reach',
      unit: 'm',
      help: 'It falls off evenly to this distance',
      default: 0.1,
      range: [1e-6, 1e6],
      usual: [0.01, 2],
      step: 0.01,
      keyable: true,
      when: { from: 'mesh point' },
    }),
  },
  updateAttributes(
    { temperature, rate, from, mesh, point, reach },
    { machine, columns, bodies, amount, h, to },
  ) {
    const body = from === 'mesh' ? bodies.get(mesh as string) : undefined
    if (from === 'mesh' && !body) return
    const { count, at } = columns
    const near = body && nearSurface(machine, body, to, at.position, count, true)
    const [x, y, z] = point
    machine.run('warm', count, {
      ...{ position: at.position, temperature: at.temperature, amount },
      ...{ distance: near?.distance ?? 0, around: from === 'everywhere' ? 0 : 1, x, y, z, reach },
      ...{ towards: temperature, rate, h },
    })
    near?.free()
  },
})
