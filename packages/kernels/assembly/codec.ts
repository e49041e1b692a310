/**
 * The codec of stored frames (formats/src/frames; docs/frames.md): numbers as whole numbers and back, what a frame is expected to have of each
 * from the frame before, and the difference. Columns are f32 or words; `index` (i32) says where a particle was in the frame before, −1: it was not there. A whole number is
 * a multiple of `step` where that is above 0, else the bits of the number in the order of the numbers, without the last `dropped`.
 */
import { add4, floor4, load4, multiply4, splat4, storeI4, toI4, F4 } from './lanes'
import { codecRule } from './layouts'
import { addWrapping, floor, readF32, readI32, roundF32, shiftRight, squareRoot, truncate, writeF32, writeI32 } from './machine'

/** Beyond these an expectation is none. */
const FAR: f64 = 3.0e38
const MOST: f64 = 1073741824.0

/** The order of floats is that of their bits; of those below zero it runs the other way. */
function ordered(bits: i32): i32 {
  return bits ^ ((bits >> 31) & 0x7fffffff)
}
function droppedFrom(bits: i32, dropped: i32): i32 {
  return addWrapping(ordered(bits), dropped > 0 ? 1 << (dropped - 1) : 0) >> dropped
}

/** Numbers as whole numbers. */
export function wholesOf(length: i32, values: usize, step: f64, dropped: i32, wholes: usize): void {
  if (step > 0.0) {
    const perStep = 1.0 / step
    for (let at = 0; at < length; at++) writeI32(wholes, at, truncate(floor(readF32(values, at) * perStep + 0.5)))
  } else for (let at = 0; at < length; at++) writeI32(wholes, at, droppedFrom(readI32(values, at), dropped))
}

/** Whole numbers as numbers. */
export function numbersOf(length: i32, wholes: usize, step: f64, dropped: i32, values: usize): void {
  if (step > 0.0) for (let at = 0; at < length; at++) writeF32(values, at, readI32(wholes, at) * step)
  else for (let at = 0; at < length; at++) writeI32(values, at, ordered(readI32(wholes, at) << dropped))
}

/** √(x² + y² + z²) of the sum of two velocities, each operation rounded. */
function speedOf(v0: usize, from: i32, v1: usize, to: i32): f64 {
  const x = roundF32(readF32(v0, from * 3) + readF32(v1, to * 3))
  const y = roundF32(readF32(v0, from * 3 + 1) + readF32(v1, to * 3 + 1))
  const z = roundF32(readF32(v0, from * 3 + 2) + readF32(v1, to * 3 + 2))
  return roundF32(squareRoot(roundF32(roundF32(roundF32(x * x) + roundF32(y * y)) + roundF32(z * z))))
}

/** A place, a time or a number as it is expected, of four elements that were side by side in the frame before, too. */
function expected4(rule: i32, last: usize, was: i32, v0: usize, v1: usize, at: i32, seconds: F4): F4 {
  const x = load4(last, was)
  // x₁ = x₀ + (v₀ + v₁)·t/2: the trapezium, wrong only by what the acceleration changes
  if (rule == codecRule.WAY) return add4(x, multiply4(add4(load4(v0, was), load4(v1, at)), multiply4(seconds, splat4(0.5))))
  return rule == codecRule.CLOCK ? add4(x, seconds) : x
}
/** The same of one. */
function expectedOf(rule: i32, last: usize, was: i32, v0: usize, v1: usize, at: i32, from: i32, i: i32, seconds: f64): f64 {
  const x = readF32(last, was)
  const half = roundF32(seconds * 0.5)
  if (rule == codecRule.WAY) return roundF32(x + roundF32(roundF32(readF32(v0, was) + readF32(v1, at)) * half))
  // s₁ = s₀ + |v₀ + v₁|·t/2
  if (rule == codecRule.LENGTH) return roundF32(x + roundF32(speedOf(v0, from, v1, i) * half))
  return rule == codecRule.CLOCK ? roundF32(x + seconds) : x
}

