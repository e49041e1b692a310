/** The library of solids: loaded only for shots that cut meshes by others, and the same to the bit everywhere. */
import type { ManifoldToplevel } from 'manifold-3d'

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
