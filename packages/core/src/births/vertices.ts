import { cornersOf, perMesh } from '../geometry/mesh.ts'
import { STREAM } from '../math/random.ts'
import { drawRandoms } from '../math/draw.ts'
import { RIGID } from '../scene/points.ts'
import { birth, COMMON } from './birth.ts'

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
        const picked = Uint32Array.from(ids, (_, i) => turns?.[i] ?? Math.floor(draws![i * 4]! * offered))
        const corner = cornerOf(mesh)
        return {
          triangles: picked.map((v) => (corner[v]! < 0 ? RIGID : Math.floor(corner[v]! / 3))),
          weights: weightsOf(picked, corner),
          vertices: picked,
          positions: pickPoints(mesh.positions, ids.length, (i) => picked[i]!),
          normals: () => pickPoints(normals(), ids.length, (i) => picked[i]!),
        }
      },
    }
  },
})

/** Per vertex one corner of a triangle that is it; −1 for a vertex without triangles. */
const cornerOf = perMesh((mesh): Int32Array => {
  const corner = new Int32Array(mesh.positions.length / 3).fill(-1)
  cornersOf(mesh).forEach((v, k) => (corner[v] = k))
  return corner
})

function weightsOf(picked: Uint32Array, corner: Int32Array): Float32Array {
  const weights = new Float32Array(picked.length * 2)
  picked.forEach((v, i) => {
    const k = corner[v]! % 3
    if (corner[v]! >= 0 && k > 0) weights[i * 2 + k - 1] = 1
  })
  return weights
}

/** Copies chosen points (x, y, z) of a set. */
export function pickPoints(from: Float32Array, count: number, pick: (i: number) => number): Float32Array {
  const out = new Float32Array(count * 3)
  for (let i = 0; i < count; i++) {
    const o = pick(i) * 3
    for (let axis = 0; axis < 3; axis++) out[i * 3 + axis] = from[o + axis]!
  }
  return out
}
