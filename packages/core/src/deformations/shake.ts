import { sine } from '../math/functions.ts'
import { randoms, STREAM } from '../math/random.ts'
import { affine } from '../math/vector.ts'
import { number } from '../document/parameters.ts'
import { deformation } from './deformation.ts'

/** Waves per axis whose frequencies have no common period. */
const WAVES = [1, 1.618, 2.414]

/** Moves and turns the whole mesh to and fro: three sines per axis. */
export const shake = deformation({
  kind: 'shake',
  label: 'Shake',
  glyph: '↔',
  help: 'Trembles as a whole, as in a gale',
  source: 'Sum of sines without a common period',
  parameters: {
    amount: number({
      label: 'Amount',
      unit: 'm',
      help: 'How far it is moved at most',
      default: 0.02,
      range: [0, 1e3],
      usual: [0, 0.2],
      step: 0.002,
      keyable: true,
    }),
    turn: number({
      label: 'Turn',
      unit: '°',
      help: 'How far it is turned at most',
      default: 1,
      range: [0, 360],
      usual: [0, 10],
      step: 0.1,
      keyable: true,
    }),
    frequency: number({
      label: 'Frequency',
      unit: '1/s',
      help: 'To and fro per second',
      default: 4,
      range: [0, 100],
      usual: [0.5, 12],
      step: 0.1,
    }),
  },
  deform({ amount, turn, frequency }, { machine, count, points, time, seed, scale, scratch }) {
    const sway = [0, 1, 2, 3, 4, 5].map((axis) => {
      const phases = randoms(seed, axis, STREAM.gradients)
      return WAVES.reduce((sum, w, k) => sum + sine(2 * Math.PI * (time * frequency * w + phases[k]!)) / 3, 0)
    }) as [number, number, number, number, number, number]
    const [x, y, z, a, b, c] = sway
    const map = affine(
      [(x * amount) / scale, (y * amount) / scale, (z * amount) / scale],
      [a * turn, b * turn, c * turn],
      [1, 1, 1],
    )
    const pointer = scratch(96)
    machine.heap.f64(pointer, 12).set(map)
    machine.run('transformPoints', count, { points, out: points, map: pointer })
  },
})
