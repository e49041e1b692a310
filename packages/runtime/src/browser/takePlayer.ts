import { meshBytes, packedBytes, type PackedMesh, type PackedPopulation } from './packed.ts'
import type { TakeFrameAnswer, TakeFrameWanted } from './take.worker.ts'

/** Plays a take from the server: keeps frames near the playhead and fetches ahead of it. */
export interface TakePlayer {
  readonly fault: string | null
  /** The frame if it is here; asks for it and for those that follow. */
  frame(frame: number, direction: 1 | -1): PackedPopulation[] | undefined
  /** What is left of eaten meshes at a frame that is here. */
  meshes(frame: number): PackedMesh[]
  has(frame: number): boolean
  subscribe(listener: () => void): () => void
  dispose(): void
}

/** Frames fetched ahead, and how many may be on their way at once. */
const AHEAD = 12
const ON_THEIR_WAY = 4

export function createTakePlayer(
  address: string,
  range: { first: number; last: number },
  budget: number,
  backward: boolean,
): TakePlayer {
  const worker = new Worker(new URL('./take.worker.ts', import.meta.url), { type: 'module' })
  const frames = new Map<number, PackedPopulation[]>()
  const meshes = new Map<number, PackedMesh[]>()
  const asked = new Set<number>()
  const listeners = new Set<() => void>()
  let bytes = 0
  let fault: string | null = null

  worker.onmessage = ({ data }: MessageEvent<TakeFrameAnswer>) => {
    asked.delete(data.frame)
    if (data.populations) {
      forget(data.frame)
      frames.set(data.frame, data.populations)
      meshes.set(data.frame, data.meshes ?? [])
      bytes += packedBytes(data.populations) + meshBytes(data.meshes ?? [])
    } else fault = data.fault ?? null
    for (const listener of listeners) listener()
  }

  function forget(frame: number): void {
    bytes -= packedBytes(frames.get(frame) ?? []) + meshBytes(meshes.get(frame) ?? [])
    frames.delete(frame)
    meshes.delete(frame)
  }

  /** The frames farthest behind the playhead go first. */
  function makeRoom(near: number): void {
    while (bytes > budget && frames.size > AHEAD * 2) {
      forget([...frames.keys()].reduce((a, b) => (Math.abs(b - near) > Math.abs(a - near) ? b : a)))
    }
  }

  function ask(frame: number): void {
    if (frames.has(frame) || asked.has(frame) || asked.size >= ON_THEIR_WAY) return
    asked.add(frame)
    const mirror = backward ? range.first + range.last : null
    worker.postMessage({ address, frame, mirror } satisfies TakeFrameWanted)
  }

  return {
    get fault() {
      return fault
    },
    has: (frame) => frames.has(frame),
    meshes: (frame) => meshes.get(frame) ?? [],
    frame(frame, direction) {
      makeRoom(frame)
      for (let k = 0; k <= AHEAD; k++) {
        const next = frame + k * direction
        if (next >= range.first && next <= range.last) ask(next)
      }
      return frames.get(frame)
    },
    subscribe(listener) {
      listeners.add(listener)
      return () => listeners.delete(listener)
    },
    dispose() {
      worker.terminate()
      listeners.clear()
    },
  }
}
