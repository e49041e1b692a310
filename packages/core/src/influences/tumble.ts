import { drawRandoms } from '../math/draw.ts'
import { power2, radians } from '../math/functions.ts'
import { onSphere } from '../math/gradients.ts'
import { STREAM } from '../math/random.ts'
import { number } from '../document/parameters.ts'
import { floats, randomKeys, words } from '../state/columns.ts'
import { APPLIED, influence } from './influence.ts'

/** Rolls over what it touches and turns on through the air. Its kernel, assembly/changes.ts, gives the equation. */
export const tumble = influence({
  kind: 'tumble',
  family: 'change',
  label: 'Tumble',
  glyph: '⟳',
  help: 'Rolls over what it touches and turns on through the air; it collides as a ball all the same',
  pitfall: 'It rolls like a ball though it is a plank: it collides as a ball. Rigid bodies have a shape.',
  source: 'Rolling without slip, ω = n × v / r',
  attributes: ['orientation', 'angularVelocity', 'contactNormal'],
  parameters: {
    strength: { ...APPLIED, help: 'How much of its turning it takes from what it touches' },
    start: number({
      label: 'At birth',
      unit: '°/s',
      help: 'How fast it turns at first, about an axis at random',
      default: 180,
      range: [-1e6, 1e6],
      usual: [0, 1080],
      step: 10,
    }),
    halfLife: number({
      label: 'Half-life',
      unit: 'frames',
      help: 'In the air it turns half as fast after this time',
      default: 48,
      range: [0.01, 1e6],
      usual: [1, 240],
      step: 1,
      keyable: true,
    }),
  },
  updateAttributes({ start, halfLife }, { machine, columns, amount, h, from, to, seed }) {
    const { heap } = machine
    const { count, at } = columns
    // the first substep of a life ends at an age of at most h
    const young = h * 1.0001
    const begins = floats(columns, 'age').some((age) => age <= young) ? heap.allocate(count * 12) : 0
    if (begins) {
      const all = heap.f32(begins, count * 3)
      const draws = drawRandoms(machine, words(columns, randomKeys(columns)), seed, STREAM.tumble)
      for (let i = 0; i < count; i++)
        all.set(
          onSphere(draws[i * 4]!, draws[i * 4 + 1]!).map((x) => x * radians(start)),
          i * 3,
        )
    }
    const lasts = power2((from - to) / halfLife)
    machine.run('tumble', count, {
      amount,
      orientation: at.orientation,
      angularVelocity: at.angularVelocity,
      velocity: at.velocity,
      radius: at.radius,
      contactNormal: at.contactNormal,
      age: at.age,
      begins,
      young,
      lasts,
      h,
    })
    if (begins) heap.free(begins)
  },
})