/**
 * What is expected of a column, by `rule`, as whole numbers: `last` is the column in the frame before, `v0` and `v1` are the velocities then and now. Of who was not
 * there it is anything. Particles that were side by side before, too, are treated four numbers at a time.
 */
export function expectWholes(
  count: i32, width: i32, index: usize, rule: i32, last: usize, v0: usize, v1: usize, seconds: f64, step: f64, dropped: i32, expected: usize,
): void {
  const inLanes = step > 0.0 && rule != codecRule.LENGTH && rule != codecRule.WORD
  const perStep = splat4(step > 0.0 ? 1.0 / step : 0.0)
  for (let i = 0; i < count; ) {
    const from = readI32(index, i)
    let next = i + 1
    if (from < 0) {
      i = next
      continue
    }
    while (next < count && readI32(index, next) == from + next - i) next++
    const was = from * width - i * width
    if (inLanes) {
      const time = splat4(seconds)
      for (let at = i * width; at < next * width; at += 4) {
        const x = expected4(rule, last, was + at, v0, v1, at, time)
        storeI4(expected, at, toI4(floor4(add4(multiply4(x, perStep), splat4(0.5)))))
      }
    } else {
      for (let k = i; k < next; k++) {
        for (let at = k * width; at < (k + 1) * width; at++) {
          if (rule == codecRule.WORD) writeI32(expected, at, readI32(last, was + at))
          else if (rule == codecRule.SAME) writeI32(expected, at, droppedFrom(readI32(last, was + at), dropped))
          else wholeOf(expectedOf(rule, last, was + at, v0, v1, at, from + k - i, k, seconds), step, dropped, expected, at)
        }
      }
    }
    i = next
  }
}

/** One number as a whole one. What is no number is not the same everywhere, so it is 0. */
function wholeOf(x: f64, step: f64, dropped: i32, wholes: usize, at: i32): void {
  if (!(x > -FAR && x < FAR)) return writeI32(wholes, at, 0)
  if (step == 0.0) {
    writeF32(wholes, at, x)
    return writeI32(wholes, at, droppedFrom(readI32(wholes, at), dropped))
  }
  const whole = floor(x / step + 0.5)
  writeI32(wholes, at, whole > -MOST && whole < MOST ? truncate(whole) : 0)
}

/**
 * How whole numbers differ from what is expected, in place of that; 0, −1, 1, −2 … as 0, 1, 2, 3 …, so that what is small has few bits. Who was not there
 * is expected to be as the one before it in the column.
 */
export function foldDifferences(count: i32, width: i32, index: usize, wholes: usize, expected: usize): void {
  for (let i = 0; i < count; i++) {
    const known = index != 0 && readI32(index, i) >= 0
    for (let c = 0; c < width; c++) {
      const at = i * width + c
      const base = known ? readI32(expected, at) : i > 0 ? readI32(wholes, at - width) : 0
      const difference = addWrapping(readI32(wholes, at), -base)
      writeI32(expected, at, (difference << 1) ^ (difference >> 31))
    }
  }
}

/** The whole numbers that differ so from what is expected, in place of the differences. */
export function unfoldDifferences(count: i32, width: i32, index: usize, wholes: usize, expected: usize): void {
  for (let i = 0; i < count; i++) {
    const known = index != 0 && readI32(index, i) >= 0
    for (let c = 0; c < width; c++) {
      const at = i * width + c
      const folded = readI32(wholes, at)
      const base = known ? readI32(expected, at) : i > 0 ? readI32(wholes, at - width) : 0
      writeI32(wholes, at, addWrapping(base, shiftRight(folded, 1) ^ -(folded & 1)))
    }
  }
}

/** Where each of `ids` is among `before`; both ascend. */
export function indexOfIds(count: i32, ids: usize, countBefore: i32, before: usize, index: usize): void {
  let at = 0
  for (let i = 0; i < count; i++) {
    const id = readI32(ids, i)
    while (at < countBefore && below(readI32(before, at), id)) at++
    writeI32(index, i, at < countBefore && readI32(before, at) == id ? at : -1)
  }
}
/** As unsigned numbers. */
function below(a: i32, b: i32): bool {
  return (a ^ 0x80000000) < (b ^ 0x80000000)
}
