import { layouts, type Machine } from '@tangle/kernels'
import type { Body } from './body.ts'
import { FAR, nameTriangles, windingNumbers } from '../geometry/tree.ts'

export interface Near {
  /** Pointers: f32 distance in metres, u32 triangle (of the mesh), 3 × f32 point in the tree's frame. */
  distance: number
  triangle: number
  point: number
  free(): void
}

/**
 * The surface nearest to points of the world (3 × f32), at a frame. With `signed` the distance is negative
 * inside: where the mesh winds around a point by more than half (Barill et al. 2018), so that open scans
 * have an inside too. Beyond `limit` metres the distance is 1e30 (signed all the same).
 */
export function nearSurface(
  machine: Machine,
  body: Body,
  frame: number,
  points: number,
  count: number,
  signed: boolean,
  limit = FAR,
): Near {
  const { heap } = machine
  const { tree, into } = body.treeAt(frame)
  const owned: number[] = []
  const block = (bytes: number): number => {
    const pointer = heap.allocate(bytes)
    owned.push(pointer)
    return pointer
  }
  let queries = points
  if (into) {
    const map = block(96)
    heap.f64(map, 12).set(into)
    queries = block(count * 12)
    machine.run('transformPoints', count, { points, out: queries, map })
  }
  const near = { point: block(count * 12), distance: block(count * 4), triangle: block(count * 4) }
  const { quads, vertices, stack } = tree
  machine.run('closestPoints', count, {
    queries,
    quads,
    vertices,
    stack,
    outPoint: near.point,
    outDistance: near.distance,
    outTriangle: near.triangle,
    limit,
  })
  if (signed) {
    const { openEdges, crowdedEdges } = body.facts
    if (openEdges + crowdedEdges > 0) {
      const positions = heap.f32(queries, count * 3)
      const distance = heap.f32(near.distance, count)
      windingNumbers(machine, tree, positions).forEach((w, i) => {
        if (w > 0.5) distance[i] = -distance[i]!
      })
    } else {
      const { dipoles } = tree
      const sides = { count, queries, distance: near.distance, limit, quads, vertices, dipoles, stack }
      machine.run('signDistances', Math.ceil(count / layouts.SIDE_GROUP), sides)
    }
  }
  nameTriangles(machine, tree, near.triangle, count)
  return { ...near, free: () => owned.forEach((pointer) => heap.free(pointer)) }
}

/**
 * How far to look for a surface where distances matter up to `reach`, metres, and beyond it only sides do: an eighth of
 * the body at least, for sides follow from distances.
 */
export function signLimit(body: Body, frame: number, reach: number): number {
  const { low, high } = body.facts
  const size = body.sizeAt(frame)
  const squared = low.reduce((sum, x, axis) => sum + ((high[axis]! - x) * size[axis]!) ** 2, 0)
  return Math.max(reach * 1.001 + 1e-6, Math.sqrt(squared) / 8)
}
