import type { CachedFrame } from '../frames/cachedFrame.ts'

/** A frame under another number, as it looks while time runs back. */
export const turnedRound = ({ populations, meshes }: CachedFrame, frame: number): CachedFrame => ({
  frame,
  meshes: meshes.map((one) => (one.velocities ? { ...one, velocities: one.velocities.map((v) => -v) } : one)),
  populations: populations.map((population) => {
    const { velocity, angularVelocity } = population.columns
    return {
      ...population,
      columns: {
        ...population.columns,
        ...(velocity ? { velocity: velocity.map((v) => -v) } : {}),
        ...(angularVelocity ? { angularVelocity: angularVelocity.map((w) => -w) } : {}),
      },
    }
  }),
})
