/** The shapes that particles have as rigid bodies: their piece, the mesh they are drawn as, or a ball. */
import { ballShape, meshShape, pieceShape, type BodyShape } from '../constraints/bodyShape.ts'
import { RIGID_BODIES } from '../constraints/rigidKind.ts'
import type { Instances, Population } from '../document/types.ts'
import { perMesh, type Mesh } from '../geometry/mesh.ts'
import { chooseInstance, instanceMesh, instanceScale } from '../look/instances.ts'
import { influenceKind } from '../registry.ts'
import type { Body } from '../scene/body.ts'
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
    const { mesh, size } = bodies.get(shot.meshes[meshOfPiece(piece)]!.id)!
    return pieceShape(mesh, size, numberOfPiece(piece))
  }
  const { instances, draw } = source.look
  if (draw !== 'instances' || !instances) return ballShape(radius)
  const id = view(columns, 'id')[i]!
  const body = bodies.get(instances.set[chooseInstance(shot, source.id, instances)(id)]!.mesh)
  if (!body) return ballShape(radius)
  return meshShape(drawnMesh(body, instances, shot.frames.first), instanceScale(instances, radius))
}

/** The mesh that instances are drawn as, made once. */
function drawnMesh({ mesh, shotMesh }: Body, instances: Instances, firstFrame: number): Mesh {
  const known = drawnOf(mesh)
  const key = JSON.stringify([shotMesh.place, instances.fit, instances.turn, instances.offset, firstFrame])
  const found = known.get(key) ?? instanceMesh(mesh, shotMesh, instances, firstFrame)
  known.set(key, found)
  return found
}
const drawnOf = perMesh(() => new Map<string, Mesh>())
