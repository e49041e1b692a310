import { inverse, placeAt, transform, type Origin, type Vector } from '@tangle/core'
import { stage } from '../stage/Stage.tsx'
import { roundedTo } from '../rounding.ts'
import { engine } from '../engine/engine.ts'
import { store } from '../store/index.ts'
import { set } from '../store/shot.ts'
import { maskKind } from './maskKinds.ts'

/** Lets the selected front start at a place of the stage too, wherever its mesh has moved by now. */
export function addStart(point: Vector): void {
  const { shot, session } = store.getState()
  const { masks, meshes, frames } = shot.present
  const index = Math.max(
    0,
    masks.findIndex((one) => one.id === session.selected.mask),
  )
  const mask = masks[index]
  const mesh = meshes.find((one) => one.id === mask?.mesh)
  if (!mask || !mesh || maskKind(mask).parameters.from?.type !== 'origin') return
  // origins are written as at the first frame
  const own = transform(inverse(placeAt(mesh.place, engine.frame)), point)
  const { reach } = stage.world?.extent() ?? { reach: 1 }
  const start = transform(placeAt(mesh.place, frames.first), own).map((x) => roundedTo(x, reach)) as Vector
  const from = mask.from as Origin
  const points = 'points' in from ? [...from.points, start] : [start]
  store.dispatch(set({ path: ['masks', index, 'from'], value: { points } }))
}
