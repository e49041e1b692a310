import {
  affine,
  transform,
  vectorAt,
  type Key,
  type KeyedVector,
  type MeshFacts,
  type ShotMesh,
  type Vector,
} from '@tangle/core'
import { UNITS } from '@tangle/formats'
import { engine } from '../engine/engine.ts'
import { store } from '../store/index.ts'
import { roundedTo } from '../rounding.ts'
import { noticed } from '../store/session.ts'
import { set } from '../store/shot.ts'

/** Moves and scales a mesh so that its middle and its diagonal are those of another; keys of them are given up. */
export function fitTo(mesh: ShotMesh, other: ShotMesh): void {
  const [own, its] = [mesh, other].map((one) => engine.meshOf(one.source)?.facts)
  if (!own || !its) return
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
  placed(mesh, { position, scale }, `${mesh.name} is as large as ${other.name} and in its place`)
}

/** Units that files may be written in, and metres in each. */
export const FILE_UNITS = { centimetres: UNITS.cm, millimetres: UNITS.mm, inches: UNITS.in, feet: UNITS.ft }

/** Scales a mesh whose file is in another unit than metres; keys keep their frames. */
export function readIn(mesh: ShotMesh, unit: keyof typeof FILE_UNITS): void {
  const factor = FILE_UNITS[unit]
  const times = (x: number): number => Number((x * factor).toPrecision(12))
  const scale = mesh.place.scale.map((of) =>
    typeof of === 'number'
      ? times(of)
      : { ...of, keys: of.keys.map(([frame, x, ...ease]) => [frame, times(x), ...ease] as Key) },
  )
  placed(mesh, { scale: scale as KeyedVector }, `${mesh.name} is read as in ${unit}`)
}

/** Whether a mesh stands as it is in its file. */
export const isUnturned = ({ place }: ShotMesh): boolean => place.rotation.every((angle) => angle === 0)

/** Sets a mesh upright whose file has z up. */
export const readZUp = (mesh: ShotMesh): void =>
  placed(mesh, { rotation: [-90, 0, 0] }, `${mesh.name} stands with its z up`)

function placed(mesh: ShotMesh, part: Partial<ShotMesh['place']>, text: string): void {
  const index = store.getState().shot.present.meshes.indexOf(mesh)
  store.dispatch(set({ path: ['meshes', index, 'place'], value: { ...mesh.place, ...part } }))
  store.dispatch(noticed({ text, tone: 'info', undo: { kind: 'edit' } }))
}

const middleOf = ({ low, high }: MeshFacts): Vector => low.map((x, axis) => (x + high[axis]!) / 2) as Vector
function sizeOf(mesh: ShotMesh, { low, high }: MeshFacts): number {
  const scale = vectorAt(mesh.place.scale, engine.frame)
  return Math.max(1e-9, Math.hypot(...low.map((x, axis) => (high[axis]! - x) * scale[axis]!)))
}
