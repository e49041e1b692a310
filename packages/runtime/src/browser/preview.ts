import { firstChangedFrame, type Measures, type Mesh, type MeshFrame, type Shot } from '@tangle/core'
import type { Answer, Request } from './messages.ts'
import { meshBytes, packedBytes, type PackedPopulation } from './packed.ts'

export interface PreviewFrame {
  populations: PackedPopulation[]
  /** Covers on meshes, in the world. */
  covers: MeshFrame[]
  measures: Measures
  milliseconds: number
}

const frameBytes = ({ populations, covers }: Pick<PreviewFrame, 'populations' | 'covers'>): number =>
  packedBytes(populations) + meshBytes(covers)

export interface PreviewState {
  /** Last frame of the unbroken run of computed frames from the first; null when there is none. */
  computedTo: number | null
  busy: boolean
  /** The memory for frames is used up: later frames are not computed. */
  full: boolean
  fault: string | null
  /** Bytes of the frames kept. */
  frameBytes: number
  /** Bytes the solver uses. */
  solverBytes: number
}

export interface BirthSample {
  positions: Float32Array
  normals: Float32Array
  total: number
  message?: string
}

/** The page's side of the simulator: keeps the frames and starts again when the shot changes. */
export interface Preview {
  readonly state: PreviewState
  frame(frame: number): PreviewFrame | undefined
  /** Gives the shot to compute; meshes that the worker does not know yet go along. */
  setShot(shot: Shot, meshes: Map<string, Mesh>): void
  sampleBirth(shot: Shot, population: string, birth: string, frame: number): Promise<BirthSample>
  fingerprints(shot: Shot, frames: number[], restoreAt?: number): Promise<string[]>
  /** Called after every change of state or frames. */
  subscribe(listener: () => void): () => void
  dispose(): void
}

const NOTHING = { computedTo: null, full: false, fault: null }

export function createPreview({ threads, budget }: { threads: number; budget: number }): Preview {
  const worker = new Worker(new URL('./simulator.worker.ts', import.meta.url), { type: 'module' })
  const wanted = new SharedArrayBuffer(4)
  const listeners = new Set<() => void>()
  const { send, ask, answered } = questionsTo(worker)
  const sendMesh = meshSender(send)
  let frames = new Map<number, PreviewFrame>()
  let shot: Shot | undefined
  let generation = 0
  const state: PreviewState = { ...NOTHING, busy: false, frameBytes: 0, solverBytes: 0 }
  send({ type: 'start', threads, stop: wanted, budget })

  function changed(): void {
    const first = shot?.frames.first ?? 0
    let to: number | null = null
    for (let frame = state.computedTo ?? first; frames.has(frame); frame++) to = frame
    state.computedTo = to
    for (const listener of listeners) listener()
  }
  function failed(message: string): void {
    Object.assign(state, { busy: false, fault: message })
    changed()
  }
  function computed(answer: Exclude<Answer, { request: number }>): void {
    if (answer.generation !== generation) return
    if (answer.type === 'fault') return failed(answer.message)
    if (answer.type === 'done') Object.assign(state, { busy: false, full: answer.full })
    else {
      frames.set(answer.frame, answer)
      state.solverBytes = answer.memory
      state.frameBytes += frameBytes(answer)
    }
    changed()
  }
  worker.onerror = ({ message }) => failed(message || 'The simulation stopped unexpectedly: reload the page')
  worker.onmessage = ({ data }: MessageEvent<Answer>) => ('request' in data ? answered(data) : computed(data))

  /** Computes a shot, keeping the frames before `from`. */
  function compute(next: Shot, from: number): void {
    generation++
    Atomics.store(new Int32Array(wanted), 0, generation)
    frames = new Map([...frames].filter(([frame]) => frame < from && frame <= next.frames.last))
    const kept = [...frames.values()].reduce((sum, frame) => sum + frameBytes(frame), 0)
    Object.assign(state, NOTHING, { busy: true, frameBytes: kept })
    send({ type: 'shot', generation, shot: next, have: [...frames.keys()], haveBytes: kept })
    changed()
  }

  return {
    state,
    frame: (frame) => frames.get(frame),
    setShot(next, meshes) {
      for (const [asset, mesh] of meshes) sendMesh(asset, mesh)
      const before = shot
      shot = next
      const from = before ? firstChangedFrame(before, next) : next.frames.first
      const sameRange = before?.frames.last === next.frames.last
      if (from !== null || !sameRange || state.fault !== null) compute(next, from ?? Infinity)
    },
    sampleBirth: (of, population, birth, frame) =>
      ask<BirthSample>((request) => ({ type: 'births', request, shot: of, population, birth, frame })),
    async fingerprints(of, at, restoreAt) {
      const answer = await ask<{ fingerprints: string[] }>((request) => ({
        type: 'fingerprints',
        request,
        shot: of,
        frames: at,
        restoreAt: restoreAt ?? null,
      }))
      return answer.fingerprints
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

/** Requests to a worker that it answers one by one. */
function questionsTo(worker: Worker) {
  const waiting = new Map<number, (answer: never) => void>()
  let requests = 0
  const send = (request: Request): void => worker.postMessage(request)
  return {
    send,
    ask<T>(request: (id: number) => Request): Promise<T> {
      const id = ++requests
      return new Promise((resolve) => {
        waiting.set(id, resolve as (answer: never) => void)
        send(request(id))
      })
    },
    answered(answer: Extract<Answer, { request: number }>): void {
      waiting.get(answer.request)?.(answer as never)
      waiting.delete(answer.request)
    },
  }
}

/** Sends each mesh once. */
function meshSender(send: (request: Request) => void): (asset: string, mesh: Mesh) => void {
  const known = new Map<string, Mesh>()
  return (asset, mesh) => {
    if (known.get(asset) === mesh) return
    known.set(asset, mesh)
    send({ type: 'mesh', asset, mesh })
  }
}
