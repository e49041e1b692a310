import type { Parameters } from '@tangle/core'

/**
 * Values that go by the size of a shot, each number brought into the range of its parameter: a mesh may be smaller than
 * the finest noise.
 */
export const within = <V extends Record<string, unknown>>(parameters: Parameters, values: V): V =>
  Object.fromEntries(
    Object.entries(values).map(([name, value]) => {
      const parameter = parameters[name]
      if (typeof value !== 'number' || parameter?.type !== 'number') return [name, value]
      const [low, high] = parameter.range
      return [name, Math.min(Math.max(value, low), high)]
    }),
  ) as V
