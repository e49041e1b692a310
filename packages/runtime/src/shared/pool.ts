/**
 * Threads over one memory. The lead cuts the range of a kernel into as many parts as there are
 * threads ready; every part is a plain loop that writes only its own elements, so the bytes are the
 * same with any number of threads. Words of the control block (i32, from byte 0 of the memory):
 *
 *   0 kernel · 1 count · 2 number of arguments · 3 parts · 4 quit
 *   8 + t  ready: thread t has its kernels
 *   32 + t go: the generation that thread t shall work on (it waits on this word)
 *   56 + t part: which part is thread t's
 *   80 + t done: the generation it has finished, or minus that when its kernel trapped
 *
 * Arguments are f64 from byte 512.
 */
import {
  createHeap,
  inOrder,
  instantiate,
  KERNELS,
  MOST_THREADS,
  type KernelName,
  type Machine,
} from '@tangle/kernels'

const [KERNEL, COUNT, ARGUMENTS, PARTS, QUIT] = [0, 1, 2, 3, 4]
const [READY, GO, PART, DONE] = [8, 32, 56, 80]
const ARGUMENT_BYTES = 512
/** Below this many elements a thread more costs more than it brings. */
const LEAST_PART = 2048
const SPINS = 4000
const PATIENCE = 60_000 // milliseconds for one kernel on one thread

const controlOf = (memory: WebAssembly.Memory): Int32Array<SharedArrayBuffer> =>
  new Int32Array(memory.buffer as unknown as SharedArrayBuffer, 0, 128)
const argumentsOf = (memory: WebAssembly.Memory): Float64Array =>
  new Float64Array(memory.buffer, ARGUMENT_BYTES, 32)

export interface Pool extends Machine {
  /** Ends the helper threads. */
  dispose(): void
}

/** The lead's side. `spawn` starts a helper thread that calls `help(memory, thread)`. */
export function createPool(
  memory: WebAssembly.Memory,
  threads: number,
  spawn: (thread: number) => void,
): Pool {
  const kernels = instantiate(memory)
  const control = controlOf(memory)
  const args = argumentsOf(memory)
  const helpers = Math.min(threads, MOST_THREADS) - 1
  let generation = 0
  for (let t = 1; t <= helpers; t++) spawn(t)

  function runParallel(kernel: KernelName, count: number, values: number[]): void {
    const ready: number[] = []
    for (let t = 1; t <= helpers && (ready.length + 2) * LEAST_PART <= count; t++) {
      if (Atomics.load(control, READY + t) === 1) ready.push(t)
    }
    const parts = ready.length + 1
    if (parts > 1) {
      generation++
      control[KERNEL] = KERNELS.indexOf(kernel)
      control[COUNT] = count
      control[ARGUMENTS] = values.length
      control[PARTS] = parts
      args.set(values)
      ready.forEach((t, k) => {
        control[PART + t] = k + 1
        Atomics.store(control, GO + t, generation)
        Atomics.notify(control, GO + t)
      })
    }
    kernels[kernel](0, Math.floor(count / parts), ...values, 0)
    for (const t of ready) join(t)
  }

  function join(t: number): void {
    for (let spin = 0; spin < SPINS; spin++) {
      if (Atomics.load(control, DONE + t) === generation) return
    }
    const from = Date.now()
    for (;;) {
      const done = Atomics.load(control, DONE + t)
      if (done === generation) return
      if (done === -generation) throw new Error(`Thread ${t} failed in a kernel`)
      if (Date.now() - from > PATIENCE) throw new Error(`Thread ${t} does not answer`)
      Atomics.wait(control, DONE + t, done, 1000)
    }
  }

  return {
    heap: createHeap(memory),
    threads: helpers + 1,
    run(kernel, count, values) {
      if (count === 0) return
      const ordered = inOrder(kernel, values)
      if (helpers === 0 || count < 2 * LEAST_PART) kernels[kernel](0, count, ...ordered, 0)
      else runParallel(kernel, count, ordered)
    },
    call: (kernel, values) => kernels[kernel](...inOrder(kernel, values)),
    dispose() {
      Atomics.store(control, QUIT, 1)
      for (let t = 1; t <= helpers; t++) {
        Atomics.add(control, GO + t, 1)
        Atomics.notify(control, GO + t)
      }
    },
  }
}

/** A helper's side: works until the lead ends it. Blocks its thread. */
export function help(memory: WebAssembly.Memory, thread: number): void {
  const kernels = instantiate(memory)
  const control = controlOf(memory)
  const args = argumentsOf(memory)
  let seen = Atomics.load(control, GO + thread)
  Atomics.store(control, READY + thread, 1)
  for (;;) {
    Atomics.wait(control, GO + thread, seen)
    if (Atomics.load(control, QUIT) === 1) return
    seen = Atomics.load(control, GO + thread)
    let done = seen
    try {
      const [count, parts, part] = [control[COUNT]!, control[PARTS]!, control[PART + thread]!]
      const values = args.slice(0, control[ARGUMENTS])
      const [start, end] = [part, part + 1].map((p) => Math.floor((count * p) / parts)) as [number, number]
      kernels[KERNELS[control[KERNEL]!]!](start, end, ...values, thread)
    } catch {
      done = -seen
    }
    Atomics.store(control, DONE + thread, done)
    Atomics.notify(control, DONE + thread)
  }
}
