import type { PopulationFrame } from '@tangle/core'
import { toHalf } from './half.ts'

/** What the stage draws of a population: 20 bytes a particle. */
export interface PackedPopulation {
  id: string
  count: number
  /** x, y, z in metres. */
  positions: Float32Array
  /** Half floats: radius (m), age (share of the lifespan, or seconds), speed (m/s), travelled (m). */
  values: Uint16Array
}

/** Copies a frame into buffers of its own, for drawing. */
export function packPopulation({ id, count, columns }: PopulationFrame): PackedPopulation {
  const positions = new Float32Array(count * 3)
  positions.set(columns.position!)
  const values = new Uint16Array(count * 4)
  const { radius, age, lifespan, velocity, travelled } = columns as Record<string, Float32Array>
  for (let i = 0; i < count; i++) {
    const o = i * 3
    const life = lifespan![i]!
    const speed = Math.sqrt(velocity![o]! ** 2 + velocity![o + 1]! ** 2 + velocity![o + 2]! ** 2)
    values[i * 4] = toHalf(radius![i]!)
    values[i * 4 + 1] = toHalf(life === Infinity ? age![i]! : age![i]! / life)
    values[i * 4 + 2] = toHalf(speed)
    values[i * 4 + 3] = travelled ? toHalf(travelled[i]!) : 0
  }
  return { id, count, positions, values }
}

export const packedBytes = (populations: PackedPopulation[]): number =>
  populations.reduce((sum, p) => sum + p.positions.byteLength + p.values.byteLength, 0)
