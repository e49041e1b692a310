/** Meshes made from other meshes of the shot: broken ones, and shells. */
import type { MeshSource, Shot, ShotMesh } from './types.ts'

/** What a mesh is made of; null for those that come by themselves. */
export function derivedFrom(
  source: MeshSource,
): { by: 'fracture' | 'shell'; mesh: string; mask?: string } | null {
  if ('fracture' in source) return { by: 'fracture', mesh: source.fracture.mesh, ...(source.fracture.density === undefined ? {} : { mask: source.fracture.density }) } // prettier-ignore
  return 'shell' in source ? { by: 'shell', mesh: source.shell.mesh } : null
}

/** The mesh that one is made of in the end: itself where it comes by itself; undefined where it is made of itself or of one that is not there. */
export function rootOf(shot: Pick<Shot, 'meshes'>, mesh: ShotMesh): ShotMesh | undefined {
  let root: ShotMesh | undefined = mesh
  for (let n = 0; root && n <= shot.meshes.length; n++) {
    const made = derivedFrom(root.source)
    if (!made) return root
    root = shot.meshes.find(({ id }) => id === made.mesh)
  }
  return undefined
}

/** A mesh as it stands: what is made of another stands, moves and ripples where that does. */
export function standing(shot: Pick<Shot, 'meshes'>, mesh: ShotMesh): ShotMesh {
  const root = rootOf(shot, mesh)
  return root && root !== mesh
    ? { ...mesh, place: root.place, playback: root.playback, deform: root.deform }
    : mesh
}
