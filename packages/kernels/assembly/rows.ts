/** Tables of rows of four f32, such as solver bodies are (layouts.ts), read and written by four as columns. */
import { column0, column1, column2, column3, load4, row4, splat4, store4, storeRow4, subtract4, F4, I4 } from './lanes'

/** The numbers of the four rows that were read last. */
export let rowX: F4 = splat4(0.0)
export let rowY: F4 = splat4(0.0)
export let rowZ: F4 = splat4(0.0)
export let rowW: F4 = splat4(0.0)
function spread(a: F4, b: F4, c: F4, d: F4): void {
  rowX = column0(a, b, c, d)
  rowY = column1(a, b, c, d)
  rowZ = column2(a, b, c, d)
  rowW = column3(a, b, c, d)
}
export function readRows(rows: usize, index: I4): void {
  spread(row4(rows, index, 0), row4(rows, index, 1), row4(rows, index, 2), row4(rows, index, 3))
}
export function writeRows(rows: usize, index: I4, x: F4, y: F4, z: F4, w: F4): void {
  storeRow4(rows, index, 0, column0(x, y, z, w))
  storeRow4(rows, index, 1, column1(x, y, z, w))
  storeRow4(rows, index, 2, column2(x, y, z, w))
  storeRow4(rows, index, 3, column3(x, y, z, w))
}
/** Rows k … k + 3. */
export function readRowsFrom(rows: usize, k: i32): void {
  spread(load4(rows, k * 4), load4(rows, k * 4 + 4), load4(rows, k * 4 + 8), load4(rows, k * 4 + 12))
}
export function writeRowsFrom(rows: usize, k: i32, x: F4, y: F4, z: F4, w: F4): void {
  store4(rows, k * 4, column0(x, y, z, w))
  store4(rows, k * 4 + 4, column1(x, y, z, w))
  store4(rows, k * 4 + 8, column2(x, y, z, w))
  store4(rows, k * 4 + 12, column3(x, y, z, w))
}

/** Of two rows in each lane the first less the second, and the last number of both. */
export let apartX: F4 = splat4(0.0)
export let apartY: F4 = splat4(0.0)
export let apartZ: F4 = splat4(0.0)
export let firstW: F4 = splat4(0.0)
export let secondW: F4 = splat4(0.0)
export function readApart(rows: usize, first: I4, second: I4): void {
  readRows(rows, first)
  const x = rowX
  const y = rowY
  const z = rowZ
  firstW = rowW
  readRows(rows, second)
  apartX = subtract4(x, rowX)
  apartY = subtract4(y, rowY)
  apartZ = subtract4(z, rowZ)
  secondW = rowW
}
