/** Meshes as solids for cutting. */
import type { Manifold, ManifoldToplevel } from 'manifold-3d'
import { meshFacts, type Mesh } from '../geometry/mesh.ts'

/** A solid, and the number by which it knows its triangles in what is cut from it. */
export interface Solid {
  solid: Manifold
  id: number
}

/**
 * A mesh as a solid whose triangles keep their numbers.
 * @throws Error that says why it is none: it is open, folded, or inside out
 */
export function solidOf(manifold: ManifoldToplevel, mesh: Mesh): Solid {
  const { openEdges, holes, crowdedEdges, triangles } = meshFacts(mesh)
  if (triangles === 0) throw new Error('it has no triangles: only a closed mesh can be broken')
  if (openEdges > 0)
    throw new Error(
      `it is open: ${openEdges} open edges in ${holes} ${holes === 1 ? 'hole' : 'holes'}. Make a shell of it first, or close it`,
    )
  if (crowdedEdges > 0)
    throw new Error(
      `${crowdedEdges} of its edges have more than two sides: part them, or make a shell of it first`,
    )
  const id = manifold.Manifold.reserveIDs(1)
  const made = new manifold.Mesh({
    numProp: 3,
    vertProperties: mesh.positions.slice(),
    triVerts: mesh.triangles.slice(),
    runIndex: Uint32Array.of(0, mesh.triangles.length),
    runOriginalID: Uint32Array.of(id),
    faceID: Uint32Array.from({ length: mesh.triangles.length / 3 }, (_, t) => t),
  })
  let solid: Manifold
  try {
    solid = manifold.Manifold.ofMesh(made)
  } catch (error) {
    throw new Error(`it is not a closed surface (${(error as Error).message}): make a shell of it first`, {
      cause: error,
    })
  }
  const volume = solid.volume()
  if (volume > 0) return { solid, id }
  solid.delete()
  throw new Error(volume < 0 ? 'it is inside out: turn its triangles round' : 'it has no volume')
}
