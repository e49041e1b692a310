import type { CachedFrame } from '../frames/cachedFrame.ts'
import type { Frames } from './kind.ts'

/** The frames of a take in reverse: the last one first, velocities turned round. */
export const backward = ({ first, last, read }: Frames): Frames => ({
  first,
  last,
  read: async (frame) => turnedRound(await read(first + last - frame), frame),
})

/** A frame under another number, as it looks while time runs back. */
export const turnedRound = ({ populations, meshes }: CachedFrame, frame: number): CachedFrame => ({
  frame,
  meshes,
  populations: populations.map((population) => {
    const { velocity } = population.columns
    if (!velocity) return population
    return { ...population, columns: { ...population.columns, velocity: velocity.map((v) => -v) } }
  }),
})
