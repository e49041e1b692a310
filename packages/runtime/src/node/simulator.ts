/** A thread that computes a take: sends encoded frames, a few ahead of what has been stored. */
import type { Mesh, Shot, Snapshot } from '@tangle/core'
import { codecReady, encodeFrame } from '@tangle/formats'
import { deserialize, serialize } from 'node:v8'
import { parentPort, workerData } from 'node:worker_threads'
import { bake } from '../shared/bake.ts'
import { createNodeMachine } from './machine.ts'
import { MOST_WAITING, type SimulatorData, type TakeFrame } from './take.ts'

const { shot, meshes, threads, settled, stored } = workerData as SimulatorData
await codecReady()
const machine = createNodeMachine(threads)
const acknowledged = new Int32Array(stored)
let sent = 0
const { first, last } = (shot as Shot).frames
const options = {
  first,
  last,
  ...(settled ? { settled: deserialize(settled) as Snapshot } : {}),
  onSettled: (snapshot: Snapshot) =>
    parentPort!.postMessage({ settled: new Uint8Array(serialize(snapshot)) }),
}
for (const baked of bake(machine, shot as Shot, new Map(meshes as [string, Mesh][]), options)) {
  const { populations, meshes: eaten, events: _, ...facts } = baked
  const bytes = encodeFrame(baked.frame, populations, eaten)
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
