/** Particles from one frame to another: who is where, by ids that rise in every frame. */
import type { TrailFrame } from './trails.ts'

/** Of each id the row in which it is among others, or −1. */
export function rowsAmong(ids: ArrayLike<number>, others: ArrayLike<number>): Int32Array {
  const rows = new Int32Array(ids.length)
  for (let i = 0, k = 0; i < rows.length; i++) {
    while (k < others.length && others[k]! < ids[i]!) k++
    rows[i] = others[k] === ids[i] ? k : -1
  }
  return rows
}

/**
 * How far each particle came in the frame before, x, y, z in metres; whoever was not there yet goes on as it will in
 * the frame after, and who is seen in neither stands still.
 */
export function stepsOf(now: TrailFrame, before?: TrailFrame, after?: TrailFrame): Float32Array {
  const steps = new Float32Array(now.ids.length * 3)
  const past = rowsAmong(now.ids, before?.ids ?? [])
  const next = rowsAmong(now.ids, after?.ids ?? [])
  for (let k = 0; k < steps.length; k++) {
    const [i, axis] = [Math.floor(k / 3), k % 3]
    const [then, later] = [past[i]!, next[i]!]
    if (then >= 0) steps[k] = now.positions[k]! - before!.positions[then * 3 + axis]!
    else if (later >= 0) steps[k] = after!.positions[later * 3 + axis]! - now.positions[k]!
  }
  return steps
}

/** Where each particle is so many frames after this one, x, y, z in metres; below 0: before it. */
export function placesAfter(
  now: TrailFrame,
  frames: number,
  before?: TrailFrame,
  after?: TrailFrame,
): Float32Array {
  // the way to the frame after is that from it, the other way round
  const [steps, share] =
    frames < 0 ? [stepsOf(now, before, after), frames] : [stepsOf(now, after, before), -frames]
  return steps.map((step, k) => now.positions[k]! + share * step)
}

/** How far each particle is from where it is in another frame, metres; Infinity for who is not there. */
export function distancesApart(now: TrailFrame, other: TrailFrame): Float32Array {
  return Float32Array.from(rowsAmong(now.ids, other.ids), (row, i) => {
    if (row < 0) return Infinity
    const along = (axis: number): number => now.positions[i * 3 + axis]! - other.positions[row * 3 + axis]!
    return Math.sqrt(along(0) ** 2 + along(1) ** 2 + along(2) ** 2)
  })
}

/**
 * Unit quaternions a share of the way to those of another frame, the shorter way round and evenly along the chord: frames are near one another.
 * @param there rows of the other frame, as rowsAmong gives them
 * @param one the length of a unit quaternion in numbers that are whole
 */
export function turnsBetween<T extends Float32Array | Int16Array>(
  from: T,
  to: T,
  there: Int32Array,
  share: number,
  one = 1,
): T {
  const out = from.slice() as T
  there.forEach((row, i) => {
    if (row < 0) return
    const [a, b] = [from.subarray(i * 4, i * 4 + 4), to.subarray(row * 4, row * 4 + 4)]
    let along = 0
    for (let k = 0; k < 4; k++) along += a[k]! * b[k]!
    const same = along < 0 ? -1 : 1
    const chord = [0, 1, 2, 3].map((k) => a[k]! + (same * b[k]! - a[k]!) * share)
    const length = Math.sqrt(chord.reduce((sum, x) => sum + x * x, 0)) || 1
    for (let k = 0; k < 4; k++) {
      const x = (one * chord[k]!) / length
      out[i * 4 + k] = one === 1 ? x : Math.round(x)
    }
  })
  return out
}
