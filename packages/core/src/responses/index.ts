/**
 * What responses can read of a particle. Each writes a value (f32) per particle, in the unit that the
 * curve's x has.
 */
import { nearSurface } from '../scene/distance.ts'
import { drawRandoms } from '../math/draw.ts'
import type { Substep } from '../influences/influence.ts'
import { writeCurve } from '../document/curves.ts'
import { arctangent } from '../math/functions.ts'
import { STREAM } from '../math/random.ts'
import { neighbourCounts } from '../state/neighbours.ts'
import { view, type ColumnName } from '../state/columns.ts'
import type { Response } from '../document/types.ts'

export interface ResponseSource {
  label: string
  unit: string
  /** What the curve usually spans. */
  usual: [number, number]
  columns?: ColumnName[]
  /** Names a mesh or a mask besides. */
  needs?: 'mesh' | 'mask'
  /** May name one of the goals besides. */
  offers?: 'goal'
  write(out: Float32Array, substep: Substep & { rate: number }, response: Response, pointer: number): void
}

const each =
  (
    columns: ColumnName[],
    value: (i: number, read: Record<string, Float32Array>, moment: { rate: number; ahead: number }) => number,
  ) =>
  (out: Float32Array, { columns: all, rate, ahead }: Substep & { rate: number }): void => {
    const read = Object.fromEntries(columns.map((name) => [name, view(all, name) as Float32Array]))
    for (let i = 0; i < out.length; i++) out[i] = value(i, read, { rate, ahead })
  }
const alongAxis = (axis: number, label: string): ResponseSource => ({
  label,
  unit: 'm',
  usual: [0, 2],
  write: each(['position'], (i, { position }) => position![i * 3 + axis]!),
})

/** By the word in the document. */
export const RESPONSE_SOURCES: Record<string, ResponseSource> = {
  age: {
    label: 'age',
    unit: 'of life',
    usual: [0, 1],
    // who lives to the end of the shot never ages
    write: each(['age', 'lifespan'], (i, { age, lifespan }, { ahead }) =>
      Math.max(0, (age![i]! + ahead) / lifespan![i]!),
    ),
  },
  frames: {
    label: 'age in frames',
    unit: 'frames',
    usual: [0, 100],
    write: each(['age'], (i, { age }, { rate, ahead }) => Math.max(0, (age![i]! + ahead) * rate)),
  },
  phaseFrames: {
    label: 'frames in the phase',
    unit: 'frames',
    usual: [0, 48],
    write: each(['phaseAge'], (i, { phaseAge }, { rate, ahead }) =>
      Math.max(0, (phaseAge![i]! + ahead) * rate),
    ),
  },
  speed: {
    label: 'speed',
    unit: 'm/s',
    usual: [0, 5],
    write: each(['velocity'], (i, { velocity: v }) =>
      Math.sqrt(v![i * 3]! ** 2 + v![i * 3 + 1]! ** 2 + v![i * 3 + 2]! ** 2),
    ),
  },
  radius: {
    label: 'radius',
    unit: 'm',
    usual: [0, 0.05],
    write: each(['radius'], (i, { radius }) => radius![i]!),
  },
  mass: {
    label: 'mass',
    unit: 'kg',
    usual: [0, 0.01],
    write: each(['inverseMass'], (i, { inverseMass }) => 1 / inverseMass![i]!),
  },
  travelled: {
    label: 'distance travelled',
    unit: 'm',
    usual: [0, 3],
    columns: ['travelled'],
    write: each(['travelled'], (i, { travelled }) => travelled![i]!),
  },
  goal: {
    label: 'distance to a goal, or its place on the mesh',
    unit: 'm',
    usual: [0, 2],
    columns: ['anchor', 'anchorAt'],
    offers: 'goal',
    write(out, substep, { goal }, pointer) {
      const { machine, columns, places } = substep
      const { on, from } = places(goal)
      machine.run('goalDistances', columns.count, on, columns.at.position, from, pointer)
      for (let i = 0; i < out.length; i++) if (out[i]! < 0) out[i] = 0
    },
  },
  mesh: {
    label: 'distance to a mesh',
    unit: 'm',
    usual: [0, 2],
    needs: 'mesh',
    write(out, { machine, columns, bodies, from }, { mesh }) {
      const near = nearSurface(machine, bodies.get(mesh!)!, from, columns.at.position, out.length, true)
      out.set(machine.heap.f32(near.distance, out.length))
      near.free()
    },
  },
  mask: {
    label: 'a mask',
    unit: '',
    usual: [0, 1],
    needs: 'mask',
    write(_, { columns, masks, from }, { mask }, pointer) {
      const { anchor, anchorAt, position } = columns.at
      const anchors = anchor ? { anchors: { anchor, at: anchorAt } } : {}
      masks.write(mask!, { count: columns.count, positions: position, frame: from, ...anchors }, pointer)
    },
  },
  slope: {
    label: 'slope of what it touches',
    unit: '°',
    usual: [0, 90],
    columns: ['touched'],
    // nothing is touched, or was in the last substep: 0
    write: each(['touched'], (i, { touched: n }) => {
      const across = Math.sqrt(n![i * 3]! ** 2 + n![i * 3 + 2]! ** 2)
      const up = n![i * 3 + 1]!
      const angle = up === 0 ? (across > 0 ? Math.PI / 2 : 0) : arctangent(across / Math.abs(up))
      return ((up < 0 ? Math.PI - angle : angle) * 180) / Math.PI
    }),
  },
  neighbours: {
    label: 'neighbours within four radii',
    unit: '',
    usual: [0, 12],
    write: (_, { machine, columns }, __, pointer) => neighbourCounts(machine, columns, 4, pointer),
  },
  random: {
    label: 'chance',
    unit: '',
    usual: [0, 1],
    write(out, { machine, columns, seed }) {
      const draws = drawRandoms(machine, view(columns, 'id') as Uint32Array, seed, STREAM.response)
      for (let i = 0; i < out.length; i++) out[i] = draws[i * 4]!
    },
  },
  order: {
    label: 'order of birth',
    unit: '',
    usual: [0, 10000],
    write: each(['id'], (i, { id }) => id![i]!),
  },
  x: alongAxis(0, 'position x'),
  y: alongAxis(1, 'height y'),
  z: alongAxis(2, 'position z'),
}

/** Multiplies an f32 per particle at `amount` by the curve of what the response reads. */
export function applyResponse(response: Response, substep: Substep & { rate: number }, amount: number): void {
  const { machine, columns } = substep
  const { heap } = machine
  const source = heap.allocate(columns.count * 4)
  const keys = heap.allocate(response.curve.length * 24)
  const kind = RESPONSE_SOURCES[response.from]!
  kind.write(heap.f32(source, columns.count), substep, response, source)
  writeCurve(heap, keys, response.curve)
  machine.run('respond', columns.count, source, keys, response.curve.length, amount)
  heap.free(source)
  heap.free(keys)
}
