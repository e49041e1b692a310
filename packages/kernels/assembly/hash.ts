/**
 * 32-bit hash of a run of words, for fingerprints. Two runs with different seeds make 64 bits.
 * Mixing: MurmurHash3 x86_32 by Austin Appleby (public domain).
 */
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
