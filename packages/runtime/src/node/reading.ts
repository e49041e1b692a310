import type { Mesh, MeshFacts } from '@tangle/core'
import { Worker } from 'node:worker_threads'

export type ReadAnswer =
  { mesh: Mesh; facts: MeshFacts; fault?: undefined } | { mesh?: undefined; facts?: undefined; fault: string }

/** Milliseconds after which a file counts as unreadable. */
const PATIENCE = 120_000

/** Reads a mesh file in a thread of its own. Never rejects for the file's sake: faults are answers. */
export function readMeshAside(name: string, bytes: Uint8Array): Promise<ReadAnswer> {
  const worker = new Worker(new URL('./reader.mjs', import.meta.url), {
    workerData: { name, bytes },
    resourceLimits: { maxOldGenerationSizeMb: 4096 },
  })
  return new Promise((resolve) => {
    const end = (answer: ReadAnswer): void => {
      clearTimeout(timer)
      void worker.terminate()
      resolve(answer)
    }
    const timer = setTimeout(
      () => end({ fault: `reading takes longer than ${PATIENCE / 1000} s: make the mesh smaller` }),
      PATIENCE,
    )
    worker.on('message', end)
    worker.on('error', (error) => end({ fault: `can't be read: ${error.message}` }))
  })
}
