/** The same shot at other frames: its range, and with it keys, births and whatever else names a frame. */
import { CUES, MASKS } from '../registry.ts'
import type { Keyed, Parameters } from '../document/parameters.ts'
import type { Shot } from '../document/types.ts'

type Loose = Record<string, unknown>

/** A shot so many frames later. Lengths of time stay as they are. */
export function renumbered(shot: Shot, by: number): Shot {
  const later = keysLater(shot, by) as Shot
  const { first, last } = later.frames
  return {
    ...later,
    frames: { ...later.frames, first: first + by, last: last + by },
    masks: later.masks.map((mask) => momentsLater(mask, kindOf(MASKS, mask.kind), by)),
    populations: later.populations.map((population) => ({
      ...population,
      births: population.births.map((birth) => ({ ...birth, amount: amountLater(birth.amount, by) })),
      cues: population.cues.map((cue) => ({
        ...cue,
        when: momentsLater(cue.when, kindOf(CUES, cue.when.kind), by),
      })),
    })),
  }
}

const kindOf = (kinds: { kind: string; parameters: Parameters }[], kind: string): Parameters =>
  kinds.find((one) => one.kind === kind)!.parameters

/** All keys in a value, wherever they are. */
function keysLater(value: unknown, by: number): unknown {
  if (Array.isArray(value)) return value.map((one) => keysLater(one, by))
  if (typeof value !== 'object' || value === null) return value
  const { keys } = value as { keys?: [number, ...unknown[]][] }
  if (Array.isArray(keys)) return { ...value, keys: keys.map(([frame, ...rest]) => [frame + by, ...rest]) }
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, keysLater(one, by)]))
}

/** Values that are frames themselves. */
function momentsLater<T extends object>(values: T, parameters: Parameters, by: number): T {
  const moments: Loose = {}
  for (const [name, parameter] of Object.entries(parameters)) {
    const value = (values as Loose)[name] as Keyed | undefined
    if (parameter.type !== 'number' || !parameter.moment || value === undefined) continue
    moments[name] =
      typeof value === 'number'
        ? value + by
        : { ...value, keys: value.keys.map(([frame, at, ...ease]) => [frame, at + by, ...ease]) }
  }
  return { ...values, ...moments }
}

/** Bursts happen at a frame, and the rest between two. */
const amountLater = <T extends object>(amount: T, by: number): T =>
  Object.fromEntries(
    Object.entries(amount).map(([key, value]) => [
      key,
      ['at', 'from', 'to'].includes(key) ? (value as number) + by : value,
    ]),
  ) as T
