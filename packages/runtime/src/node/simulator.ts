/** A thread that computes a take: sends encoded frames, a few ahead of what has been stored. */
import type { Precision, Snapshot } from '@tangle/core'
import { codecReady, encodeFrame } from '@tangle/formats'
import { deserialize, serialize } from 'node:v8'
import { parentPort, workerData } from 'node:worker_threads'
import { bake } from '../shared/bake.ts'
import { createNodeMachine } from './machine.ts'
import { MOST_WAITING, type SimulatorData, type TakeFrame } from './take.ts'

const { shot, meshes, threads, slice, checkpointSeconds, state, from, stored, last } =
  workerData as SimulatorData
await codecReady()
const machine = createNodeMachine(threads)
const acknowledged = new Int32Array(stored)
let sent = 0
const told = (snapshot: Snapshot): Uint8Array => new Uint8Array(serialize(snapshot))

/** The next state is due after so many milliseconds: what is lost with a worker, against what keeping costs. */
const [LATEST, TIMES_ITS_COST] = [20_000, 20]
const soonest = checkpointSeconds * 1000
let due = performance.now() + soonest
function keep(snapshot: Snapshot): void {
  const began = performance.now()
  const bytes = told(snapshot)
  parentPort!.postMessage({ checkpoint: { frame: snapshot.frame, bytes } }, [bytes.buffer as ArrayBuffer])
  const now = performance.now()
  due = now + Math.max(soonest, Math.min(TIMES_ITS_COST * (now - began), LATEST))
}

const options = {
  first: from,
  last: shot.frames.last,
  slice,
  ...(state ? { from: deserialize(state) as Snapshot } : {}),
  onSettled: (snapshot: Snapshot) => parentPort!.postMessage({ settled: told(snapshot) }),
  checkpoints: { due: () => performance.now() >= due, keep },
}
let before = last
const precision = (id: string): Precision => shot.populations.find((one) => one.id === id)!.precision
for (const baked of bake(machine, shot, new Map(meshes), options)) {
  const { populations, meshes: eaten, events: _, ...facts } = baked
  const { frame } = baked
  const { bytes, decoded } = encodeFrame(
    { frame, populations, meshes: eaten },
    { rate: shot.frames.rate, before, precision },
  )
  before = decoded
  parentPort!.postMessage({ ...facts, bytes } satisfies TakeFrame, [bytes.buffer as ArrayBuffer])
  sent++
  for (
    let done = Atomics.load(acknowledged, 0);
    sent - done > MOST_WAITING;
    done = Atomics.load(acknowledged, 0)
  ) {
    Atomics.wait(acknowledged, 0, done, 1000)
  }
}
machine.dispose()
