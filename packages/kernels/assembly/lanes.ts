/**
 * Four numbers of f32 (or i32) side by side, as WebAssembly's SIMD computes them. Kernels written with these treat four
 * particles at a time; lanes.reference.ts is the same in TypeScript, so one source is kernel and reference, equal to the
 * bit. Only operations that IEEE 754 fixes: nothing relaxed, no fused multiply-add.
 *
 * A kernel of lanes may read and write up to three elements past its range; every block of the heap has room for that
 * (heap.ts). Nothing that is read there may be taken for an index: see `inRange4`. What is computed with single numbers
 * before a loop is f64; `splat4` rounds it once.
 */

/** Four f32. */
export type F4 = v128
/** Four i32; also a mask, all bits of a lane set or none. */
export type I4 = v128

export function splat4(a: f64): F4 {
  return f32x4.splat(<f32>a)
}
export function splatI4(a: i32): I4 {
  return i32x4.splat(a)
}
/** Elements i … i + 3 of a column. */
export function load4(column: usize, i: i32): F4 {
  return v128.load(column + ((<usize>i) << 2))
}
/** One element of a column in all lanes. */
export function splatAt4(column: usize, i: i32): F4 {
  return v128.load32_splat(column + ((<usize>i) << 2))
}
export function store4(column: usize, i: i32, value: F4): void {
  v128.store(column + ((<usize>i) << 2), value)
}
export function loadI4(column: usize, i: i32): I4 {
  return v128.load(column + ((<usize>i) << 2))
}
export function storeI4(column: usize, i: i32, value: I4): void {
  v128.store(column + ((<usize>i) << 2), value)
}
/** Lanes i … i + 3 that lie before `end`. */
export function inRange4(i: i32, end: i32): I4 {
  return i32x4.lt_s(i32x4.add(i32x4.splat(i), i32x4(0, 1, 2, 3)), i32x4.splat(end))
}

export function add4(a: F4, b: F4): F4 {
  return f32x4.add(a, b)
}
export function subtract4(a: F4, b: F4): F4 {
  return f32x4.sub(a, b)
}
export function multiply4(a: F4, b: F4): F4 {
  return f32x4.mul(a, b)
}
export function divide4(a: F4, b: F4): F4 {
  return f32x4.div(a, b)
}
export function squareRoot4(a: F4): F4 {
  return f32x4.sqrt(a)
}
/** x·u + y·v + z·w */
export function dot4(x: F4, y: F4, z: F4, u: F4, v: F4, w: F4): F4 {
  return f32x4.add(f32x4.add(f32x4.mul(x, u), f32x4.mul(y, v)), f32x4.mul(z, w))
}
/** √(x² + y² + z²) */
export function length4(x: F4, y: F4, z: F4): F4 {
  return f32x4.sqrt(dot4(x, y, z, x, y, z))
}
export function floor4(a: F4): F4 {
  return f32x4.floor(a)
}
export function absolute4(a: F4): F4 {
  return f32x4.abs(a)
}
/** b where it is greater, else a: one instruction on every machine, which `max` with its rules for NaN is not. */
export function maximum4(a: F4, b: F4): F4 {
  return f32x4.pmax(a, b)
}
/** b where it is less, else a. */
export function minimum4(a: F4, b: F4): F4 {
  return f32x4.pmin(a, b)
}

export function atLeast4(a: F4, b: F4): I4 {
  return f32x4.ge(a, b)
}
export function less4(a: F4, b: F4): I4 {
  return f32x4.lt(a, b)
}
export function notEqual4(a: F4, b: F4): I4 {
  return f32x4.ne(a, b)
}
/** a where the mask is set, else b. */
export function select4(mask: I4, a: F4, b: F4): F4 {
  return v128.bitselect(a, b, mask)
}
/** a where the mask is set, else 0. */
export function where4(mask: I4, a: F4): F4 {
  return v128.and(mask, a)
}
/**
 * a, and 0 where it is no more than `least` off it. What fades away would come to numbers below 1e-38, or squares of them, which cost a
 * processor a hundred cycles each.
 */
