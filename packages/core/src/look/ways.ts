import type { TrailFrame } from './trails.ts'

/**
 * How far each particle came in the frame before, x, y, z in metres; whoever was not there yet goes on as it will in
 * the frame after, and who is seen in neither stands still. Ids rise in every frame.
 */
export function stepsOf(now: TrailFrame, before?: TrailFrame, after?: TrailFrame): Float32Array {
  const steps = new Float32Array(now.ids.length * 3)
  const known = new Uint8Array(now.ids.length)
  for (const [other, sign] of [
    [before, 1],
    [after, -1],
  ] as const) {
    // prettier-ignore
    if (!other) continue
    for (let i = 0, k = 0; i < known.length; i++) {
      while (k < other.ids.length && other.ids[k]! < now.ids[i]!) k++
      if (known[i] || other.ids[k] !== now.ids[i]) continue
      known[i] = 1
      for (let axis = 0; axis < 3; axis++)
        steps[i * 3 + axis] = sign * (now.positions[i * 3 + axis]! - other.positions[k * 3 + axis]!)
    }
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
  const [steps, share] =
    frames < 0 ? [stepsOf(now, before, after), frames] : [stepsOf(now, after, before), -frames]
  return steps.map((step, k) => now.positions[k]! + share * step)
}

/** How far each particle is from where it is in another frame, metres; Infinity for who is not there. */
export function distancesApart(now: TrailFrame, other: TrailFrame): Float32Array {
  const apart = new Float32Array(now.ids.length).fill(Infinity)
  for (let i = 0, k = 0; i < apart.length; i++) {
    while (k < other.ids.length && other.ids[k]! < now.ids[i]!) k++
    if (other.ids[k] !== now.ids[i]) continue
    let squared = 0
    for (let axis = 0; axis < 3; axis++)
      squared += (now.positions[i * 3 + axis]! - other.positions[k * 3 + axis]!) ** 2
    apart[i] = Math.sqrt(squared)
  }
  return apart
}
