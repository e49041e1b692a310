import { STREAM } from '../math/random.ts'
import { drawRandoms } from './draw.ts'
import { birth, COMMON, type Points } from './kind.ts'

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
        return pickPoints({ positions: mesh.positions, normals: normals() }, ids.length, pick)
      },
    }
  },
})

/** Copies chosen points of a set. */
export function pickPoints(from: Points, count: number, pick: (i: number) => number): Points {
  const out = { positions: new Float32Array(count * 3), normals: new Float32Array(count * 3) }
  for (let i = 0; i < count; i++) {
    const o = pick(i) * 3
    for (let axis = 0; axis < 3; axis++) {
      out.positions[i * 3 + axis] = from.positions[o + axis]!
      out.normals[i * 3 + axis] = from.normals[o + axis]!
    }
  }
  return out
}
