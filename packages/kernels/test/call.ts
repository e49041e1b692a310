/** Calls of kernels over blocks of numbers. */
import { HEAP_BASE } from '../src/heap.ts'
import type { Arguments, KernelName } from '../src/machine.ts'

export type Run = <K extends KernelName>(kernel: K, count: number, values: Arguments<K>) => void

export const COUNT = 64
const BLOCK = 16384
export const block = (n: number): number => HEAP_BASE + n * BLOCK
