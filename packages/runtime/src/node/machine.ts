import { createMemory } from '@tangle/kernels'
import { availableParallelism } from 'node:os'
import { Worker } from 'node:worker_threads'
import { createPool, type Pool } from '../shared/pool.ts'

export const defaultThreads = (): number => Math.max(1, Math.min(8, availableParallelism()))

/** A machine with threads of its own in Node. End it with `dispose`. */
export function createNodeMachine(threads = defaultThreads()): Pool {
  const memory = createMemory()
  return createPool(memory, threads, (thread) => {
    const worker = new Worker(new URL('./helper.mjs', import.meta.url), { workerData: { memory, thread } })
    worker.unref()
  })
}
