/** A thread that computes a take: sends frames to the one that encodes them, a few ahead of what has been stored. */
import { readyFor, type PopulationFrame, type Snapshot } from '@tangle/core'
import { deserialize, serialize } from 'node:v8'
import { workerData } from 'node:worker_threads'
import { bake } from '../shared/bake.ts'
import type { ForEncoder } from './encoder.ts'
import { createNodeMachine } from './machine.ts'
import { MOST_WAITING, type SimulatorData } from './take.ts'

const { shot, meshes, threads, slice, checkpointSeconds, state, from, stored, encoder } =
  workerData as SimulatorData
const machine = createNodeMachine(threads)
const acknowledged = new Int32Array(stored)
let sent = 0
const send = (message: ForEncoder, moved: ArrayBufferLike[] = []): void =>
  encoder.postMessage(message, moved as ArrayBuffer[])
const told = (snapshot: Snapshot): Uint8Array => new Uint8Array(serialize(snapshot))

/** The next state is due after so many milliseconds: what is lost with a worker, against what keeping costs. */
const [LATEST, TIMES_ITS_COST] = [20_000, 20]
const soonest = checkpointSeconds * 1000
let due = performance.now() + soonest
function keep(snapshot: Snapshot): void {
  const began = performance.now()
  const bytes = told(snapshot)
  send({ checkpoint: { frame: snapshot.frame, bytes } }, [bytes.buffer])
  const now = performance.now()
  due = now + Math.max(soonest, Math.min(TIMES_ITS_COST * (now - began), LATEST))
}

/** What the simulation has now, to be given away. */
const copied = (population: PopulationFrame): PopulationFrame => ({
  ...population,
  columns: Object.fromEntries(Object.entries(population.columns).map(([name, one]) => [name, one?.slice()])),
})
const buffersOf = (all: PopulationFrame[]): ArrayBufferLike[] =>
  all.flatMap(({ columns }) => Object.values(columns).flatMap((one) => one?.buffer ?? []))

const options = {
  first: from,
  last: shot.frames.last,
  slice,
  ...(state ? { from: deserialize(state) as Snapshot } : {}),
  onSettled: (snapshot: Snapshot) => send({ settled: told(snapshot) }),
  checkpoints: { due: () => performance.now() >= due, keep },
}
await readyFor(shot)
for (const { populations, events: _, ...rest } of bake(machine, shot, new Map(meshes), options)) {
  const given = populations.map(copied)
  send({ ...rest, populations: given }, buffersOf(given))
  sent++
  for (
    let done = Atomics.load(acknowledged, 0);
    sent - done > MOST_WAITING;
    done = Atomics.load(acknowledged, 0)
  ) {
    Atomics.wait(acknowledged, 0, done, 1000)
  }
}
send('end')
encoder.close()
machine.dispose()
