import { layouts, type Heap } from '@tangle/kernels'
import { EASES, type Key } from './parameters.ts'

const { curveKey, F32 } = layouts

/** Bytes of a curve as the kernels read it. */
export const curveBytes = (curve: Key[]): number => curve.length * curveKey.SIZE * F32

/** Writes a curve for the kernels. */
export function writeCurve(heap: Heap, pointer: number, curve: Key[]): void {
  const out = heap.f32(pointer, curve.length * curveKey.SIZE)
  curve.forEach(([x, y, ease = 'linear'], k) => {
    const width = (curve[k + 1]?.[0] ?? x) - x
    out.set([x, y, EASES.indexOf(ease), width > 0 ? 1 / width : 0], k * curveKey.SIZE)
  })
}
