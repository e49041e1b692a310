import {
  firstChangedFrame,
  joinSeen,
  type Measures,
  type Mesh,
  type SeenPlaces,
  type Shot,
} from '@tangle/core'
import type { Answer, FrameContent, Request } from './messages.ts'
import { meshBytes, packedBytes } from './packed.ts'

export interface PreviewFrame extends FrameContent {
  measures: Measures
  milliseconds: number
}

const frameBytes = ({ populations, covers, seen }: FrameContent): number =>
  packedBytes(populations) +
  meshBytes(covers) +
  seen.reduce((sum, { places }) => sum + 2 * places.byteLength, 0)

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
  /** What part of the particles is shown at the frame that is looked at, until it is computed; null: the whole, or as it was before. */
  sketch: number | null
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
  /** The frame, or what is shown of it until it is computed: a sketch, or what it was before the edit. */
  shown(frame: number): FrameContent | undefined
  /** Where rays have met meshes up to a frame, as far as it is computed; the same object as long as nothing is added. */
  seenUntil(frame: number): SeenPlaces[]
  /**
   * Gives the shot to compute, and the frame that is looked at; meshes that the worker does not know yet go along. While a sketch is
   * on its way the shot waits, and the last one given is computed next.
   */
  setShot(shot: Shot, meshes: Map<string, Mesh>, at: number): void
  sampleBirth(shot: Shot, population: string, birth: string, frame: number): Promise<BirthSample>
  fingerprints(shot: Shot, frames: number[], restoreAt?: number | null): Promise<string[]>
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
  const state: PreviewState = {
    ...NOTHING,
    busy: false,
    frameBytes: 0,
    solverBytes: 0,
    sketch: null,
  }
  const frames = createFrames(state)
  let shot: Shot | undefined
  let generation = 0
  /** Whether a sketch is on its way, and the edit that waits for it. */
  let sketching = false
  let next: (() => void) | undefined
  send({ type: 'start', threads, stop: wanted, budget })

  function changed(): void {
    frames.countFrom(shot?.frames.first ?? 0)
    for (const listener of listeners) listener()
  }
  function failed(message: string): void {
    Object.assign(state, { busy: false, fault: message })
    frames.forgetInterim()
    endSketch()
    changed()
  }
  function endSketch(): void {
    const waiting = next
    sketching = false
    next = undefined
    waiting?.()
  }
  function computed(answer: Exclude<Answer, { request: number }>): void {
    if (answer.generation !== generation) return
    if (answer.type === 'fault') return failed(answer.message)
    if (answer.type === 'done') frames.end(answer.full)
    if (answer.type === 'frame') frames.add(answer)
    if (answer.type === 'sketch') {
      if (answer.content) frames.showInterim(answer.content, answer.part)
      endSketch()
    }
    changed()
  }
  worker.onerror = ({ message }) => failed(message || 'The simulation stopped unexpectedly: reload the page')
  worker.onmessage = ({ data }: MessageEvent<Answer>) => ('request' in data ? answered(data) : computed(data))

  /** Computes a shot, keeping the frames before `from`. */
  function compute(next: Shot, from: number, at: number): void {
    generation++
    sketching = true
    Atomics.store(new Int32Array(wanted), 0, generation)
    frames.keepBefore(Math.min(from, next.frames.last + 1), at)
    Object.assign(state, NOTHING, { busy: true })
    send({ type: 'shot', generation, shot: next, have: frames.numbers(), haveBytes: state.frameBytes, at })
    changed()
  }

  function setShot(given: Shot, meshes: Map<string, Mesh>, at: number): void {
    if (sketching) {
      next = () => setShot(given, meshes, at)
      return
    }
    for (const [asset, mesh] of meshes) sendMesh(asset, mesh)
    const before = shot
    shot = given
    const from = before ? firstChangedFrame(before, given) : given.frames.first
    const sameRange = before?.frames.last === given.frames.last
    if (from !== null || !sameRange || state.fault !== null) compute(given, from ?? Infinity, at)
  }

  return {
    state,
    frame: frames.get,
    ...frames.reading,
    setShot,
    ...questions(ask),
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

/** The frames that are here, and what is shown of one until it is computed; says in `state` how many there are. */
function createFrames(state: PreviewState) {
  let frames = new Map<number, PreviewFrame>()
  let interim: FrameContent | undefined
  const shown = (frame: number): FrameContent | undefined =>
    frames.get(frame) ?? (interim?.frame === frame ? interim : undefined)
  function showInterim(content: FrameContent | undefined, part: number | null): void {
    interim = content
    state.sketch = part
  }
  const forgetInterim = (): void => showInterim(undefined, null)
  return {
    get: (frame: number) => frames.get(frame),
    reading: { shown, seenUntil: seenOf(() => frames) },
    numbers: () => [...frames.keys()],
    add(answer: PreviewFrame & { memory: number }): void {
      frames.set(answer.frame, answer)
      if (answer.frame === interim?.frame) forgetInterim()
      state.solverBytes = answer.memory
      state.frameBytes += frameBytes(answer)
    },
    showInterim,
    forgetInterim,
    /** No more frames come; `full`: for want of memory. */
    end(full: boolean): void {
      Object.assign(state, { busy: false, full })
      forgetInterim()
    },
    /** Drops the frames from `end` on; what was shown at frame `at` goes on being shown there. */
    keepBefore(end: number, at: number): void {
      showInterim(shown(at), frames.has(at) ? null : state.sketch)
      frames = new Map([...frames].filter(([frame]) => frame < end))
      state.frameBytes = [...frames.values()].reduce((sum, frame) => sum + frameBytes(frame), 0)
    },
    /** Finds the last frame of the unbroken run from the first. */
    countFrom(first: number): void {
      let to: number | null = null
      for (let frame = state.computedTo ?? first; frames.has(frame); frame++) to = frame
      state.computedTo = to
    },
  }
}

/** Joins what was seen in frames, when there is something new. */
function seenOf(frames: () => Map<number, PreviewFrame>): Preview['seenUntil'] {
  let known: SeenPlaces[][] = []
  let joined: SeenPlaces[] = []
  return (frame) => {
    const now = [...frames()].filter(([number]) => number <= frame).sort(([a], [b]) => a - b).map(([, { seen }]) => seen) // prettier-ignore
    if (now.length !== known.length || now.some((one, k) => one !== known[k])) {
      known = now
      joined = joinSeen(now)
    }
    return joined
  }
}

/** What may be asked of the worker beside the preview. */
const questions = (
  ask: ReturnType<typeof questionsTo>['ask'],
): Pick<Preview, 'sampleBirth' | 'fingerprints'> => ({
  sampleBirth: (shot, population, birth, frame) =>
    ask<BirthSample>((request) => ({ type: 'births', request, shot, population, birth, frame })),
  async fingerprints(shot, frames, restoreAt = null) {
    const asked = { type: 'fingerprints', shot, frames, restoreAt } as const
    const answer = await ask<{ fingerprints: string[] }>((request) => ({ ...asked, request }))
    return answer.fingerprints
  },
})

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
