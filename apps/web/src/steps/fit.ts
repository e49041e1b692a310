import { affine, transform, vectorAt, type MeshFacts, type ShotMesh, type Vector } from '@tangle/core'
import { engine } from '../engine/engine.ts'
import { store } from '../store/index.ts'
import { roundedTo } from '../rounding.ts'
import { noticed } from '../store/session.ts'
import { set } from '../store/shot.ts'

/** Moves and scales a mesh so that its middle and its diagonal are those of another; keys of them are given up. */
export function fitTo(mesh: ShotMesh, other: ShotMesh): void {
  const [own, its] = [mesh, other].map((one) => engine.meshOf(one.source)?.facts)
  if (!own || !its) return
  const index = store.getState().shot.present.meshes.indexOf(mesh)
  const [here, there] = [sizeOf(mesh, own), sizeOf(other, its)]
  const ratio = there / here
  const scale = vectorAt(mesh.place.scale, engine.frame).map((s) =>
    roundedTo(s * ratio, s * ratio, 5),
  ) as Vector
  const rotation = vectorAt(mesh.place.rotation, engine.frame)
  const middle = transform(affine([0, 0, 0], rotation, scale), middleOf(own))
  const target = transform(
    affine(
      vectorAt(other.place.position, engine.frame),
      vectorAt(other.place.rotation, engine.frame),
      vectorAt(other.place.scale, engine.frame),
    ),
    middleOf(its),
  )
  const position = target.map((x, axis) => roundedTo(x - middle[axis]!, there, 5)) as Vector
  store.dispatch(set({ path: ['meshes', index, 'place'], value: { ...mesh.place, position, scale } }))
  store.dispatch(
    noticed({
      text: `${mesh.name} is as large as ${other.name} and in its place`,
      tone: 'info',
      undo: { kind: 'edit' },
    }),
  )
}

const middleOf = ({ low, high }: MeshFacts): Vector => low.map((x, axis) => (x + high[axis]!) / 2) as Vector
function sizeOf(mesh: ShotMesh, { low, high }: MeshFacts): number {
  const scale = vectorAt(mesh.place.scale, engine.frame)
  return Math.max(1e-9, Math.hypot(...low.map((x, axis) => (high[axis]! - x) * scale[axis]!)))
}
