/** Meshes as they are at a moment, asked of a worker beside the simulator. */
import { sourceKey, type SeenPlaces, type Shot } from '@tangle/core'
import { createSurfaces, type CutPlane, type SurfaceAnswer, type Surfaces } from '@tangle/runtime/browser'
import type { createLibrary } from './library.ts'

/** A mask to show on meshes, with the shot in which one of its inputs is off, and a plane to show it in. */
export interface Heat {
  mask: string
  variant: Shot | null
  plane: CutPlane | null
}

export function createMoments(library: ReturnType<typeof createLibrary>, changed: () => void) {
  let surfaces: Surfaces | undefined
  let askedFor = ''
  let askedFrame = 0
  return {
    get latest(): SurfaceAnswer | null {
      return surfaces?.latest ?? null
    },
    /** Whether what was asked for last is not here yet. */
    get waits(): boolean {
      return askedFor !== '' && surfaces?.latest?.frame !== askedFrame && !surfaces?.latest?.fault
    },
    /** Asks for the meshes of a moment, with what rays have `seen` until then (null: nobody knows), if something about them changes and has not been asked for. */
    ask(
      shot: Shot | undefined,
      frame: number,
      heat: Heat | null,
      combing: string | null,
      seen: SeenPlaces[] | null,
    ): void {
      if (!shot) return
      const found = library.meshesOf(shot)
      const lively =
        heat !== null ||
        combing !== null ||
        shot.meshes.some(
          ({ eaten, cut, deform, source }) =>
            eaten || cut || deform.length > 0 || found.get(sourceKey(source, shot))?.motion,
        )
      if (!lively) {
        askedFor = ''
        return surfaces?.forget()
      }
      if (found.size < new Set(shot.meshes.map((mesh) => sourceKey(mesh.source, shot))).size) return
      const heated = heat ? JSON.stringify([heat.mask, heat.plane]) + stamp(heat.variant) : ''
      const key = `${frame} ${stamp(shot)} ${heated} ${combing ?? ''} ${stamp(seen)}`
      if (key === askedFor) return
      askedFor = key
      askedFrame = frame
      if (!surfaces) {
        surfaces = createSurfaces()
        surfaces.subscribe(changed)
      }
      surfaces.ask({ shot, frame, heat, combing, seen }, found)
    },
    dispose(): void {
      surfaces?.dispose()
      surfaces = undefined
      askedFor = ''
    },
  }
}

/** A number for each document that was seen: documents are never changed, so it says which one it is. */
const stamps = new WeakMap<object, number>()
let stamped = 0
function stamp(document: object | null): number {
  if (!document) return 0
  if (!stamps.has(document)) stamps.set(document, ++stamped)
  return stamps.get(document)!
}
