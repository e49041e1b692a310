import { KERNELS_BASE64 } from '../build/kernels.ts'
import { createHeap } from './heap.ts'
import { inOrder, type Kernels, type Machine } from './machine.ts'

/** 4 GiB in pages of 64 KiB: what the compiled kernels declare as the most their memory may grow to. */
const MOST_PAGES = 65536

/** A memory that may grow to 4 GiB; where so much room for addresses is not to be had, to half of it. */
export function createMemory(): WebAssembly.Memory {
  const upTo = (maximum: number) => new WebAssembly.Memory({ initial: 16, maximum, shared: true })
  try {
    return upTo(MOST_PAGES)
  } catch {
    return upTo(MOST_PAGES / 2)
  }
}

let compiled: WebAssembly.Module | undefined

function kernelModule(): WebAssembly.Module {
  compiled ??= new WebAssembly.Module(Uint8Array.from(atob(KERNELS_BASE64), (c) => c.charCodeAt(0)))
  return compiled
}

/** The compiled kernels over a memory; every thread has its own instance over the same memory. */
export function instantiate(memory: WebAssembly.Memory): Kernels {
  const instance = new WebAssembly.Instance(kernelModule(), { env: { memory } })
  return instance.exports as unknown as Kernels
}

/** A machine of one thread, for tests and small work. */
export function createMachine(memory = createMemory()): Machine {
  const kernels = instantiate(memory)
  return {
    heap: createHeap(memory),
    threads: 1,
    run: (kernel, count, values) => void kernels[kernel](0, count, ...inOrder(kernel, values), 0),
    runPhases(kernel, phases, values) {
      const ordered = inOrder(kernel, values)
      for (const { from, count } of phases) kernels[kernel](from, from + count, ...ordered, 0)
    },
    call: (kernel, values) => kernels[kernel](...inOrder(kernel, values)),
  }
}
