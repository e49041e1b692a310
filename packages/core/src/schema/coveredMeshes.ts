import type { Shot } from '../document/types.ts'
import { influenceKind } from '../registry.ts'

/** The meshes on which covers gather, with the longest edge of triangle that each asks for, metres. */
export function coveredMeshes(shot: Shot): Map<string, number> {
  const found = new Map<string, number>()
  for (const { influences } of shot.populations)
    for (const { kind, muted, mesh, detail } of influences) {
      if (muted || !influenceKind(kind).cover) continue
      found.set(mesh as string, Math.min(found.get(mesh as string) ?? Infinity, detail as number))
    }
  return found
}
