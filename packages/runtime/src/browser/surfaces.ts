import type { Mesh } from '@tangle/core'
import type { SurfaceAnswer, SurfaceRequest } from './surface.worker.ts'

export type { CutPlane, SurfaceAnswer } from './surface.worker.ts'

/** The page's side of the surface worker: asks for one moment at a time, the newest first. */
export interface Surfaces {
  /** Asks for a moment; one that is asked while another is on its way waits, and only the last one does. */
  ask(wanted: Omit<SurfaceRequest, 'request'>, meshes: Map<string, Mesh>): void
  /** What came last. */
  readonly latest: SurfaceAnswer | null
  forget(): void
  subscribe(listener: () => void): () => void
  dispose(): void
}

export function createSurfaces(): Surfaces {
  const worker = new Worker(new URL('./surface.worker.ts', import.meta.url), { type: 'module' })
  const known = new Map<string, Mesh>()
  const listeners = new Set<() => void>()
  let latest: SurfaceAnswer | null = null
  let waiting: Omit<SurfaceRequest, 'request'> | null = null
  let busy = false
  let requests = 0

  function send(wanted: Omit<SurfaceRequest, 'request'>): void {
    busy = true
    worker.postMessage({ ...wanted, request: ++requests } satisfies SurfaceRequest)
  }
  worker.onmessage = ({ data }: MessageEvent<SurfaceAnswer>) => {
    busy = false
    latest = data
    const next = waiting
    waiting = null
    if (next) send(next)
    for (const listener of listeners) listener()
  }
  return {
    get latest() {
      return latest
    },
    ask(wanted, meshes) {
      for (const [key, mesh] of meshes) {
        if (known.get(key) === mesh) continue
        known.set(key, mesh)
        worker.postMessage({ key, mesh })
      }
      if (busy) waiting = wanted
      else send(wanted)
    },
    forget() {
      latest = null
      waiting = null
    },
    subscribe(listener) {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
    dispose() {
      worker.terminate()
      listeners.clear()
    },
  }
}
