import type { Heap } from '@tangle/kernels'
import { EASES, type Key } from './parameters.ts'

/** Writes a curve for the kernels: x, y and ease code as three f64 a point. */
export function writeCurve(heap: Heap, pointer: number, curve: Key[]): void {
  const out = heap.f64(pointer, curve.length * 3)
  curve.forEach(([x, y, ease = 'linear'], k) => out.set([x, y, EASES.indexOf(ease)], k * 3))
}
