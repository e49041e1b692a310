import { isKeyed, valueAt, type Key, type Keyed } from '@tangle/core'

/** The value with `value` at a frame: a plain number stays plain, keys get or change a key. */
export function withValueAt(keyed: Keyed, frame: number, value: number): Keyed {
  return isKeyed(keyed) ? withKey(keyed, frame, value) : value
}

/** Adds a key at a frame, or takes away the one that is there; the last key leaves a plain number. */
export function keyToggled(keyed: Keyed, frame: number): Keyed {
  if (!isKeyed(keyed)) return { keys: [[frame, keyed, 'smooth']] }
  if (!hasKey(keyed, frame)) return withKey(keyed, frame, valueAt(keyed, frame))
  const keys = keyed.keys.filter((key) => key[0] !== frame)
  return keys.length > 0 ? { keys } : valueAt(keyed, frame)
}

export const hasKey = (keyed: Keyed, frame: number): boolean =>
  isKeyed(keyed) && keyed.keys.some((key) => key[0] === frame)

function withKey(keyed: { keys: Key[] }, frame: number, value: number): Keyed {
  const before = keyed.keys.find((key) => key[0] === frame)
  const key: Key = [frame, value, before?.[2] ?? 'smooth']
  return { keys: [...keyed.keys.filter((k) => k[0] !== frame), key].sort((a, b) => a[0] - b[0]) }
}
