import type { Mesh, Shot } from '@tangle/core'
import type { PackedPopulation } from './packed.ts'

export interface ExampleRequest {
  shot: Shot
  /** By the keys of their sources. */
  meshes: Map<string, Mesh>
}

/** Computes a small shot in a worker of its own, frame by frame from its first; what comes back ends it. */
export function playExample(
  request: ExampleRequest,
  onFrame: (populations: PackedPopulation[]) => void,
): () => void {
  const worker = new Worker(new URL('./example.worker.ts', import.meta.url), { type: 'module' })
  worker.onmessage = ({ data }: MessageEvent<PackedPopulation[]>) => onFrame(data)
  worker.postMessage(request)
  return () => worker.terminate()
}
