/** The rigid body engine: loaded only for shots that need it, and the same to the bit everywhere. */
import type Rapier from '@dimforge/rapier3d-deterministic-compat'

export type RapierModule = typeof Rapier
let loaded: RapierModule | null = null

/** Loads it; a shot with rigid bodies can be computed from then on. */
export async function loadRapier(): Promise<void> {
  if (loaded) return
  const rapier = (await import('@dimforge/rapier3d-deterministic-compat')).default
  await rapier.init()
  loaded = rapier
}

/** Throws where it has not been loaded. */
export function rapierModule(): RapierModule {
  if (!loaded) throw new Error('A shot with rigid bodies is computed after `await readyFor(shot)`')
  return loaded
}
