/**
 * Computes the preview of a shot in the browser, ahead of the playhead. Between frames it listens;
 * within a frame it looks at a shared flag, so an edit stops it at once.
 */
import {
  firstChangedFrame,
  coveredMesh,
  createSimulation,
  type Mesh,
  type Shot,
  type Simulation,
  type Snapshot,
} from '@tangle/core'
import { createMemory } from '@tangle/kernels'
import { createPool, type Pool } from '../shared/pool.ts'
import type { Answer, Request } from './messages.ts'
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
let current: { shot: Shot; simulation: Simulation; generation: number } | undefined
let snapshots: Snapshot[] = []
/** Frames that the page has, and their bytes. */
let sent = new Set<number>()
let sentBytes = 0
let computing = 0

const post = (answer: Answer, transfer: Transferable[] = []): void =>
  (globalThis as unknown as Worker).postMessage(answer, transfer)

onmessage = ({ data }: MessageEvent<Request>) => {
  switch (data.type) {
    case 'start': {
      const memory = createMemory()
      machine = createPool(memory, data.threads, (thread) => {
        const helper = new Worker(new URL('./helper.worker.ts', import.meta.url), { type: 'module' })
        helper.postMessage({ memory, thread })
      })
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
      guarded(data.generation, () => restart(data.shot, data.generation))
      break
    case 'births':
      post({ type: 'births', request: data.request, ...sampleBirth(machine, meshes, data) })
      break
    case 'fingerprints':
      post({ type: 'fingerprints', request: data.request, fingerprints: fingerprints(data) })
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
    current = undefined
    snapshots = []
    machine.heap.reset()
    post({ type: 'fault', generation, message: (error as Error).message })
  }
}

function restart(shot: Shot, generation: number): void {
  const firstChanged = current ? firstChangedFrame(current.shot, shot) : shot.frames.first
  current?.simulation.dispose()
  if (!current) snapshots = []
  current = undefined
  const keepBefore = firstChanged ?? Infinity
  snapshots = snapshots.filter((s) => s.frame < keepBefore && s.frame <= shot.frames.last)
  const { previewShare } = shot.quality
  const stop = (): boolean => Atomics.load(wanted, 0) !== generation
  const from = snapshots.at(-1)
  const simulation = createSimulation(machine, shot, meshes, {
    share: previewShare,
    stop,
    clock: () => performance.now(),
    ...(from ? { from } : {}),
  })
  current = { shot, simulation, generation }
  void run(generation)
}

async function run(generation: number): Promise<void> {
  const mine = ++computing
  let from = performance.now()
  while (current?.generation === generation && mine === computing) {
    const { simulation, shot } = current
    const { frame } = simulation
    if (!sent.has(frame)) sendFrame(simulation, generation, performance.now() - from)
    keepSnapshot(simulation)
    const full = sentBytes > budget
    if (frame >= shot.frames.last || full) return post({ type: 'done', generation, full })
    await breathe()
    if (current?.generation !== generation || mine !== computing) return
    from = performance.now()
    let whole = false
    guarded(generation, () => (whole = simulation.advance()))
    if (!whole) return
  }
}

/** Lets messages in. A message channel has no minimum delay, as timers have. */
const channel = new MessageChannel()
function breathe(): Promise<void> {
  return new Promise((resolve) => {
    channel.port1.onmessage = () => resolve()
    channel.port2.postMessage(null)
  })
}

function sendFrame(simulation: Simulation, generation: number, milliseconds: number): void {
  const goals = simulation.goals(GOALS_SHOWN)
  const events = simulation.events()
  const populations = simulation.populations().map((one, i) => packPopulation(one, goals[i], events[i]))
  sent.add(simulation.frame)
  // what is eaten is drawn from its mask; covers are known here only
  const covers = simulation.meshes().filter(({ id }) => coveredMesh(id) !== null)
  sentBytes += packedBytes(populations) + meshBytes(covers)
  post(
    {
      type: 'frame',
      generation,
      frame: simulation.frame,
      populations,
      covers,
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
