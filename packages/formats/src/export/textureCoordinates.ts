/** Texture coordinates of a mesh that leaves Tangle with the triangles of its file. */
import { sourceKey, turnedCorners, type Mesh, type MeshFrame, type Shot } from '@tangle/core'

/**
 * u and v of each corner of each triangle, in the order in which a frame has them, v from below; null where the mesh has none, or other
 * triangles than in its file: eaten, cut, covered, made finer.
 */
export function coordinatesOf(
  shot: Shot,
  sources: Map<string, Mesh>,
  first: MeshFrame,
): ((mesh: MeshFrame) => Float32Array) | null {
  const written = shot.meshes.find(({ id }) => id === first.id)
  const source = written && sources.get(sourceKey(written.source, shot))
  if (!source?.uvs || written!.eaten || written!.cut || first.triangles.length !== source.triangles.length)
    return null
  const { uvs, triangles } = source
  const turned = turnedCorners(uvs, 2)
  // the corners of a mirrored one come in the other order
  return (mesh) => (mesh.triangles.some((v, c) => v !== triangles[c]) ? turned : uvs)
}
