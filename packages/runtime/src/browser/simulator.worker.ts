/**
 * Computes the preview of a shot in the browser, ahead of the playhead. Between frames it listens;
 * within a frame it looks at a shared flag, so an edit stops it at once. Where the frame at the playhead will take a while, a sketch
 * of it comes first.
 */
import {
  couples,
  firstChangedFrame,
  createSimulation,
  needsRigidBodies,
  needsSolidCuts,
  readyFor,
  type Mesh,
  type Shot,
  type Simulation,
  type Snapshot,
} from '@tangle/core'
import { createMemory, Interrupted } from '@tangle/kernels'
import manifoldWasm from 'manifold-3d/manifold.wasm?url'
import { createPool, type Pool } from '../shared/pool.ts'
import { createSketches, LONGEST_SKETCH, type Sketches } from './sketches.ts'
import type { Answer, FrameContent, Request } from './messages.ts'
import { buffersOf, meshBytes, packedBytes, packPopulation } from './packed.ts'
import { sampleBirth } from './sample.ts'

/** Frames from one snapshot to the next, and the bytes that all of them may take. */
const SNAPSHOT_EVERY = 12
const SNAPSHOT_BYTES = 400 * 2 ** 20

/** Particles whose goals go to the page with each frame. */
const GOALS_SHOWN = 2000

let machine: Pool
let wanted: Int32Array
let budget = Infinity
const meshes = new Map<string, Mesh>()
interface Running {
  shot: Shot
  simulation: Simulation
  generation: number
}
let current: Running | undefined
/** Snapshots, and the shot that they are of. */
let snapshots: Snapshot[] = []
let snapped: Shot | undefined
/** Frames that the page has, and their bytes. */
let sent = new Set<number>()
let sentBytes = 0
let computing = 0
let sketches: Sketches = createSketches()
/** The generation at work: another in the shared word stops the machine. */
let working = 0
/** Questions are answered to the end. */
let answering = false
const stopped = (): boolean => !answering && Atomics.load(wanted, 0) !== working

const post = (answer: Answer, transfer: Transferable[] = []): void =>
  (globalThis as unknown as Worker).postMessage(answer, transfer)

onmessage = ({ data }: MessageEvent<Request>) => {
  switch (data.type) {
    case 'start': {
      const memory = createMemory()
      const spawn = (thread: number): void => {
        const helper = new Worker(new URL('./helper.worker.ts', import.meta.url), { type: 'module' })
        helper.postMessage({ memory, thread })
      }
      machine = createPool(memory, data.threads, spawn, stopped)
      wanted = new Int32Array(data.stop)
      budget = data.budget
      break
    }
    case 'mesh':
      meshes.set(data.asset, data.mesh)
      break
    case 'shot':
      sent = new Set(data.have)
      sentBytes = data.haveBytes
      working = data.generation
      whenReady(data.shot, data.generation, () => restart(data))
      break
    case 'births':
      void readyFor(data.shot, manifoldWasm).then(() =>
        answer(() => post({ type: 'births', request: data.request, ...sampleBirth(machine, meshes, data) })),
      )
      break
    case 'fingerprints':
      void readyFor(data.shot, manifoldWasm).then(() =>
        answer(() => post({ type: 'fingerprints', request: data.request, fingerprints: fingerprints(data) })),
      )
  }
}

/** Does a piece of work once what the shot needs is loaded, unless another shot has come. */
function whenReady(shot: Shot, generation: number, work: () => void): void {
  if (!needsRigidBodies(shot) && !needsSolidCuts(shot)) return guarded(generation, work)
  void readyFor(shot, manifoldWasm).then(
    () => {
      if (working === generation) guarded(generation, work)
    },
    (error: Error) => post({ type: 'fault', generation, message: error.message }),
  )
}

function answer(give: () => void): void {
  answering = true
  try {
    give()
  } finally {
    answering = false
  }
}

/** Fingerprints at some frames; with `restoreAt`, another simulation goes on from a snapshot there. */
function fingerprints({ shot, frames, restoreAt }: Extract<Request, { type: 'fingerprints' }>): string[] {
  let simulation = createSimulation(machine, shot, meshes)
  const found = new Map<number, string>()
  for (;;) {
    if (simulation.frame === restoreAt) {
      const snapshot = simulation.snapshot()
      simulation.dispose()
      simulation = createSimulation(machine, shot, meshes)
      simulation.restore(snapshot)
    }
    found.set(simulation.frame, simulation.fingerprint())
    if (simulation.frame >= Math.max(...frames)) break
    simulation.advance()
  }
  simulation.dispose()
  return frames.map((frame) => found.get(frame) ?? '')
}

/**
 * Runs a piece of work; what goes wrong in it is told to the page, and the worker lives on with an
 * empty heap, for what was being made is lost.
 */
function guarded(generation: number, work: () => void): void {
  try {
    work()
  } catch (error) {
    if (error instanceof Interrupted) return
    current = snapped = undefined
    snapshots = []
    machine.heap.reset()
    post({ type: 'fault', generation, message: (error as Error).message })
  }
}

