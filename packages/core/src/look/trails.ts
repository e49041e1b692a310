import type { Trail } from '../document/types.ts'

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
  const before = trailTimes(frame, length, step).map((time) => ({
    part: (frame - time) / length,
    found: at(time),
    // ids rise in every frame: each is gone through once
    place: 0,
  }))
  const particles = new Uint32Array(count)
  const counts = new Uint32Array(count)
  const points = new Float32Array(count * before.length * 3)
  const along = new Float32Array(count * before.length)
  let lines = 0
  let point = 0
  for (let i = 0; i < count; i++) {
    const id = now!.ids[i]!
    const first = point
    for (const one of before) {
      const { found } = one
      if (!found) break
      while (one.place < found.ids.length && found.ids[one.place]! < id) one.place++
      if (found.ids[one.place] !== id) break
      const from = one.place * 3
      points[point * 3] = found.positions[from]!
      points[point * 3 + 1] = found.positions[from + 1]!
      points[point * 3 + 2] = found.positions[from + 2]!
      along[point++] = one.part
    }
    if (point - first > 1) {
      particles[lines] = i
      counts[lines++] = point - first
    } else point = first
  }
  return {
    particles: particles.subarray(0, lines),
    counts: counts.subarray(0, lines),
    points: points.subarray(0, point * 3),
    along: along.subarray(0, point),
  }
}
