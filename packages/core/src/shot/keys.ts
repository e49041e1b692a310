import { mix, smooth } from '../math/functions.ts'
import type { Vector } from '../math/vector.ts'
import type { Key, Keyed, Parameters, ValuesOf } from './parameters.ts'

/**
 * Value at a frame (fractions allowed). Before the first key and after the last it holds. Eases:
 * linear t, smooth 3t² − 2t³, hold 0.
 */
export function valueAt(keyed: Keyed, frame: number): number {
  if (typeof keyed === 'number') return keyed
  const { keys } = keyed
  const after = keys.findIndex((key) => key[0] > frame)
  if (after === 0) return keys[0]![1]
  if (after < 0) return keys.at(-1)![1]
  const [startFrame, startValue, ease = 'linear'] = keys[after - 1]!
  const [endFrame, endValue] = keys[after]!
  const t = (frame - startFrame) / (endFrame - startFrame)
  if (ease === 'hold') return startValue
  return mix(startValue, endValue, ease === 'smooth' ? smooth(t) : t)
}

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
    const value = written[name] ?? ('default' in parameter ? parameter.default : undefined)
    if (parameter.type === 'number') out[name] = valueAt(value as Keyed, frame)
    else if (parameter.type === 'vector') out[name] = vectorAt(value as Keyed[], frame)
    else out[name] = value
  }
  return out as ValuesOf<P>
}
