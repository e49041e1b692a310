import { RANGE_KERNELS, SINGLE_KERNELS } from '../build/signatures.ts'
import type { Heap } from './heap.ts'

/** The parameters of every kernel by name, in the order in which it takes them (without range and thread). */
export const PARAMETERS = { ...RANGE_KERNELS, ...SINGLE_KERNELS }
export type KernelName = keyof typeof PARAMETERS
/** Kernels that run over a range: (start, end, …parameters, thread). Each element writes only to itself. */
export type RangeKernel = keyof typeof RANGE_KERNELS
/** Kernels that are called once, on one thread. */
export type SingleKernel = keyof typeof SINGLE_KERNELS
/** The exported kernels, in the order by which threads name them to one another. */
export const KERNELS = Object.keys(PARAMETERS) as KernelName[]

/** A kernel's arguments by the names in its source; pointers are byte offsets into the heap, 0 for none. */
export type Arguments<K extends KernelName> = Record<(typeof PARAMETERS)[K][number], number>

/** The compiled functions: numbers in order. */
export type Kernels = Record<KernelName, (...values: number[]) => number>

/** Elements of a kernel that may be treated side by side. */
export interface Phase {
  from: number
  count: number
  /** What they hold together, where that says more of the work than how many they are. */
  content?: number
}

/**
 * What the core computes on: a heap and a way to run kernels over it. A range kernel's result does not depend on how
 * many threads share the range.
 */
export interface Machine {
  readonly heap: Heap
  readonly threads: number
  /** Runs a range kernel over 0…count, on all threads; returns when all are done. */
  run<K extends RangeKernel>(kernel: K, count: number, values: Arguments<K>): void
  /** Runs it over phases, on all threads: each begins when the one before it is done. */
  runPhases<K extends RangeKernel>(kernel: K, phases: Phase[], values: Arguments<K>): void
  /** Calls a kernel once, on this thread. */
  call<K extends SingleKernel>(kernel: K, values: Arguments<K>): number
}

/** The values of a kernel's arguments in the order of its source. */
export function inOrder<K extends KernelName>(kernel: K, values: Arguments<K>): number[] {
  const names = PARAMETERS[kernel]
  const out = new Array<number>(names.length)
  for (let k = 0; k < names.length; k++) out[k] = (values as Record<string, number>)[names[k]!]!
  return out
}

/** Most threads a machine may have; kernels with scratch keep room for as many. */
export const MOST_THREADS = 16

/** A machine was told to leave off: what it was computing is lost. */
export class Interrupted extends Error {
  readonly code = 'interrupted'
  constructor() {
    super('The computation was told to leave off')
  }
}
