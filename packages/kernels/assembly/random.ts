/**
 * Counter-based random numbers: Philox 4×32 with 10 rounds.
 * Source: Salmon, Moraes, Dror, Shaw, "Parallel random numbers: as easy as 1, 2, 3" (SC 2011).
 * A draw is a pure function of (seed, particle id, stream), so it does not depend on the order or
 * the count of threads. One call fills four words.
 */
import { addWrapping, multiplyHigh, multiplyLow, readI32, unsigned, writeF64 } from './machine'

export let word0: i32 = 0
export let word1: i32 = 0
export let word2: i32 = 0
export let word3: i32 = 0

/** Fills word0…word3 from a 128-bit counter and a 64-bit key. */
export function philox(c0: i32, c1: i32, c2: i32, c3: i32, k0: i32, k1: i32): void {
  for (let round = 0; round < 10; round++) {
    const high0 = multiplyHigh(0xd2511f53 | 0, c0)
    const low0 = multiplyLow(0xd2511f53 | 0, c0)
    const high1 = multiplyHigh(0xcd9e8d57 | 0, c2)
    const low1 = multiplyLow(0xcd9e8d57 | 0, c2)
    c0 = high1 ^ c1 ^ k0
    c1 = low1
    c2 = high0 ^ c3 ^ k1
    c3 = low0
    k0 = addWrapping(k0, 0x9e3779b9 | 0)
    k1 = addWrapping(k1, 0xbb67ae85 | 0)
  }
  word0 = c0
  word1 = c1
  word2 = c2
  word3 = c3
}

/** A 32-bit word as a number in (0, 1): never 0, never 1. */
export function toUnit(word: i32): f64 {
  return (unsigned(word) + 0.5) * 2.3283064365386963e-10
}

/** Four numbers in (0, 1) per id, f64: the draw `draw` of a stream. */
export function drawRandoms(start: i32, end: i32, ids: usize, seed: i32, stream: i32, draw: i32, out: usize): void {
  for (let i = start; i < end; i++) {
    philox(readI32(ids, i), stream, draw, 0, seed, 0)
    writeF64(out, i * 4, toUnit(word0))
    writeF64(out, i * 4 + 1, toUnit(word1))
    writeF64(out, i * 4 + 2, toUnit(word2))
    writeF64(out, i * 4 + 3, toUnit(word3))
  }
}

/** Fills the four words for one counter and key and returns the first; for the published test vectors. */
export function philoxWords(c0: i32, c1: i32, c2: i32, c3: i32, k0: i32, k1: i32): i32 {
  philox(c0, c1, c2, c3, k0, k1)
  return word0
}
export function philoxWord(lane: i32): i32 {
  return lane == 0 ? word0 : lane == 1 ? word1 : lane == 2 ? word2 : word3
}
