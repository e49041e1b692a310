import { STREAM } from '../math/random.ts'
import { drawRandoms } from './draw.ts'
import { birth, COMMON } from './kind.ts'

/** Born on the vertices: a burst takes them in order, evenly chosen; a rate takes them at random. */
export const vertices = birth({
  kind: 'vertices',
  label: 'On vertices',
  glyph: '⁘',
  help: 'On the vertices of the mesh; a burst of "all" puts one on each',
  source: '',
  parameters: { ...COMMON },
  prepare(_, { machine, mesh, normals, seed }) {
    const offered = mesh.positions.length / 3
    return {
      offered,
      points(ids, turns) {
        const draws = turns ? null : drawRandoms(machine, ids, seed, STREAM.vertex)
        const pick = (i: number): number => turns?.[i] ?? Math.floor(draws![i * 4]! * offered)
        return {
          positions: pickPoints(mesh.positions, ids.length, pick),
          normals: () => pickPoints(normals(), ids.length, pick),
        }
      },
    }
  },
})

/** Copies chosen points (x, y, z) of a set. */
export function pickPoints(from: Float32Array, count: number, pick: (i: number) => number): Float32Array {
  const out = new Float32Array(count * 3)
  for (let i = 0; i < count; i++) {
    const o = pick(i) * 3
    for (let axis = 0; axis < 3; axis++) out[i * 3 + axis] = from[o + axis]!
  }
  return out
}
