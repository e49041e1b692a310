/** What bonds need to know of a broken mesh: pieces and the faces that they share, in world size in its own frame. */
import { massProperties, type MassProperties, type SharedFaces } from '../geometry/pieces.ts'
import { perMesh, type Mesh } from '../geometry/mesh.ts'
import { vectorOf, type Vector } from '../math/vector.ts'
import type { BondFace } from './bondLattice.ts'
import type { ConstraintMoment } from './constraint.ts'

export interface BrokenMesh {
  mesh: Mesh
  masses: MassProperties[]
  faces: SharedFaces
  face(k: number): BondFace
}

/** @param number of the mesh among those of the shot; it is a broken one */
export function brokenMesh({ shot, bodies }: Pick<ConstraintMoment, 'shot' | 'bodies'>, number: number): BrokenMesh {
  const { mesh, size } = bodies.get(shot.meshes[number]!.id)!
  const known = ofMesh(mesh)
  const key = size.join()
  const found = known.get(key) ?? brokenMeshOf(mesh, size)
  known.set(key, found)
  return found
} // prettier-ignore
const ofMesh = perMesh(() => new Map<string, BrokenMesh>())

function brokenMeshOf(mesh: Mesh, size: Vector): BrokenMesh {
  const faces = mesh.pieces!.bonds
  const mirrored = (v: Vector): Vector => v.map((x, i) => (size[i]! < 0 ? -x : x)) as Vector
  const all = Array.from(faces.areas, (area, k): BondFace => ({
    centre: vectorOf(faces.centres, k).map((x, i) => x * size[i]!) as Vector,
    normal: mirrored(vectorOf(faces.normals, k)),
    axis: mirrored(vectorOf(faces.axes, k)),
    area,
    moments: Array.from(faces.moments.subarray(k * 4, k * 4 + 4)) as BondFace['moments'],
  })) // prettier-ignore
  return { mesh, masses: massProperties(mesh, size), faces, face: (k) => all[k]! }
}
