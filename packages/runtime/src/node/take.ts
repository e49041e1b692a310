import type { Mesh, Shot } from '@tangle/core'
import { createHash } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { Worker } from 'node:worker_threads'
import type { BakedFrame } from '../shared/bake.ts'

/** Frames that may wait to be stored before the computation pauses. */
export const MOST_WAITING = 6

export interface SimulatorData {
  shot: Shot
  meshes: [asset: string, mesh: Mesh][]
  threads: number
  /** The settled state to start from, as `onSettled` gave it. */
  settled: Uint8Array | null
  /** Int32: frames stored so far. */
  stored: SharedArrayBuffer
}
/** What a take starts from, where the shot lets things settle first; the bytes are of no other use. */
export interface Settled {
  known: Uint8Array | null
  store(bytes: Uint8Array): Promise<void>
}
export type TakeFrame = Omit<BakedFrame, 'populations' | 'meshes' | 'events'> & { bytes: Uint8Array }

/** Changes with the program that computes: what an older one has settled is not the same to the bit. */
export const engineHash = async (): Promise<string> =>
  createHash('sha256')
    .update(await readFile(new URL('./simulator.mjs', import.meta.url)))
    .digest('hex')

/**
 * Computes a shot in a thread of its own and awaits `store` for every frame in order. Aborting the
 * signal ends the thread at once; the promise then rejects with the signal's reason.
 */
export function computeTake(
  shot: Shot,
  meshes: Map<string, Mesh>,
  threads: number,
  store: (frame: TakeFrame) => Promise<void>,
  settled: Settled,
  signal: AbortSignal,
): Promise<void> {
  const stored = new SharedArrayBuffer(4)
  const data: SimulatorData = { shot, meshes: [...meshes], threads, settled: settled.known, stored }
  const worker = new Worker(new URL('./simulator.mjs', import.meta.url), { workerData: data })
  return new Promise((resolve, reject) => {
    let queue = Promise.resolve()
    const end = (error?: unknown): void => {
      signal.removeEventListener('abort', abort)
      void worker.terminate()
      if (error) reject(error as Error)
      else resolve()
    }
    const abort = (): void => end(signal.reason)
    signal.addEventListener('abort', abort)
    if (signal.aborted) return abort()
    worker.on('message', (frame: TakeFrame | { settled: Uint8Array }) => {
      if ('settled' in frame) {
        queue = queue.then(() => settled.store(frame.settled))
        queue.catch(end)
        return
      }
      queue = queue
        .then(() => (signal.aborted ? undefined : store(frame)))
        .then(() => {
          Atomics.add(new Int32Array(stored), 0, 1)
          Atomics.notify(new Int32Array(stored), 0)
        })
      queue.catch(end)
    })
    worker.on('error', end)
    worker.on('exit', (code) => {
      if (code === 0) void queue.then(() => end(), end)
      else end(new Error(`The computation ended with code ${code}`))
    })
  })
}
