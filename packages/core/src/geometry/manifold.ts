/** The library of solids: loaded only for shots that cut meshes by others, and the same to the bit everywhere. */
import type { Manifold, ManifoldToplevel } from 'manifold-3d'
import type { Mesh } from './mesh.ts'

let loaded: ManifoldToplevel | null = null

/** Loads it; a shot with solid cuts can be computed from then on. @param at where its program lies, where it is not found by itself */
export async function loadManifold(at?: string): Promise<void> {
  if (loaded) return
  const load = (await import('manifold-3d')).default
  const manifold = await load(at === undefined ? undefined : { locateFile: () => at })
  manifold.setup()
  loaded = manifold
}

/** Throws where it has not been loaded. */
export function manifoldModule(): ManifoldToplevel {
  if (!loaded) throw new Error('A shot with solid cuts is computed after `await readyFor(shot)`')
  return loaded
}

/** Of its surface to the power of 3/2, the volume that makes a solid of a mesh: less is flat but for rounding. */
export const FLAT = 1e-6

/**
 * Closed triangles as a solid, and the number by which it knows them in what is cut from it, where they keep their own numbers.
 * @throws Error where edges do not pair
 */
export function solidFrom(
  { Manifold, Mesh }: ManifoldToplevel,
  { positions, triangles }: Pick<Mesh, 'positions' | 'triangles'>,
): { solid: Manifold; id: number } {
  const id = Manifold.reserveIDs(1)
  const made = new Mesh({
    numProp: 3,
    vertProperties: positions.slice(),
    triVerts: triangles.slice(),
    runIndex: Uint32Array.of(0, triangles.length),
    runOriginalID: Uint32Array.of(id),
    faceID: new Uint32Array(triangles.length / 3).map((_, t) => t),
  })
  return { solid: Manifold.ofMesh(made), id }
}
