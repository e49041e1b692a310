/** The shapes that particles have as rigid bodies: their piece, the mesh they are drawn as, or a ball. */
import { ballShape, meshShape, pieceShape, type BodyShape } from '../constraints/bodyShape.ts'
import { RIGID_BODIES } from '../constraints/rigidKind.ts'
import { vectorAt } from '../document/keys.ts'
import type { Population } from '../document/types.ts'
import { chooseInstance, instanceMesh, instanceScale } from '../look/instances.ts'
import { influenceKind } from '../registry.ts'
import { meshOfPiece, numberOfPiece } from '../scene/pieces.ts'
import { floats, view } from '../state/columns.ts'
import type { PopulationState, World } from './world.ts'

/** Whether particles of a population are rigid bodies at some time. */
export const isRigid = ({ influences }: Population): boolean =>
  influences.some(({ kind, muted }) => !muted && influenceKind(kind).constraint?.name === RIGID_BODIES.name)

export function bodyShapeOf(
  { source, columns }: PopulationState,
  { shot, bodies }: World,
  i: number,
): BodyShape {
  const piece = columns.at.piece ? view(columns, 'piece')[i]! : 0
  const radius = floats(columns, 'radius')[i]!
  if (piece > 0) {
    const { mesh, shotMesh } = bodies.get(shot.meshes[meshOfPiece(piece)]!.id)!
    return pieceShape(mesh, vectorAt(shotMesh.place.scale, shot.frames.first), numberOfPiece(piece))
  }
  const { instances, draw } = source.look
  if (draw !== 'instances' || !instances) return ballShape(radius)
  const id = view(columns, 'id')[i]!
  const body = bodies.get(instances.set[chooseInstance(shot, source.id, instances)(id)]!.mesh)
  if (!body) return ballShape(radius)
  const mesh = instanceMesh(body.mesh, body.shotMesh, instances, shot.frames.first)
  return meshShape(mesh, instanceScale(instances, radius))
}
