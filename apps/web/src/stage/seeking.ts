import type { Shot } from '@tangle/core'
import type { Box3 } from 'three'
import type { View } from './view.ts'

/** The meshes that are drawn; `frameNew` asks to be told when one that is not is. */
interface Bodies {
  meshes: Map<string, unknown>
  frameNew(id: string): void
}

/** Brings the camera to meshes as soon as they are there: in any case, or unless they are well in view. */
export function createSeeking(
  view: View,
  bodies: Bodies,
  shot: () => Shot | undefined,
  boxOf: (id: string) => Box3,
) {
  let awaited: { id: string; always: boolean } | null = null
  function arrived(): void {
    if (!awaited) return
    const box = boxOf(awaited.id)
    if (awaited.always || !view.shows(box)) view.frame(box)
    awaited = null
  }
  function wait(id: string, always: boolean): void {
    if (awaited?.id === id && awaited.always) return
    awaited = { id, always }
    if (bodies.meshes.has(id)) arrived()
    else bodies.frameNew(id)
  }
  return {
    arrived,
    /** Frames a mesh. */
    frameNew: (id: string): void => wait(id, true),
    /** Frames a visible mesh that is out of view, larger than the picture, or a dot. */
    seek(id: string): void {
      if (shot()?.meshes.find((one) => one.id === id)?.visible) wait(id, false)
    },
  }
}
