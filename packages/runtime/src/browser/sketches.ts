/**
 * A sketch: the frame at the playhead from a small share of the particles, so that an edit is seen at once where the frames up to it
 * would take a while. The share follows from what frames cost and from how long the last sketch took.
 */

/** Milliseconds: what is there sooner needs no sketch; what a sketch is to take; what it may take at the most. */
const SOON = 100
const WANTED = 60
export const LONGEST_SKETCH = 300
/** Fewer particles show nothing. */
const LEAST_PARTICLES = 400

export interface Sketches {
  /** Milliseconds that a frame took at the preview's share. */
  took(frame: number, milliseconds: number): void
  /**
   * The part of the preview's particles to compute for a sketch of `frame`; null where none is worth it.
   * @param first of the shot
   * @param from where the computation goes on
   * @param particles at that frame, as far as is known
   */
  partFor(frame: number, first: number, from: number, particles: number): number | null
  /** Milliseconds that a sketch took with a part of the particles, up to a frame; Infinity when it was given up. */
  sketched(frame: number, first: number, part: number, milliseconds: number): void
}

export function createSketches(): Sketches {
  const costs = new Map<number, number>()
  /** Milliseconds a frame that do not go with the particles. */
  let fixed = 0

  const costOf = (from: number, to: number): number => {
    let sum = 0
    for (let frame = from + 1; frame <= to; frame++) sum += costs.get(frame) ?? 0
    return sum
  }
  return {
    took: (frame, milliseconds) => void costs.set(frame, milliseconds),
    partFor(frame, first, from, particles) {
      if (costOf(from, frame) < SOON) return null
      const left = WANTED - fixed * (frame - first)
      const least = LEAST_PARTICLES / Math.max(1, particles)
      const part = Math.min(1, Math.max(least, left / costOf(first, frame)))
      const foreseen = part * costOf(first, frame) + fixed * (frame - first)
      if (part < 0.5 && foreseen < LONGEST_SKETCH) return part
      // some edits later it is tried again
      fixed *= 0.9
      return null
    },
    sketched(frame, first, part, milliseconds) {
      const frames = Math.max(1, frame - first)
      const rest = Math.min(milliseconds, 2 * LONGEST_SKETCH) - part * costOf(first, frame)
      // half-way: one slow moment of the machine is not all there is
      fixed = Math.max(0, (fixed + rest / frames) / 2)
    },
  }
}
