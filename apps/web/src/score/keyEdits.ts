/** What can be done to some of the keys of a curve. All are plain functions; keys stay in order of frames. */
import { isKeyed, type Ease, type Key, type Keyed } from '@tangle/core'

/** A number as keys: one at the first frame. */
export const keysOf = (keyed: Keyed, first: number): Key[] =>
  isKeyed(keyed) ? keyed.keys : [[first, keyed, 'smooth']]

/** Keys as the document writes them, repeated as they were; none left is the value that was. */
export const keyedOf = (keys: Key[], before: Keyed, otherwise: number): Keyed =>
  keys.length > 0 ? { ...(isKeyed(before) ? before : {}), keys } : otherwise

/** Puts keys that were changed among the others: where two share a frame, the changed one stays. */
export function merged(others: Key[], changed: Key[]): Key[] {
  const taken = new Set(changed.map((key) => key[0]))
  const last = new Map(changed.map((key) => [key[0], key]))
  return [...others.filter((key) => !taken.has(key[0])), ...last.values()].sort((a, b) => a[0] - b[0])
}

const split = (keys: Key[], frames: Set<number>): [others: Key[], chosen: Key[]] => [
  keys.filter((key) => !frames.has(key[0])),
  keys.filter((key) => frames.has(key[0])),
]
const clamp = (x: number, [low, high]: [number, number]): number => Math.min(Math.max(x, low), high)

export interface Edited {
  keys: Key[]
  /** Frames of the chosen keys, after the edit. */
  frames: Set<number>
}
function edited(keys: Key[], frames: Set<number>, change: (key: Key, chosen: Key[]) => Key): Edited {
  const [others, chosen] = split(keys, frames)
  const changed = chosen.map((key) => change(key, chosen))
  return { keys: merged(others, changed), frames: new Set(changed.map((key) => key[0])) }
}
const keyAt = (frame: number, value: number, ease: Ease | undefined): Key =>
  ease === undefined ? [frame, value] : [frame, value, ease]

/** Slides the chosen keys in time and value. */
export const slid = (
  keys: Key[],
  frames: Set<number>,
  by: { frames: number; value: number },
  limits: [number, number],
): Edited =>
  edited(keys, frames, ([frame, value, ease]) =>
    keyAt(frame + by.frames, clamp(value + by.value, limits), ease),
  )

/** Stretches the chosen keys in time about the first of them, and in value about 0. */
export const scaled = (
  keys: Key[],
  frames: Set<number>,
  by: { time: number; value: number },
  limits: [number, number],
): Edited =>
  edited(keys, frames, ([frame, value, ease], chosen) =>
    keyAt(
      Math.round((chosen[0]![0] + (frame - chosen[0]![0]) * by.time) * 100) / 100,
      clamp(value * by.value, limits),
      ease,
    ),
  )

/** Turns the chosen keys round in time: the last value first, each ease on the same stretch. */
export function reversed(keys: Key[], frames: Set<number>): Edited {
  const [others, chosen] = split(keys, frames)
  const [first, last] = [chosen[0]?.[0] ?? 0, chosen.at(-1)?.[0] ?? 0]
  const turned = chosen.map(([frame, value], i): Key => {
    // the stretch after this key was the one before it; "in" and "out" change places
    const ease = i > 0 ? chosen[i - 1]![2] : chosen.at(-1)![2]
    return keyAt(first + last - frame, value, ease === 'in' ? 'out' : ease === 'out' ? 'in' : ease)
  })
  return { keys: merged(others, turned), frames: new Set(turned.map((key) => key[0])) }
}

export const eased = (keys: Key[], frames: Set<number>, ease: Ease): Edited =>
  edited(keys, frames, ([frame, value]) => [frame, value, ease])

export function removed(keys: Key[], frames: Set<number>): Edited {
  return { keys: split(keys, frames)[0], frames: new Set() }
}

/** Puts copied keys in, the first of them at a frame. */
export function pasted(keys: Key[], copied: Key[], frame: number, limits: [number, number]): Edited {
  const shift = frame - (copied[0]?.[0] ?? 0)
  const moved = copied.map(([at, value, ease]) => keyAt(at + shift, clamp(value, limits), ease))
  return { keys: merged(keys, moved), frames: new Set(moved.map((key) => key[0])) }
}
