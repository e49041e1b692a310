/** How much of an influence each particle gets: weight(phase) × strength(t) × Π responses. */
import { curveKey } from './layouts'
import {
  add4, and4, atLeast4, gather4, inRange4, less4, load4, loadI4, multiply4, select4, splat4, splatAt4, store4, subtract4, F4,
} from './lanes'
import { readF32, truncate, writeF32 } from './machine'

/** amount = weights[phase]; `weights` is an f32 per phase. */
export function weigh(start: i32, end: i32, phase: usize, weights: usize, amount: usize): void {
  for (let i = start; i < end; i += 4) {
    store4(amount, i, gather4(weights, and4(loadI4(phase, i), inRange4(i, end))))
  }
}

/** Shape of an ease at t from 0 to 1; the codes are those of core's document/parameters.ts (EASES). */
function ease4(code: i32, t: F4): F4 {
  if (code == 0) return t
  if (code == 1) return multiply4(multiply4(t, t), subtract4(splat4(3.0), add4(t, t)))
  if (code == 2) return splat4(0.0)
  if (code == 3) return multiply4(t, t)
  if (code == 4) return multiply4(t, subtract4(splat4(2.0), t))
  const inner = add4(multiply4(t, subtract4(multiply4(splat4(6.0), t), splat4(15.0))), splat4(10.0))
  return multiply4(multiply4(multiply4(t, t), t), inner)
}

/** Values of a curve of `count` keys; it holds outside. All lanes go through all keys: later ones win. */
function curve4(keys: usize, count: i32, x: F4): F4 {
  let value = splatAt4(keys, curveKey.y)
  for (let k = 1; k < count; k++) {
    const after = k * curveKey.SIZE
    const before = after - curveKey.SIZE
    const low = splatAt4(keys, before + curveKey.x)
    const from = splatAt4(keys, before + curveKey.y)
    const to = splatAt4(keys, after + curveKey.y)
    const t = multiply4(subtract4(x, low), splatAt4(keys, before + curveKey.perX))
    const eased = ease4(truncate(readF32(keys, before + curveKey.ease)), t)
    const between = add4(from, multiply4(subtract4(to, from), eased))
    const reached = select4(atLeast4(x, splatAt4(keys, after + curveKey.x)), to, between)
    value = select4(less4(low, x), reached, value)
  }
  return value
}

/** amount ×= curve(source). */
export function respond(start: i32, end: i32, source: usize, keys: usize, count: i32, amount: usize): void {
  for (let i = start; i < end; i += 4) {
    store4(amount, i, multiply4(load4(amount, i), curve4(keys, count, load4(source, i))))
  }
}

/**
 * A number of each row of a column (`width` numbers a row, the one at `at`) as it is wanted: (x + plus) · times, over `over` (0: over
 * nothing), no less than `least`.
 */
export function readColumn(
  start: i32, end: i32, column: usize, width: i32, at: i32, plus: f64, times: f64, over: usize, least: f64, out: usize,
): void {
  for (let i = start; i < end; i++) {
    let value = (readF32(column, i * width + at) + plus) * times
    if (over != 0) value /= readF32(over, i)
    writeF32(out, i, value < least ? least : value)
  }
}

/** out = curve(in), in place allowed. */
export function remap(start: i32, end: i32, input: usize, keys: usize, count: i32, out: usize): void {
  for (let i = start; i < end; i += 4) store4(out, i, curve4(keys, count, load4(input, i)))
}
