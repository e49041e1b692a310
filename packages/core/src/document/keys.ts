import { mix, smooth } from '../math/functions.ts'
import type { Vector } from '../math/vector.ts'
import type { Ease, Key, Keyed, Parameters, Repeat, ValuesOf } from './parameters.ts'

/**
 * Shape of an ease at t from 0 to 1: linear t · smooth 3t² − 2t³ · hold 0 · in t² · out 1 − (1 − t)² ·
 * smoother 6t⁵ − 15t⁴ + 10t³ (Perlin, "Improving noise", 2002).
 */
export function eased(ease: Ease, t: number): number {
  switch (ease) {
    case 'linear':
      return t
    case 'smooth':
      return smooth(t)
    case 'hold':
      return 0
    case 'in':
      return t * t
    case 'out':
      return t * (2 - t)
    case 'smoother':
      return t * t * t * (t * (6 * t - 15) + 10)
  }
}

/** Where a curve from `first` to `last` that repeats is asked for x. */
export function repeated(x: number, first: number, last: number, repeat: Repeat): number {
  const span = last - first
  if (x <= last || span <= 0) return x
  const turns = Math.floor((x - first) / span)
  const part = x - first - turns * span
  return first + (repeat === 'swing' && turns % 2 === 1 ? span - part : part)
}

/** Value at a frame (fractions allowed). Before the first key it holds, and after the last where it does not repeat. */
export function valueAt(keyed: Keyed, at: number): number {
  if (typeof keyed === 'number') return keyed
  const { keys, repeat } = keyed
  const frame = repeat ? repeated(at, keys[0]![0], keys.at(-1)![0], repeat) : at
  const after = keys.findIndex((key) => key[0] > frame)
  if (after === 0) return keys[0]![1]
  if (after < 0) return keys.at(-1)![1]
  const [startFrame, startValue, ease = 'linear'] = keys[after - 1]!
  const [endFrame, endValue] = keys[after]!
  const t = (frame - startFrame) / (endFrame - startFrame)
  return mix(startValue, endValue, eased(ease, t))
}

/** ∫ value d(frame) between two frames; exact, as every ease is a polynomial of at most the fifth degree. */
export function integralOf(keyed: Keyed, from: number, to: number): number {
  if (to <= from) return 0
  if (typeof keyed === 'number') return keyed * (to - from)
  const cuts = [from, ...cutsOf(keyed, to).filter((at) => at > from && at < to), to]
  // three points of Gauss and Legendre integrate the fifth degree exactly
  const [near, far] = [8 / 9, 5 / 9]
  const reach = Math.sqrt(3 / 5)
  let sum = 0
  for (let k = 0; k + 1 < cuts.length; k++) {
    const half = (cuts[k + 1]! - cuts[k]!) / 2
    const middle = cuts[k]! + half
    const at = (x: number): number => valueAt(keyed, middle + x * half)
    sum += half * (near * at(0) + far * (at(-reach) + at(reach)))
  }
  return sum
}

/** Frames at which the pieces of a curve meet, up to one. */
function cutsOf({ keys, repeat }: Exclude<Keyed, number>, to: number): number[] {
  const frames = keys.map((key) => key[0])
  const [first, last] = [frames[0]!, frames.at(-1)!]
  const span = last - first
  if (!repeat || span <= 0) return frames
  const times = Math.max(0, Math.ceil((to - last) / span))
  const again = Array.from({ length: times }, (_, n) => {
    const start = last + n * span
    return frames.map((at) => start + (repeat === 'swing' && n % 2 === 0 ? last - at : at - first))
  })
  return [...new Set([...frames, ...again.flat()])].sort((a, b) => a - b)
}

/** A curve by its points, at x. */
export const curveAt = (curve: Key[], x: number): number => valueAt({ keys: curve }, x)

export const vectorAt = (keyed: readonly Keyed[], frame: number): Vector => [
  valueAt(keyed[0]!, frame),
  valueAt(keyed[1]!, frame),
  valueAt(keyed[2]!, frame),
]

export const isKeyed = (value: unknown): value is Exclude<Keyed, number> =>
  typeof value === 'object' && value !== null && 'keys' in value

/** All parameters of a kind at a frame; what the document leaves out has its default. */
export function valuesAt<P extends Parameters>(
  parameters: P,
  written: Record<string, unknown>,
  frame: number,
): ValuesOf<P> {
  const out: Record<string, unknown> = {}
  for (const [name, parameter] of Object.entries(parameters)) {
    const optional = 'absent' in parameter && parameter.absent !== undefined
    const value = written[name] ?? ('default' in parameter && !optional ? parameter.default : undefined)
    if (value === undefined) continue
    if (parameter.type === 'number') out[name] = valueAt(value as Keyed, frame)
    else if (parameter.type === 'vector') out[name] = vectorAt(value as Keyed[], frame)
    else out[name] = value
  }
  return out as ValuesOf<P>
}
