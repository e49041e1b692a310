/** Meshes as solids for cutting. */
import type { Manifold, ManifoldToplevel } from 'manifold-3d'
import { meshFacts, type Mesh } from '../geometry/mesh.ts'
import { FLAT, solidFrom } from '../geometry/manifold.ts'
import { withLids } from '../geometry/lids.ts'

/**
 * A solid, and the number by which it knows its triangles in what is cut from it: those of the mesh have the numbers that they have there,
 * those of lids over its holes come after them.
 */
export interface Solid {
  solid: Manifold
  id: number
  /** Of the mesh. */
  triangles: number
}

/**
 * A mesh as a solid; holes get lids.
 * @throws Error that says why it is none: a sheet, folded, or inside out
 */
export function solidOf(manifold: ManifoldToplevel, mesh: Mesh): Solid {
  const { openEdges, holes, crowdedEdges, triangles, area } = meshFacts(mesh)
  if (triangles === 0) throw new Error('it has no triangles: only a closed mesh can be broken')
  if (crowdedEdges > 0)
    throw new Error(
      `${crowdedEdges} of its edges have more than two sides: part them, or make a shell of it first`,
    )
  const closed = openEdges > 0 ? withLids(mesh) : mesh
  const open = `it is open: ${openEdges} open edges in ${holes} ${holes === 1 ? 'hole' : 'holes'}`
  const noSolid = `${open}, and closing them makes no solid of it. Make a shell of it first`
  if (!closed) throw new Error(`${open}, whose rims meet themselves. Make a shell of it first, or close it`)
  let made: ReturnType<typeof solidFrom>
  try {
    made = solidFrom(manifold, closed)
  } catch (error) {
    if (openEdges > 0) throw new Error(noSolid, { cause: error })
    throw new Error(`it is not a closed surface (${(error as Error).message}): make a shell of it first`, {
      cause: error,
    })
  }
  const { solid, id } = made
  const volume = solid.volume()
  // what is flat but for rounding is no solid either
  if (volume > FLAT * area ** 1.5) return { solid, id, triangles }
  solid.delete()
  if (openEdges > 0) throw new Error(noSolid)
  throw new Error(volume < 0 ? 'it is inside out: turn its triangles round' : 'it has no volume')
}
