/** The TypeScript side of machine.ts: the same operations over views of one buffer. Used in tests. */
let f32: Float32Array = new Float32Array(0)
let f64: Float64Array = new Float64Array(0)
let i32: Int32Array = new Int32Array(0)

/** Lays the reference kernels over a memory. Pointers are byte offsets into it. */
export function bind(buffer: ArrayBufferLike): void {
  f32 = new Float32Array(buffer)
  f64 = new Float64Array(buffer)
  i32 = new Int32Array(buffer)
}
export const readF32 = (pointer: number, index: number): number => f32[(pointer >> 2) + index]!
export const writeF32 = (pointer: number, index: number, value: number): void => {
  f32[(pointer >> 2) + index] = value
}
export const readF64 = (pointer: number, index: number): number => f64[(pointer >> 3) + index]!
export const writeF64 = (pointer: number, index: number, value: number): void => {
  f64[(pointer >> 3) + index] = value
}
export const readI32 = (pointer: number, index: number): number => i32[(pointer >> 2) + index]!
export const writeI32 = (pointer: number, index: number, value: number): void => {
  i32[(pointer >> 2) + index] = value
}
export const multiplyLow = (a: number, b: number): number => Math.imul(a, b)
export const multiplyHigh = (a: number, b: number): number =>
  Number((BigInt(a >>> 0) * BigInt(b >>> 0)) >> 32n) | 0
export const addWrapping = (a: number, b: number): number => (a + b) | 0
export const unsigned = (a: number): number => a >>> 0
export const shiftRight = (a: number, bits: number): number => (a >>> bits) | 0
export const countBits = (a: number): number => a.toString(2).replaceAll('0', '').length
export const truncate = (a: number): number => Math.trunc(a) | 0
export const roundF32 = (a: number): number => Math.fround(a)
export const floor = (a: number): number => Math.floor(a)
export const squareRoot = (a: number): number => Math.sqrt(a)
export const atLeast = (a: number, b: number): number => (a >= b ? 1 : 0)
export const maximum = (a: number, b: number): number => Math.max(a, b)
