import type { Mesh, Shot, Slice } from '@tangle/core'
import type { Decoded } from '@tangle/formats'
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
  /** The particles that are computed; null: all. */
  slice: Slice | null
  /** At least so long from one state that is kept to the next. */
  checkpointSeconds: number
  /** The state to start from, as this program gave it. */
  state: Uint8Array | null
  /** The first frame that is sent. */
  from: number
  /** The frame before it as it was stored; null: there is none. */
  last: Decoded | null
  /** Int32: frames stored so far. */
  stored: SharedArrayBuffer
}
/** Where a take begins, and where it is kept as it comes. */
export interface TakeStore {
  /** A state of the shot: one that has settled, or that of the frame before `from`. Null: from nothing. */
  state: Uint8Array | null
  from: number
  /** The frame before `from` as it was stored: the next one refers to it. Null: there is none. */
  last: Decoded | null
  frame(frame: TakeFrame): Promise<void>
  /** What has settled before the first frame, where it was not given. */
  settled(bytes: Uint8Array): Promise<void>
  /** The state of a frame that has been stored, now and then. */
  checkpoint(checkpoint: { frame: number; bytes: Uint8Array }): Promise<void>
}
/** What comes of the computation, in the order in which it is to be kept. */
type Message = TakeFrame | { settled: Uint8Array } | { checkpoint: { frame: number; bytes: Uint8Array } }
export type TakeFrame = Omit<BakedFrame, 'populations' | 'meshes' | 'events'> & { bytes: Uint8Array }

/** Changes with the program that computes: what an older one has settled is not the same to the bit. */
export const engineHash = async (): Promise<string> =>
  createHash('sha256')
    .update(await readFile(new URL('./simulator.mjs', import.meta.url)))
    .digest('hex')

/**
 * Computes a shot in a thread of its own and awaits that each frame is stored, in order. Aborting the
 * signal ends the thread at once; the promise then rejects with the signal's reason.
 */
export function computeTake(
  shot: Shot,
  meshes: Map<string, Mesh>,
  { threads, checkpointSeconds, slice }: Pick<SimulatorData, 'threads' | 'checkpointSeconds' | 'slice'>,
  store: TakeStore,
  signal: AbortSignal,
): Promise<void> {
  const stored = new SharedArrayBuffer(4)
  const { state, from, last } = store
  const data: SimulatorData = {
    shot,
    meshes: [...meshes],
    threads,
    slice,
    checkpointSeconds,
    state,
    from,
    last,
    stored,
  }
  const worker = new Worker(new URL('./simulator.mjs', import.meta.url), { workerData: data })
  const keep = async (message: Message): Promise<void> => {
    if (signal.aborted) return
    if ('settled' in message) return store.settled(message.settled)
    if ('checkpoint' in message) return store.checkpoint(message.checkpoint)
    await store.frame(message)
    Atomics.add(new Int32Array(stored), 0, 1)
    Atomics.notify(new Int32Array(stored), 0)
  }
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
    worker.on('message', (message: Message) => {
      queue = queue.then(() => keep(message))
      queue.catch(end)
    })
    worker.on('error', end)
    worker.on('exit', (code) => {
      if (code === 0) void queue.then(() => end(), end)
      else end(new Error(`The computation ended with code ${code}`))
    })
  })
}
