import type { Mesh, Shot, Slice } from '@tangle/core'
import type { Decoded } from '@tangle/formats'
import { createHash } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { MessageChannel, Worker, type MessagePort } from 'node:worker_threads'
import type { BakedFrame } from '../shared/bake.ts'
import type { EncoderData } from './encoder.ts'

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
  /** Where frames go. */
  encoder: MessagePort
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
export type Message =
  TakeFrame | { settled: Uint8Array } | { checkpoint: { frame: number; bytes: Uint8Array } }
export type TakeFrame = Omit<BakedFrame, 'populations' | 'meshes' | 'events'> & { bytes: Uint8Array }

/** Changes with the program that computes: what an older one has settled is not the same to the bit. */
export const engineHash = async (): Promise<string> =>
  createHash('sha256')
    .update(await readFile(new URL('./simulator.mjs', import.meta.url)))
    .digest('hex')

/**
 * Computes a shot in a thread of its own, encodes its frames in another, and awaits that each is stored, in order. Aborting the
 * signal ends both at once; the promise then rejects with the signal's reason.
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
  const road = new MessageChannel()
  const data: SimulatorData = {
    shot,
    meshes: [...meshes],
    threads,
    slice,
    checkpointSeconds,
    state,
    from,
    encoder: road.port1,
    stored,
  }
  const precisions = Object.fromEntries(shot.populations.map(({ id, precision }) => [id, precision]))
  const encoding: EncoderData = { frames: road.port2, rate: shot.frames.rate, precisions, last }
  const simulator = threadOf('simulator', data, road.port1)
  const encoder = threadOf('encoder', encoding, road.port2)
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
      for (const thread of [simulator, encoder]) void thread.terminate()
      if (error) reject(error as Error)
      else resolve()
    }
    const abort = (): void => end(signal.reason)
    signal.addEventListener('abort', abort)
    if (signal.aborted) return abort()
    encoder.on('message', (message: Message) => {
      queue = queue.then(() => keep(message))
      queue.catch(end)
    })
    for (const thread of [simulator, encoder]) {
      thread.on('error', end)
      thread.on('exit', (code) => {
        if (code !== 0) end(new Error(`The computation ended with code ${code}`))
        // it goes when it has given away the last frame
        else if (thread === encoder) void queue.then(() => end(), end)
      })
    }
  })
}

const threadOf = (name: 'simulator' | 'encoder', workerData: object, road: MessagePort): Worker =>
  new Worker(new URL(`./${name}.mjs`, import.meta.url), { workerData, transferList: [road] })
