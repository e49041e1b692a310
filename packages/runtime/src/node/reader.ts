/** A thread that reads a mesh file, so that a large or hostile one cannot hold up the server. */
import { meshFacts } from '@tangle/core'
import { FormatFault, readMesh } from '@tangle/formats'
import { parentPort, workerData } from 'node:worker_threads'
import type { ReadAnswer } from './reading.ts'

const { name, bytes } = workerData as { name: string; bytes: Uint8Array }
let answer: ReadAnswer
try {
  const mesh = await readMesh(name, bytes)
  answer = { mesh, facts: meshFacts(mesh) }
} catch (error) {
  answer = {
    fault: error instanceof FormatFault ? error.message : `can't be read: ${(error as Error).message}`,
  }
}
parentPort!.postMessage(answer)
