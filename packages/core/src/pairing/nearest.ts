import type { Machine } from '@tangle/kernels'
import { buildTree, closestPoints, freeTree } from '../geometry/tree.ts'
import type { PairingTask } from './index.ts'

/** The place nearest to each seeker; several may share one, and some may get nobody. */
export function nearestPlaces(machine: Machine, { seekers, places }: PairingTask): Uint32Array {
  // a place is a triangle whose corners coincide
  const triangles = Uint32Array.from({ length: places.length }, (_, k) => Math.floor(k / 3))
  const tree = buildTree(machine, { positions: places, triangles })
  const found = closestPoints(machine, tree, seekers).triangles
  freeTree(machine.heap, tree)
  return found
}
