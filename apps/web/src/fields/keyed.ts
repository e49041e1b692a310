import { isKeyed, repeated, valueAt, type Key, type Keyed } from '@tangle/core'

/** The value with `value` at a frame: a plain number stays plain, keys get or change a key. */
export function withValueAt(keyed: Keyed, frame: number, value: number): Keyed {
  return isKeyed(keyed) ? withKey(keyed, frame, value) : value
}

/** Adds a key at a frame, or takes away the one that is there; the last key leaves a plain number. */
export function keyToggled(keyed: Keyed, frame: number): Keyed {
  if (!isKeyed(keyed)) return { keys: [[frame, keyed, 'smooth']] }
  if (!hasKey(keyed, frame)) return withKey(keyed, frame, valueAt(keyed, frame))
  const keys = keyed.keys.filter((key) => key[0] !== frame)
  return keys.length > 0 ? { ...keyed, keys } : valueAt(keyed, frame)
}

export const hasKey = (keyed: Keyed, frame: number): boolean =>
  isKeyed(keyed) && keyed.keys.some((key) => key[0] === frame)

function withKey(keyed: Exclude<Keyed, number>, at: number, value: number): Keyed {
  // where keys repeat the one is meant that is seen there
  const { keys, repeat } = keyed
  const frame = repeat ? Math.round(repeated(at, keys[0]![0], keys.at(-1)![0], repeat)) : at
  const before = keys.find((key) => key[0] === frame)
  const key: Key = [frame, value, before?.[2] ?? 'smooth']
  return { ...keyed, keys: [...keys.filter((k) => k[0] !== frame), key].sort((a, b) => a[0] - b[0]) }
}