function restart({ shot, generation, at }: Extract<Request, { type: 'shot' }>): void {
  current?.simulation.dispose()
  current = undefined
  if (snapped?.frames.first !== shot.frames.first) sketches = createSketches()
  const keepBefore = snapped ? (firstChangedFrame(snapped, shot) ?? Infinity) : -Infinity
  snapshots = snapshots.filter((s) => s.frame < keepBefore && s.frame <= shot.frames.last)
  snapped = shot
  const from = snapshots.at(-1)
  sendSketch(shot, generation, at, from?.frame ?? shot.frames.first)
  const simulation = createSimulation(machine, shot, meshes, {
    share: shot.quality.previewShare,
    stop: stopped,
    clock: () => performance.now(),
    ...(from ? { from } : {}),
  })
  current = { shot, simulation, generation }
  void run(generation)
}

/** Whether particles rest on others: fewer of them would be another heap, another block. */
const carryOneAnother = ({ populations }: Shot): boolean =>
  needsRigidBodies({ populations }) || populations.some(({ influences }) => influences.some(couples))

/** Particles at the frames that were computed last. */
const particlesAt = new Map<number, number>()

/** Sends a sketch of a frame, or says that there is none. */
function sendSketch(shot: Shot, generation: number, frame: number, from: number): void {
  const { first } = shot.frames
  const part =
    sent.has(frame) || carryOneAnother(shot)
      ? null
      : sketches.partFor(frame, first, from, particlesAt.get(frame) ?? 0)
  if (part === null) return post({ type: 'sketch', generation, part: 1, content: null })
  const began = performance.now()
  const content = sketchOf(shot, frame, part, began + LONGEST_SKETCH)
  sketches.sketched(frame, first, part, content ? performance.now() - began : Infinity)
  post(
    { type: 'sketch', generation, part, content },
    content ? buffersOf(content.populations, content.covers) : [],
  )
}

/** The frame from a part of the particles; null when it is not there at the deadline. */
function sketchOf(shot: Shot, frame: number, part: number, deadline: number): FrameContent | null {
  const simulation = createSimulation(machine, shot, meshes, {
    share: shot.quality.previewShare * part,
    stop: () => stopped() || performance.now() > deadline,
  })
  try {
    while (simulation.frame < frame) if (!simulation.advance()) return null
    return contentOf(simulation)
  } finally {
    simulation.dispose()
  }
}

async function run(generation: number): Promise<void> {
  const mine = ++computing
  let from = performance.now()
  const isMine = (): boolean => current?.generation === generation && mine === computing
  while (isMine()) {
    let goesOn = false
    guarded(generation, () => (goesOn = show(current!, performance.now() - from)))
    if (!goesOn) return
    await breathe()
    if (!isMine()) return
    from = performance.now()
    guarded(generation, () => (goesOn = current!.simulation.advance()))
    if (!goesOn) return
  }
}

/** Sends a frame that took so long, and keeps a snapshot now and then. False when there is nothing more to compute. */
function show({ simulation, shot, generation }: Running, milliseconds: number): boolean {
  if (!sent.has(simulation.frame)) sendFrame(simulation, generation, milliseconds)
  keepSnapshot(simulation)
  const full = sentBytes > budget
  if (simulation.frame < shot.frames.last && !full) return true
  post({ type: 'done', generation, full })
  return false
}

/** Lets messages in. A message channel has no minimum delay, as timers have. */
const channel = new MessageChannel()
function breathe(): Promise<void> {
  return new Promise((resolve) => {
    channel.port1.onmessage = () => resolve()
    channel.port2.postMessage(null)
  })
}

/** What is eaten is drawn from its mask; covers and skins are known here only. */
function contentOf(simulation: Simulation): FrameContent {
  const goals = simulation.goals(GOALS_SHOWN)
  const events = simulation.events()
  return {
    frame: simulation.frame,
    populations: simulation.populations().map((one, i) => packPopulation(one, goals[i], events[i])),
    covers: [...simulation.covers(), ...simulation.skins()],
    seen: simulation.seen(),
  }
}

function sendFrame(simulation: Simulation, generation: number, milliseconds: number): void {
  const content = contentOf(simulation)
  const { frame, populations, covers } = content
  sent.add(frame)
  sentBytes += packedBytes(populations) + meshBytes(covers)
  sketches.took(frame, milliseconds)
  particlesAt.set(
    frame,
    populations.reduce((sum, { count }) => sum + count, 0),
  )
  post(
    {
      type: 'frame',
      generation,
      ...content,
      measures: simulation.measures(),
      milliseconds,
      memory: machine.heap.used,
    },
    buffersOf(populations, covers),
  )
}

/** Keeps a snapshot every few frames; over the budget, every other one goes. */
function keepSnapshot(simulation: Simulation): void {
  const { frames, quality } = simulation.shot
  const since = simulation.frame - frames.first
  // the first frame is soon made anew, unless it has to settle
  if (since % SNAPSHOT_EVERY !== 0 || (since === 0 && quality.settle === 0)) return
  if (snapshots.some((s) => s.frame === simulation.frame)) return
  snapshots.push(simulation.snapshot())
  while (snapshots.length > 1 && snapshots.reduce((sum, s) => sum + s.bytes, 0) > SNAPSHOT_BYTES) {
    snapshots = snapshots.filter((_, i) => i % 2 === 1)
  }
}
