import { help } from '../shared/pool.ts'

onmessage = ({ data }: MessageEvent<{ memory: WebAssembly.Memory; thread: number }>) =>
  help(data.memory, data.thread)
