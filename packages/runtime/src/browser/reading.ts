import type { Mesh, MeshFacts } from '@tangle/core'

export interface ReadMesh {
  mesh: Mesh
  facts: MeshFacts
}

/** Reads a mesh file in a worker of its own. Rejects with the reason when it can't be read. */
export function readMeshAside(name: string, bytes: Uint8Array): Promise<ReadMesh> {
  const worker = new Worker(new URL('./reader.worker.ts', import.meta.url), { type: 'module' })
  return new Promise<ReadMesh>((resolve, reject) => {
    worker.onmessage = ({ data }: MessageEvent<ReadMesh & { fault?: string }>) =>
      data.fault ? reject(new Error(data.fault)) : resolve(data)
    worker.onerror = (event) => reject(new Error(event.message || 'the file could not be read'))
    worker.postMessage({ name, bytes })
  }).finally(() => worker.terminate())
}
