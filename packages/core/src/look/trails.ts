import type { Trail } from '../shot/types.ts'

/** What trails read of a frame: who is where, ids in rising order. */
export interface TrailFrame {
  ids: ArrayLike<number>
  /** x, y, z in metres. */
  positions: ArrayLike<number>
}

/** Lines, one for each particle that has come some way. */
export interface Trails {
  /** Place of each line's particle in the frame. */
  particles: Uint32Array
  /** Points of each line. */
  counts: Uint32Array
  /** x, y, z of the points of all lines, from the particle backward. */
  points: Float32Array
  /** Of each point: 0 at the particle, 1 where the trail ends. */
  along: Float32Array
}

/** Length of a trail in frames. */
export const trailFrames = ({ length, unit }: Trail, rate: number): number =>
  Math.max(1, Math.round(unit === 'seconds' ? length * rate : length))

/** The frames at which the points of a trail lie: now, and back to every multiple of the step, so that they stay put. */
export function trailTimes(frame: number, length: number, step: number): number[] {
  const times = [frame]
  for (let k = Math.ceil(frame / step) - 1; k * step >= frame - length; k--) times.push(k * step)
  // the far end, so that a trail does not jump in length
  if (times.at(-1)! > frame - length) times.push(frame - length)
  return times
}

/**
 * The trails of a frame from the frames before it; what is not there ends a line.
 * @param at a frame by its number, or undefined where there is none
 */
export function trailsOf(
  frame: number,
  at: (frame: number) => TrailFrame | undefined,
  length: number,
  step: number,
): Trails {
  const now = at(frame)
  const count = now?.ids.length ?? 0
  const times = trailTimes(frame, length, step)
  const before = times.map((time) => ({ part: (frame - time) / length, found: at(time) }))
  const particles: number[] = []
  const counts: number[] = []
  const points: number[] = []
  const along: number[] = []
  for (let i = 0; i < count; i++) {
    const id = now!.ids[i]!
    const first = along.length
    for (const { part, found } of before) {
      const place = found ? placeOf(found.ids, id, i) : -1
      if (place < 0) break
      points.push(
        found!.positions[place * 3]!,
        found!.positions[place * 3 + 1]!,
        found!.positions[place * 3 + 2]!,
      )
      along.push(part)
    }
    if (along.length - first > 1) {
      particles.push(i)
      counts.push(along.length - first)
    } else {
      points.length = first * 3
      along.length = first
    }
  }
  return {
    particles: Uint32Array.from(particles),
    counts: Uint32Array.from(counts),
    points: Float32Array.from(points),
    along: Float32Array.from(along),
  }
}

/** Where an id stands among ids in rising order, or −1; it is looked for at `guess` first. */
function placeOf(ids: ArrayLike<number>, id: number, guess: number): number {
  if (ids[guess] === id) return guess
  let low = 0
  let high = ids.length - 1
  while (low < high) {
    const middle = (low + high) >> 1
    if (ids[middle]! < id) low = middle + 1
    else high = middle
  }
  return ids[low] === id ? low : -1
}
