import type { CachedFrame } from '../frames/cachedFrame.ts'

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
