/**
 * Meshes of a shot that the frames of a take do not hold, as they follow from the document alone: those that move, or all that are seen. What is eaten or
 * covered is in the frames.
 */
import { createScene, motionOf, sourceKey, type Mesh, type MeshFrame, type Shot } from '@tangle/core'
import { createMachine } from '@tangle/kernels'

export const SCENERIES = ['changing', 'all', 'none'] as const
/** Meshes that are written: those that change (eaten, covered, moving), all that are seen, or none. */
export type Scenery = (typeof SCENERIES)[number]

/** What is there at a time, in frames, which need not be whole; in the world. */
export function sceneryOf(
  shot: Shot,
  meshes: Map<string, Mesh>,
  which: Scenery,
): (time: number) => MeshFrame[] {
  if (which === 'none') return () => []
  const shown = shot.meshes.filter(
    (mesh) =>
      mesh.visible &&
      !mesh.eaten &&
      !mesh.cut &&
      (which === 'all' || motionOf(mesh, meshes.get(sourceKey(mesh.source, shot)) ?? {}).moves),
  )
  if (shown.length === 0) return () => []
  const ids = new Set(shown.map(({ id }) => id))
  // masks don't matter: nothing is split for them
  const { bodies } = createScene(createMachine(), shot, meshes, ids, new Set())
  const written = [...bodies.values()].filter(({ mesh }) => mesh.triangles.length > 0)
  return (time) =>
    written.map((body) => ({
      id: body.shotMesh.id,
      positions: body.worldView(time).slice(),
      triangles: body.mesh.triangles,
    }))
}
