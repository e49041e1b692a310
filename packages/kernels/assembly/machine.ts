/**
 * The few operations in which WebAssembly and the reference differ: memory and 32-bit integers.
 * Every kernel is written against these, so the same source compiles to WebAssembly (with this
 * file) and runs as TypeScript (with machine.reference.ts), equal to the bit.
 *
 * Kernels written with these compute in f64 and store f32 (lanes.ts has those of four f32): IEEE 754 fixes + − × ÷ √ and the rounding of a store,
 * and f64 is what TypeScript's own numbers are, so the reference needs no rounding of its own.
 */

/** Element `index` of the f32 column at `pointer`. */
export function readF32(pointer: usize, index: i32): f64 {
  return <f64>load<f32>(pointer + ((<usize>index) << 2));
}
export function writeF32(pointer: usize, index: i32, value: f64): void {
  store<f32>(pointer + ((<usize>index) << 2), <f32>value);
}
export function readF64(pointer: usize, index: i32): f64 {
  return load<f64>(pointer + ((<usize>index) << 3));
}
export function writeF64(pointer: usize, index: i32, value: f64): void {
  store<f64>(pointer + ((<usize>index) << 3), value);
}
export function readI32(pointer: usize, index: i32): i32 {
  return load<i32>(pointer + ((<usize>index) << 2));
}
export function writeI32(pointer: usize, index: i32, value: i32): void {
  store<i32>(pointer + ((<usize>index) << 2), value);
}
/** Low 32 bits of a product. */
export function multiplyLow(a: i32, b: i32): i32 {
  return a * b;
}
/** High 32 bits of the product of two unsigned numbers. */
export function multiplyHigh(a: i32, b: i32): i32 {
  return <i32>(((<u64>(<u32>a)) * (<u64>(<u32>b))) >> 32);
}
/** Sum that wraps at 32 bits. */
export function addWrapping(a: i32, b: i32): i32 {
  return a + b;
}
/** The 32 bits of `a` read as an unsigned number. */
export function unsigned(a: i32): f64 {
  return <f64>(<u32>a);
}
export function shiftRight(a: i32, bits: i32): i32 {
  return <i32>((<u32>a) >> bits);
}
/** How many bits are set. */
export function countBits(a: i32): i32 {
  return popcnt(a);
}
/** Truncation towards zero of a value that fits 32 bits. */
export function truncate(a: f64): i32 {
  return <i32>a;
}
/** The nearest f32. */
export function roundF32(a: f64): f64 {
  return <f64>(<f32>a);
}
export function floor(a: f64): f64 {
  return Math.floor(a);
}
export function squareRoot(a: f64): f64 {
  return Math.sqrt(a);
}
/** 1 where a ≥ b, else 0; compiles to a comparison without a branch. */
export function atLeast(a: f64, b: f64): i32 {
  return <i32>(a >= b);
}
export function maximum(a: f64, b: f64): f64 {
  return max<f64>(a, b);
}
