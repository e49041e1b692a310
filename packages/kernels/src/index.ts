export { createHeap, HEAP_BASE, OutOfMemory, type Heap } from './heap.ts'
export { KERNELS, MOST_THREADS, type KernelName, type Kernels, type Machine } from './machine.ts'
export { createMachine, createMemory, instantiate } from './instance.ts'
