import { STREAM } from '../math/random.ts'
import { scattered } from './surface.ts'
import { birth, COMMON, type Points } from './birth.ts'

/** Born on the faces that a cut has laid open: they go with the mesh that cuts. */
export const onCut = birth({
  kind: 'cut',
  label: 'On the cut',
  glyph: '◪',
  help: 'On the faces that another mesh cuts into this one, even by area; none where it does not cut',
  source: 'Turk, "Generating random points in triangles", Graphics Gems (1990)',
  onCut: true,
  parameters: { ...COMMON, mesh: { ...COMMON.mesh, help: 'The mesh that is cut: see Meshes' } },
  prepare(_, { machine, seed, cut }) {
    const faces = cut!() // births of this kind have one
    return {
      offered: faces.areas.length > 0 ? null : 0,
      points(ids): Points {
        const { triangles: on, weights } = scattered(machine, seed, STREAM.surface, ids, faces.areas)
        // a place on a face is one on the triangle that it is a part of
        const corner = (i: number, k: number, w: number): number => faces.weights[on[i]! * 6 + k * 2 + w]!
        return {
          triangles: on.map((face) => faces.triangles[face]!),
          weights: weights.map((_, at) => {
            const [i, w] = [at >> 1, at & 1]
            const start = corner(i, 0, w)
            return (
              start +
              (corner(i, 1, w) - start) * weights[i * 2]! +
              (corner(i, 2, w) - start) * weights[i * 2 + 1]!
            )
          }),
          ...(faces.flipped ? { flipped: true } : {}),
        }
      },
    }
  },
})