export function unlessFaint4(a: F4, least: f64): F4 {
  return v128.and(f32x4.gt(f32x4.abs(a), f32x4.splat(<f32>least)), a)
}
/** i, i + 1, i + 2, i + 3 */
export function count4(i: i32): I4 {
  return i32x4.add(i32x4.splat(i), i32x4(0, 1, 2, 3))
}
/** The lanes whose bits are set, moved together to the front; 0 behind them. */
export function pack4(a: F4, bits: i32): F4 {
  return v128.swizzle(a, v128.load(PACKS + ((<usize>bits) << 4)))
}
/** For each of the sixteen masks the bytes that come to the front. */
const PACKS = memory.data<u8>([
  255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255,
  0, 1, 2, 3, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255,
  4, 5, 6, 7, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255,
  0, 1, 2, 3, 4, 5, 6, 7, 255, 255, 255, 255, 255, 255, 255, 255,
  8, 9, 10, 11, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255,
  0, 1, 2, 3, 8, 9, 10, 11, 255, 255, 255, 255, 255, 255, 255, 255,
  4, 5, 6, 7, 8, 9, 10, 11, 255, 255, 255, 255, 255, 255, 255, 255,
  0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 255, 255, 255, 255,
  12, 13, 14, 15, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255, 255,
  0, 1, 2, 3, 12, 13, 14, 15, 255, 255, 255, 255, 255, 255, 255, 255,
  4, 5, 6, 7, 12, 13, 14, 15, 255, 255, 255, 255, 255, 255, 255, 255,
  0, 1, 2, 3, 4, 5, 6, 7, 12, 13, 14, 15, 255, 255, 255, 255,
  8, 9, 10, 11, 12, 13, 14, 15, 255, 255, 255, 255, 255, 255, 255, 255,
  0, 1, 2, 3, 8, 9, 10, 11, 12, 13, 14, 15, 255, 255, 255, 255,
  4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 255, 255, 255, 255,
  0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15,
])
/** Whether a lane of a mask is set. */
export function any4(mask: I4): bool {
  return v128.any_true(mask)
}
/** The lanes of a mask as the low four bits. */
export function bits4(mask: I4): i32 {
  return i32x4.bitmask(mask)
}
export function lane4(a: F4, lane: i32): f64 {
  if (lane == 0) return <f64>f32x4.extract_lane(a, 0)
  if (lane == 1) return <f64>f32x4.extract_lane(a, 1)
  if (lane == 2) return <f64>f32x4.extract_lane(a, 2)
  return <f64>f32x4.extract_lane(a, 3)
}
/** a with one of its lanes replaced. */
export function withLane(a: F4, lane: i32, value: f64): F4 {
  if (lane == 0) return f32x4.replace_lane(a, 0, <f32>value)
  if (lane == 1) return f32x4.replace_lane(a, 1, <f32>value)
  if (lane == 2) return f32x4.replace_lane(a, 2, <f32>value)
  return f32x4.replace_lane(a, 3, <f32>value)
}

/** Whole numbers in f32 as i32; what does not fit becomes the nearest that does. */
export function toI4(a: F4): I4 {
  return i32x4.trunc_sat_f32x4_s(a)
}
/** The bits of i32 read as f32. */
export function asF4(a: I4): F4 {
  return a
}
export function addI4(a: I4, b: I4): I4 {
  return i32x4.add(a, b)
}
/** Low 32 bits of the products. */
export function multiplyI4(a: I4, b: I4): I4 {
  return i32x4.mul(a, b)
}
export function equalI4(a: I4, b: I4): I4 {
  return i32x4.eq(a, b)
}
export function notEqualI4(a: I4, b: I4): I4 {
  return i32x4.ne(a, b)
}
export function lessI4(a: I4, b: I4): I4 {
  return i32x4.lt_s(a, b)
}
export function and4(a: I4, b: I4): I4 {
  return v128.and(a, b)
}
export function or4(a: I4, b: I4): I4 {
  return v128.or(a, b)
}
export function xor4(a: I4, b: I4): I4 {
  return v128.xor(a, b)
}
export function shiftRight4(a: I4, bits: i32): I4 {
  return i32x4.shr_u(a, bits)
}
export function shiftLeft4(a: I4, bits: i32): I4 {
  return i32x4.shl(a, bits)
}

