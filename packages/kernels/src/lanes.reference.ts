/** The TypeScript side of lanes.ts: four numbers, each rounded as an f32 is. Used in tests. */
import { readF32, readI32, writeF32, writeI32 } from './machine.reference.ts'

export type F4 = readonly [number, number, number, number]
export type I4 = F4
const f = Math.fround
const words = new DataView(new ArrayBuffer(4))

const one =
  (does: (a: number) => number) =>
  (a: F4): F4 => [does(a[0]), does(a[1]), does(a[2]), does(a[3])]
const two =
  (does: (a: number, b: number) => number) =>
  (a: F4, b: F4): F4 => [does(a[0], b[0]), does(a[1], b[1]), does(a[2], b[2]), does(a[3], b[3])]
const fourOf = (does: (lane: number) => number): F4 => [does(0), does(1), does(2), does(3)]

export const splat4 = (a: number): F4 => [f(a), f(a), f(a), f(a)]
export const splatI4 = (a: number): I4 => [a | 0, a | 0, a | 0, a | 0]
export const load4 = (column: number, i: number): F4 => fourOf((lane) => readF32(column, i + lane))
export const splatAt4 = (column: number, i: number): F4 => splat4(readF32(column, i))
export const store4 = (column: number, i: number, value: F4): void =>
  value.forEach((v, lane) => writeF32(column, i + lane, v))
export const loadI4 = (column: number, i: number): I4 => fourOf((lane) => readI32(column, i + lane))
export const storeI4 = (column: number, i: number, value: I4): void =>
  value.forEach((v, lane) => writeI32(column, i + lane, v))
export const inRange4 = (i: number, end: number): I4 => fourOf((lane) => (i + lane < end ? -1 : 0))

export const add4 = two((a, b) => f(a + b))
export const subtract4 = two((a, b) => f(a - b))
export const multiply4 = two((a, b) => f(a * b))
export const divide4 = two((a, b) => f(a / b))
export const squareRoot4 = one((a) => f(Math.sqrt(a)))
export const dot4 = (x: F4, y: F4, z: F4, u: F4, v: F4, w: F4): F4 =>
  add4(add4(multiply4(x, u), multiply4(y, v)), multiply4(z, w))
export const length4 = (x: F4, y: F4, z: F4): F4 => squareRoot4(dot4(x, y, z, x, y, z))
export const floor4 = one(Math.floor)
export const absolute4 = one(Math.abs)
export const maximum4 = two((a, b) => (a < b ? b : a))
export const minimum4 = two((a, b) => (b < a ? b : a))

export const atLeast4 = two((a, b) => (a >= b ? -1 : 0))
export const less4 = two((a, b) => (a < b ? -1 : 0))
export const notEqual4 = two((a, b) => (a !== b ? -1 : 0))
export const select4 = (mask: I4, a: F4, b: F4): F4 => fourOf((lane) => (mask[lane] ? a[lane]! : b[lane]!))
export const where4 = two((mask, a) => (mask ? a : 0))
export const unlessFaint4 = (a: F4, least: number): F4 =>
  fourOf((lane) => (Math.abs(a[lane]!) > f(least) ? a[lane]! : 0))
export const count4 = (i: number): I4 => fourOf((lane) => i + lane)
export const pack4 = (a: F4, bits: number): F4 => {
  const set = a.filter((_, lane) => (bits >> lane) & 1)
  return fourOf((lane) => set[lane] ?? 0)
}
export const any4 = (mask: I4): boolean => mask.some((a) => a !== 0)
export const bits4 = (mask: I4): number => mask.reduce((all, a, lane) => all | ((a >>> 31) << lane), 0)
export const lane4 = (a: F4, lane: number): number => a[lane]!
export const withLane = (a: F4, lane: number, value: number): F4 =>
  fourOf((one) => (one === lane ? f(value) : a[one]!))

export const toI4 = one((a) => Math.max(-2147483648, Math.min(2147483647, Math.trunc(a))) | 0)
export const asF4 = one((a) => (words.setInt32(0, a), words.getFloat32(0)))
export const addI4 = two((a, b) => (a + b) | 0)
export const multiplyI4 = two(Math.imul)
export const equalI4 = two((a, b) => (a === b ? -1 : 0))
export const notEqualI4 = notEqual4
export const lessI4 = two((a, b) => (a < b ? -1 : 0))
export const and4 = two((a, b) => a & b)
export const or4 = two((a, b) => a | b)
export const xor4 = two((a, b) => a ^ b)
export const shiftRight4 = (a: I4, bits: number): I4 => fourOf((lane) => (a[lane]! >>> bits) | 0)
export const shiftLeft4 = (a: I4, bits: number): I4 => fourOf((lane) => a[lane]! << bits)

export const xOf4 = (a: F4, b: F4, c: F4): F4 => [a[0], a[3], b[2], c[1]]
export const yOf4 = (a: F4, b: F4, c: F4): F4 => [a[1], b[0], b[3], c[2]]
export const zOf4 = (a: F4, b: F4, c: F4): F4 => [a[2], b[1], c[0], c[3]]
export const firstOf4 = (x: F4, y: F4, z: F4): F4 => [x[0], y[0], z[0], x[1]]
export const secondOf4 = (x: F4, y: F4, z: F4): F4 => [y[1], z[1], x[2], y[2]]
export const thirdOf4 = (x: F4, y: F4, z: F4): F4 => [z[2], x[3], y[3], z[3]]

export const row4 = (table: number, index: I4, lane: number): F4 => load4(table, index[lane]! * 4)
export const storeRow4 = (table: number, index: I4, lane: number, value: F4): void =>
  store4(table, index[lane]! * 4, value)
const column =
  (k: number) =>
  (a: F4, b: F4, c: F4, d: F4): F4 => [a[k]!, b[k]!, c[k]!, d[k]!]
export const column0 = column(0)
export const column1 = column(1)
export const column2 = column(2)
export const column3 = column(3)
export const gather4 = (at: number, index: I4): F4 => fourOf((lane) => readF32(at, index[lane]!))
