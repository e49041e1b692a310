import { mix, smooth } from '../math/functions.ts'
import type { Vector } from '../math/vector.ts'
import type { Ease, Key, Keyed, Parameters, ValuesOf } from './parameters.ts'

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

/** Value at a frame (fractions allowed). Before the first key and after the last it holds. */
export function valueAt(keyed: Keyed, frame: number): number {
  if (typeof keyed === 'number') return keyed
  const { keys } = keyed
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
  const cuts = [from, ...keyed.keys.map((key) => key[0]).filter((at) => at > from && at < to), to]
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

/** A curve by its points, at x. */
export const curveAt = (curve: Key[], x: number): number => valueAt({ keys: curve }, x)

export const vectorAt = (keyed: readonly Keyed[], frame: number): Vector => [
  valueAt(keyed[0]!, frame),
  valueAt(keyed[1]!, frame),
  valueAt(keyed[2]!, frame),
]

export const isKeyed = (value: unknown): value is { keys: Key[] } =>
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
