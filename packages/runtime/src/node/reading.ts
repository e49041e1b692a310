import type { MeshFacts } from '@tangle/core'
import { fork } from 'node:child_process'
import { fileURLToPath } from 'node:url'

export type ReadAnswer = { facts: MeshFacts; fault?: undefined } | { facts?: undefined; fault: string }

/** Milliseconds after which a file counts as unreadable. */
const PATIENCE = 120_000
/** Megabytes of heap for reading one; a process that needs more ends, and with it nothing else. */
const MOST_MEMORY = 3072

/** Reads a mesh file to the end, in a process of its own. Never rejects for the file's sake: faults are answers. */
export function readMeshAside(name: string, bytes: Uint8Array): Promise<ReadAnswer> {
  const reader = fork(fileURLToPath(new URL('./reader.mjs', import.meta.url)), [name], {
    execArgv: [`--max-old-space-size=${MOST_MEMORY}`],
    stdio: ['pipe', 'ignore', 'ignore', 'ipc'],
  })
  return new Promise((resolve) => {
    const end = (answer: ReadAnswer): void => {
      clearTimeout(timer)
      reader.kill('SIGKILL')
      resolve(answer)
    }
    const timer = setTimeout(
      () => end({ fault: `reading takes longer than ${PATIENCE / 1000} s: make the mesh smaller` }),
      PATIENCE,
    )
    reader.on('message', (answer) => end(answer as ReadAnswer))
    reader.on('error', (error) => end({ fault: `can't be read: ${error.message}` }))
    reader.on('exit', () => end({ fault: 'takes more memory than there is for it: make the mesh smaller' }))
    // a reader that has ended does not take the rest
    reader.stdin!.on('error', () => undefined)
    reader.stdin!.end(bytes)
  })
}
