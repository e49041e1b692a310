/**
 * Numbers of a column as whole numbers and back: what a frame keeps of them. Between frames whole numbers are told apart by subtraction, which
 * for numbers that are nearly alike leaves little. What has been brought back comes to the same whole numbers again.
 */
import type { Kept } from '@tangle/core'

export type Column = Float32Array | Uint32Array

/** How a column is coded, as the head of a frame says it. */
export type Code =
  /** The bits of a u32 as they are. */
  | { bits: true }
  /** The bits of an f32 in the order of the numbers, without the last so many. */
  | { dropped: number }
  /** Multiples of a step, a power of two. */
  | { step: number }

/** Without the sign, an f32 tells so many places of a number apart. */
const MANTISSA = 23
/** The error of a place that is kept compactly, as a share of what a population spans. */
export const PLACE_ERROR = 1e-5
/** The error of a time that is kept compactly, as a share of a frame. */
const TIME_ERROR = 1 / 512

/** An f32 tells so many multiples of a step apart. */
const MOST_STEPS = 2 ** MANTISSA

/** The largest power of two that is not above. */
const powerBelow = (x: number): number => 2 ** Math.floor(Math.log2(x))

/** What a step is made of: what the population spans in metres, frames per second. */
export interface Scale {
  span: number
  rate: number
}

/** How a column is coded that is to be kept so. */
export function codeOf(values: Column, kept: Kept, { span, rate }: Scale): Code {
  if (values instanceof Uint32Array) return { bits: true }
  if (kept === 'exact') return { dropped: 0 }
  if (typeof kept === 'object' && 'share' in kept)
    return { dropped: Math.max(0, MANTISSA + Math.floor(Math.log2(2 * kept.share))) }
  const error = {
    place: PLACE_ERROR * span,
    distance: PLACE_ERROR * span,
    velocity: PLACE_ERROR * span * rate,
    time: TIME_ERROR / rate,
    value: typeof kept === 'object' ? kept.error : 0,
  }[typeof kept === 'object' ? 'value' : kept]
  const most = largest(values)
  const step = most === 0 ? 1 : powerBelow(2 * error)
  // what lies farther away than that has fewer places than a step: then every bit is kept
  return Number.isFinite(step) && most <= step * MOST_STEPS ? { step } : { dropped: 0 }
}

/** NaN where one of them is. */
function largest(values: Float32Array): number {
  let most = 0
  for (let i = 0; i < values.length; i++) most = Math.max(most, Math.abs(values[i]!))
  return most
}

/** Places from which it is told how far a population reaches. */
const SAMPLES = 1000
/** Part of them that is left out at either end: one that has flown away must not coarsen all others. */
const OUTSIDE = 0.01

/** How far places reach along the longest axis, but for the outermost few; 0 without any. */
export function spanOf(positions: Float32Array = new Float32Array()): number {
  const count = positions.length / 3
  const every = Math.max(1, Math.floor(count / SAMPLES))
  const outside = Math.floor((OUTSIDE * count) / every)
  let longest = 0
  for (let axis = 0; axis < 3 && count > 0; axis++) {
    const along = new Float32Array(Math.ceil(count / every))
    for (let i = 0; i < along.length; i++) along[i] = positions[i * every * 3 + axis]!
    along.sort()
    longest = Math.max(longest, along[along.length - 1 - outside]! - along[outside]!)
  }
  return longest
}
