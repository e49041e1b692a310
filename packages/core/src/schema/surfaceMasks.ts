import type { Shot } from '../document/types.ts'
import { MASKS } from '../registry.ts'

/** Ids of the meshes whose surface carries a mask's values or directions: they need triangles that are fine enough. */
export function meshesWithSurfaceMasks(shot: Shot): Set<string> {
  const needed = new Set<string>()
  for (const { kind, mesh } of shot.masks)
    if (typeof mesh === 'string' && MASKS.find((one) => one.kind === kind)?.onSurface) needed.add(mesh)
  for (const { mesh } of shot.combings) needed.add(mesh)
  for (const mesh of shot.meshes) if (mesh.eaten) needed.add(mesh.id)
  for (const { births } of shot.populations) {
    for (const birth of births)
      if (birth.mesh !== undefined && ('swept' in birth.amount || birth.density)) needed.add(birth.mesh)
  }
  return needed
}
