import { workerData } from 'node:worker_threads'
import { help } from '../shared/pool.ts'

const { memory, thread } = workerData as { memory: WebAssembly.Memory; thread: number }
help(memory, thread)
