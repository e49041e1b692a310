export { createHeap, HEAP_BASE, OutOfMemory, scopeOf, type Heap, type ScopedHeap } from './heap.ts'
export {
  inOrder,
  Interrupted,
  KERNELS,
  MOST_THREADS,
  type Arguments,
  type KernelName,
  type Kernels,
  type Machine,
  type Phase,
  type RangeKernel,
  type SingleKernel,
} from './machine.ts'
export { createMachine, createMemory, instantiate } from './instance.ts'
export * as layouts from '../assembly/layouts.ts'
