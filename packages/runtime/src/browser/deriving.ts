import type { Mesh, Shot } from '@tangle/core'
import type { MadeMesh } from '../shared/derived.ts'

export type { MadeMesh } from '../shared/derived.ts'
export interface DeriveRequest {
  shot: Shot
  meshes: Map<string, Mesh>
}

/** Makes the meshes of a shot that are made of others, in a worker of its own; `stop` ends it. */
export function makeDerivedAside(
  request: DeriveRequest,
  onMade: (made: MadeMesh) => void,
  onProgress: (share: number) => void,
): { done: Promise<void>; stop(): void } {
  const worker = new Worker(new URL('./derive.worker.ts', import.meta.url), { type: 'module' })
  let stop = (): void => undefined
  const done = new Promise<void>((resolve, reject) => {
    stop = () => reject(new Error('Stopped: change it, or ask for it again'))
    worker.onmessage = ({
      data,
    }: MessageEvent<{ made?: MadeMesh; share?: number; done?: true; fault?: string }>) => {
      if (data.made) onMade(data.made)
      if (data.share !== undefined) onProgress(data.share)
      if (data.done) resolve()
      if (data.fault !== undefined) reject(new Error(data.fault))
    }
    worker.onerror = (event) => reject(new Error(event.message || 'it could not be made'))
    worker.postMessage(request)
  }).finally(() => worker.terminate())
  return { done, stop: () => stop() }
}
