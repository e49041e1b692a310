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

export function createPreview({ threads, budget }: { threads: number; budget: number }): Preview {
  const worker = new Worker(new URL('./simulator.worker.ts', import.meta.url), { type: 'module' })
  const wanted = new SharedArrayBuffer(4)
  const listeners = new Set<() => void>()
  const waiting = new Map<number, (answer: never) => void>()
  const known = new Map<string, Mesh>()
  let frames = new Map<number, PreviewFrame>()
  let shot: Shot | undefined
  let generation = 0
  let requests = 0
  const state: PreviewState = {
    computedTo: null,
    busy: false,
    full: false,
    fault: null,
    frameBytes: 0,
    solverBytes: 0,
  }

  const send = (request: Request): void => worker.postMessage(request)
  send({ type: 'start', threads, stop: wanted, budget })

  function changed(): void {
    const first = shot?.frames.first ?? 0
    let to: number | null = null
    for (let frame = state.computedTo ?? first; frames.has(frame); frame++) to = frame
    state.computedTo = to
    for (const listener of listeners) listener()
  }

  worker.onerror = (event) => {
    state.fault = event.message || 'The simulation stopped unexpectedly: reload the page'
    state.busy = false
    changed()
  }
  worker.onmessage = ({ data }: MessageEvent<Answer>) => {
    if (data.type === 'births' || data.type === 'fingerprints') {
      waiting.get(data.request)?.(data as never)
      waiting.delete(data.request)
      return
    }
    if (data.generation !== generation) return
    switch (data.type) {
      case 'frame':
        frames.set(data.frame, data)
        state.solverBytes = data.memory
        state.frameBytes += frameBytes(data)
        break
      case 'done':
        state.busy = false
        state.full = data.full
        break
      case 'fault':
        state.busy = false
        state.fault = data.message
    }
    changed()
  }

  function ask<T>(request: (id: number) => Request): Promise<T> {
    const id = ++requests
    return new Promise((resolve) => {
      waiting.set(id, resolve as (answer: never) => void)
      send(request(id))
    })
  }

  return {
    state,
    frame: (frame) => frames.get(frame),
    setShot(next, meshes) {
      for (const [asset, mesh] of meshes) {
        if (known.get(asset) === mesh) continue
        known.set(asset, mesh)
        send({ type: 'mesh', asset, mesh })
      }
      const from = shot ? firstChangedFrame(shot, next) : next.frames.first
      const sameRange = shot && shot.frames.last === next.frames.last
      const failed = state.fault !== null
      shot = next
      if (from === null && sameRange && !failed) return
      generation++
      Atomics.store(new Int32Array(wanted), 0, generation)
      frames = new Map(
        [...frames].filter(([frame]) => frame < (from ?? Infinity) && frame <= next.frames.last),
      )
      state.frameBytes = [...frames.values()].reduce((sum, f) => sum + frameBytes(f), 0)
      Object.assign(state, { computedTo: null, busy: true, full: false, fault: null })
      send({ type: 'shot', generation, shot: next, have: [...frames.keys()], haveBytes: state.frameBytes })
      changed()
    },
    sampleBirth: (of, population, birth, frame) =>
      ask<BirthSample>((request) => ({ type: 'births', request, shot: of, population, birth, frame })),
    fingerprints: (of, at, restoreAt) =>
      ask<{ fingerprints: string[] }>((request) => ({
        type: 'fingerprints',
        request,
        shot: of,
        frames: at,
        restoreAt: restoreAt ?? null,
      })).then((answer) => answer.fingerprints),
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
