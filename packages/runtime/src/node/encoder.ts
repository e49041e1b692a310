/** A thread that encodes the frames of a take while the next ones are computed, and hands on what comes between them, in order. */
import type { Precision } from '@tangle/core'
import { codecReady, encodeFrame, type CachedFrame, type Decoded } from '@tangle/formats'
import { parentPort, workerData, type MessagePort } from 'node:worker_threads'
import type { Message, TakeFrame } from './take.ts'

export interface EncoderData {
  /** From the thread that computes. */
  frames: MessagePort
  /** Frames per second. */
  rate: number
  /** By id of the population. */
  precisions: Record<string, Precision>
  /** The frame before the first one, as it was stored; null: there is none. */
  last: Decoded | null
}
/** A frame as it was computed, what else is to be kept, or that there is no more. */
export type Computed = Omit<TakeFrame, 'bytes'> & CachedFrame
export type ForEncoder = Computed | Exclude<Message, TakeFrame> | 'end'

const { frames, rate, precisions, last } = workerData as EncoderData
await codecReady()
let before = last
frames.on('message', (message: ForEncoder) => {
  if (message === 'end') return frames.close()
  if (!('populations' in message)) return parentPort!.postMessage(message)
  const { populations, meshes, ...facts } = message
  const frame = { frame: facts.frame, populations, meshes }
  const { bytes, decoded } = encodeFrame(frame, { rate, before, precision: (id) => precisions[id]! })
  before = decoded
  parentPort!.postMessage({ ...facts, bytes } satisfies TakeFrame, [bytes.buffer as ArrayBuffer])
})
