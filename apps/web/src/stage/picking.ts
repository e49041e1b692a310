import { fromHalf } from '@tangle/core'
import type { PackedPopulation } from '@tangle/runtime/browser'
import { Vector3, type Camera } from 'three'

/** Farthest from the pointer that the rim of a particle may be, in pixels. */
const REACH = 9

export interface Picked {
  population: string
  id: number
}

/** The particle nearest to a place on the canvas; of those that are there or close, the one in front. */
export function pickParticle(
  populations: PackedPopulation[],
  camera: Camera,
  at: { x: number; y: number },
  size: { width: number; height: number },
): Picked | null {
  const point = new Vector3()
  const across = new Vector3().setFromMatrixColumn(camera.matrixWorld, 0)
  const rim = new Vector3()
  let best: (Picked & { score: number }) | null = null
  for (const { id: population, ids, positions, values, count } of populations) {
    for (let i = 0; i < count; i++) {
      point.fromArray(positions, i * 3)
      rim
        .copy(point)
        .addScaledVector(across, fromHalf(values[i * 4]!))
        .project(camera)
      point.project(camera)
      if (point.z < -1 || point.z > 1) continue
      const x = ((point.x + 1) / 2) * size.width - at.x
      const y = ((1 - point.y) / 2) * size.height - at.y
      const wide = (Math.abs(rim.x - point.x) / 2) * size.width
      const away = Math.hypot(x, y)
      if (away > wide + REACH) continue
      // how far in front counts most, then how near to its middle
      const score = Math.max(0, away - wide) + point.z * 40 + away / 1000
      if (!best || score < best.score) best = { population, id: ids[i]!, score }
    }
  }
  return best && { population: best.population, id: best.id }
}
