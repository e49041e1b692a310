import type { Mesh, MeshFacts, TextSource } from '@tangle/core'
import type { FileMaterial } from '@tangle/formats'

export interface ReadMesh {
  mesh: Mesh
  facts: MeshFacts
  /** That its triangles name. */
  materials?: FileMaterial[]
}

/** What the reader worker is asked. */
export type ReadingRequest = { name: string; bytes: Uint8Array } | { text: TextSource; font: ArrayBuffer }

/** Reads a mesh file in a worker of its own. Rejects with the reason when it can't be read. */
export const readMeshAside = (name: string, bytes: Uint8Array): Promise<ReadMesh> => aside({ name, bytes })

/** Makes lettering in a worker of its own. Rejects with the reason when nothing can be made. */
export const makeTextAside = (text: TextSource, font: ArrayBuffer): Promise<ReadMesh> => aside({ text, font })

function aside(request: ReadingRequest): Promise<ReadMesh> {
  const worker = new Worker(new URL('./reader.worker.ts', import.meta.url), { type: 'module' })
  return new Promise<ReadMesh>((resolve, reject) => {
    worker.onmessage = ({ data }: MessageEvent<ReadMesh & { fault?: string }>) =>
      data.fault ? reject(new Error(data.fault)) : resolve(data)
    worker.onerror = (event) => reject(new Error(event.message || 'the file could not be read'))
    worker.postMessage(request)
  }).finally(() => worker.terminate())
}
