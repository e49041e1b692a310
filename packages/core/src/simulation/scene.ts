import type { Machine } from '@tangle/kernels'
import type { Shot } from '../document/types.ts'
import type { Mesh } from '../geometry/mesh.ts'
import { DEFORMATIONS, MASKS } from '../registry.ts'
import { createBodies } from '../scene/bodies.ts'
import type { Body } from '../scene/body.ts'
import { createCombings, type Combings } from '../scene/combings.ts'
import { createMasks, type Masks } from '../scene/masks.ts'
import { createSeen, type Seen } from '../scene/seen.ts'
import { seenMasks } from '../masks/seen.ts'
import { meshesWithSurfaceMasks } from '../schema/surfaceMasks.ts'

/** Meshes, masks and combings of a shot at work. */
export interface Scene {
  bodies: Map<string, Body>
  masks: Masks
  combings: Combings
  /** What rays have met so far: nothing, until somebody computes or tells. */
  seen: Seen
  dispose(): void
}

/**
 * The scene of a shot. `meshes` are by `sourceKey`, welded; bodies are made for those with these ids, and "auto" detail
 * splits those in `fine`.
 */
export function createScene(
  machine: Machine,
  shot: Shot,
  meshes: Map<string, Mesh>,
  ids: Set<string>,
  fine = meshesWithSurfaceMasks(shot),
): Scene {
  const bodies = createBodies(machine, shot, meshes, ids, fine, DEFORMATIONS)
  const seen = createSeen(machine, seenMasks(shot))
  const masks = createMasks(machine, shot, bodies, MASKS, seen)
  const combings = createCombings(machine, shot, bodies)
  return {
    bodies,
    masks,
    combings,
    seen,
    dispose() {
      seen.dispose()
      combings.dispose()
      masks.dispose()
      for (const body of bodies.values()) body.dispose()
    },
  }
}
