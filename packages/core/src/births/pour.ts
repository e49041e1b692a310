import { cosine, sine } from '../math/functions.ts'
import { cross, unit, type Vector } from '../math/vector.ts'
import { direction, number } from '../document/parameters.ts'
import { RIGID } from '../scene/points.ts'
import { birth, BirthError, COMMON } from './birth.ts'

/** The golden angle: turns by it spread points evenly over a disc (Vogel 1979). */
const GOLDEN = Math.PI * (3 - Math.sqrt(5))

/** It sets out along its direction, as fast as follows from its rate. */
const { aim: _, speed: __, ...common } = COMMON

/** A jet of liquid from a round spout: as fast as it must be for what comes through. */
export const pour = birth({
  kind: 'pour',
  label: 'Pour',
  glyph: '⏷',
  help: 'A round jet from the middle of a mesh, as fast as its rate and its width ask: each particle is a cell of liquid',
  source: 'Even over a disc: Vogel, "A better way to construct the sunflower head" (1979)',
  parameters: {
    ...common,
    amount: { ...COMMON.amount, default: { rate: 5000 } },
    width: number({
      label: 'Width',
      unit: 'm',
      help: 'Of the spout',
      default: 0.1,
      range: [1e-5, 1e4],
      usual: [0.01, 1],
      step: 0.01,
    }),
    direction: direction({
      label: 'Direction',
      help: 'Where it flows; the length does not matter',
      default: [0, -1, 0],
    }),
  },
  flow: ({ width }, diameter, rate) => (rate * diameter ** 3) / ((Math.PI / 4) * width ** 2),
  prepare({ width, direction }, { liquid }) {
    // whoever gives birth has it
    const { diameter, named } = liquid!
    const places = Math.max(1, Math.round(((Math.PI / 4) * width ** 2) / diameter ** 2))
    if (width < diameter)
      throw new BirthError(
        `The spout at ${named} is ${width} m wide, narrower than a particle of ${diameter.toPrecision(3)} m: make it wider or the particles smaller`,
      )
    const across = unit(direction as Vector)
    const side = unit(Math.abs(across[1]) > 0.9 ? [1, 0, 0] : [0, 1, 0])
    const u = unit(cross(across, side))
    const v = cross(across, u)
    return {
      offered: null,
      points(ids) {
        const positions = new Float32Array(ids.length * 3)
        ids.forEach((id, i) => {
          const n = id % places
          const r = (width / 2) * Math.sqrt((n + 0.5) / places)
          const [a, b] = [r * cosine(n * GOLDEN), r * sine(n * GOLDEN)]
          for (let axis = 0; axis < 3; axis++) positions[i * 3 + axis] = a * u[axis]! + b * v[axis]!
        })
        return {
          triangles: new Uint32Array(ids.length).fill(RIGID),
          weights: new Float32Array(ids.length * 2),
          about: 'mesh',
          positions,
        }
      },
    }
  },
})