/** The x of four vectors whose twelve numbers x y z x y z … are a, b, c. */
export function xOf4(a: F4, b: F4, c: F4): F4 {
  return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 0, 3, 6, 6), c, 0, 1, 2, 5)
}
export function yOf4(a: F4, b: F4, c: F4): F4 {
  return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 1, 4, 7, 7), c, 0, 1, 2, 6)
}
export function zOf4(a: F4, b: F4, c: F4): F4 {
  return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 2, 5, 5, 5), c, 0, 1, 4, 7)
}
/** The way back: the first, second and third four of x y z x y z …. */
export function firstOf4(x: F4, y: F4, z: F4): F4 {
  return v128.shuffle<f32>(v128.shuffle<f32>(x, y, 0, 4, 1, 1), z, 0, 1, 4, 2)
}
export function secondOf4(x: F4, y: F4, z: F4): F4 {
  return v128.shuffle<f32>(v128.shuffle<f32>(y, z, 1, 5, 2, 2), x, 0, 1, 6, 2)
}
export function thirdOf4(x: F4, y: F4, z: F4): F4 {
  return v128.shuffle<f32>(v128.shuffle<f32>(z, x, 2, 7, 3, 3), y, 0, 1, 7, 2)
}

/** Row k of a table of four f32 a row, k being a lane of `index`. */
export function row4(table: usize, index: I4, lane: i32): F4 {
  if (lane == 0) return v128.load(table + ((<usize>i32x4.extract_lane(index, 0)) << 4))
  if (lane == 1) return v128.load(table + ((<usize>i32x4.extract_lane(index, 1)) << 4))
  if (lane == 2) return v128.load(table + ((<usize>i32x4.extract_lane(index, 2)) << 4))
  return v128.load(table + ((<usize>i32x4.extract_lane(index, 3)) << 4))
}
/** The first number of each of four rows; then the second, third and fourth. */
export function column0(a: F4, b: F4, c: F4, d: F4): F4 {
  return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 0, 4, 1, 5), v128.shuffle<f32>(c, d, 0, 4, 1, 5), 0, 1, 4, 5)
}
export function column1(a: F4, b: F4, c: F4, d: F4): F4 {
  return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 0, 4, 1, 5), v128.shuffle<f32>(c, d, 0, 4, 1, 5), 2, 3, 6, 7)
}
export function column2(a: F4, b: F4, c: F4, d: F4): F4 {
  return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 2, 6, 3, 7), v128.shuffle<f32>(c, d, 2, 6, 3, 7), 0, 1, 4, 5)
}
export function column3(a: F4, b: F4, c: F4, d: F4): F4 {
  return v128.shuffle<f32>(v128.shuffle<f32>(a, b, 2, 6, 3, 7), v128.shuffle<f32>(c, d, 2, 6, 3, 7), 2, 3, 6, 7)
}
/** Row k of a table of four f32 a row, k being a lane of `index`, replaced. */
export function storeRow4(table: usize, index: I4, lane: i32, value: F4): void {
  if (lane == 0) v128.store(table + ((<usize>i32x4.extract_lane(index, 0)) << 4), value)
  else if (lane == 1) v128.store(table + ((<usize>i32x4.extract_lane(index, 1)) << 4), value)
  else if (lane == 2) v128.store(table + ((<usize>i32x4.extract_lane(index, 2)) << 4), value)
  else v128.store(table + ((<usize>i32x4.extract_lane(index, 3)) << 4), value)
}
/** Elements of a column by their indices. */
export function gather4(column: usize, index: I4): F4 {
  let v = v128.load32_zero(column + ((<usize>i32x4.extract_lane(index, 0)) << 2))
  v = v128.load_lane<f32>(column + ((<usize>i32x4.extract_lane(index, 1)) << 2), v, 1)
  v = v128.load_lane<f32>(column + ((<usize>i32x4.extract_lane(index, 2)) << 2), v, 2)
  return v128.load_lane<f32>(column + ((<usize>i32x4.extract_lane(index, 3)) << 2), v, 3)
}
