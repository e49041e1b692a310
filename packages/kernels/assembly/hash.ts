/**
 * 32-bit hash of a run of words, for fingerprints. Two runs with different seeds make 64 bits.
 * Mixing: MurmurHash3 x86_32 by Austin Appleby (public domain).
 */
import {
  addI4, inRange4, loadI4, multiplyI4, or4, shiftLeft4, shiftRight4, splatI4, storeI4, where4, xor4, I4,
} from './lanes'
import { HASH_CHUNK } from './layouts'
import { addWrapping, multiplyLow, readI32, shiftRight } from './machine'

function rotate(a: i32, bits: i32): i32 {
  return (a << bits) | shiftRight(a, 32 - bits)
}
export function hashWords(from: i32, to: i32, column: usize, seed: i32): i32 {
  let h = seed
  for (let i = from; i < to; i++) {
    let k = multiplyLow(readI32(column, i), 0xcc9e2d51 | 0)
    k = multiplyLow(rotate(k, 15), 0x1b873593)
    h = addWrapping(multiplyLow(rotate(h ^ k, 13), 5), 0xe6546b64 | 0)
  }
  h ^= (to - from) << 2
  h ^= shiftRight(h, 16)
  h = multiplyLow(h, 0x85ebca6b | 0)
  h ^= shiftRight(h, 13)
  h = multiplyLow(h, 0xc2b2ae35 | 0)
  return h ^ shiftRight(h, 16)
}

function rotate4(a: I4, bits: i32): I4 {
  return or4(shiftLeft4(a, bits), shiftRight4(a, 32 - bits))
}
/** The same mixing of chunks of a column, four hashes side by side: `out` is 4 × i32 for each chunk. */
export function hashChunks(start: i32, end: i32, column: usize, words: i32, out: usize): void {
  for (let chunk = start; chunk < end; chunk++) {
    const from = chunk * HASH_CHUNK
    const to = from + HASH_CHUNK < words ? from + HASH_CHUNK : words
    let h = splatI4(chunk)
    for (let i = from; i < to; i += 4) {
      let k = multiplyI4(where4(inRange4(i, to), loadI4(column, i)), splatI4(0xcc9e2d51 | 0))
      k = multiplyI4(rotate4(k, 15), splatI4(0x1b873593))
      h = addI4(multiplyI4(rotate4(xor4(h, k), 13), splatI4(5)), splatI4(0xe6546b64 | 0))
    }
    storeI4(out, chunk * 4, h)
  }
}
