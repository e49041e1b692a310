import type { Machine } from '@tangle/kernels'
import type { Body } from '../solver/bodies.ts'

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
 * have an inside too.
 */
export function nearSurface(
  machine: Machine,
  body: Body,
  frame: number,
  points: number,
  count: number,
  signed: boolean,
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
    machine.run('transformPoints', count, points, queries, map)
  }
  const near = { point: block(count * 12), distance: block(count * 4), triangle: block(count * 4) }
  const { bounds, links, vertices, dipoles, stack } = tree
  machine.run(
    'closestPoints',
    count,
    queries,
    bounds,
    links,
    vertices,
    stack,
    near.point,
    near.distance,
    near.triangle,
  )
  if (signed) {
    const winding = block(count * 4)
    machine.run('windingNumbers', count, queries, links, vertices, dipoles, stack, winding)
    const inside = heap.f32(winding, count)
    const distance = heap.f32(near.distance, count)
    for (let i = 0; i < count; i++) if (inside[i]! > 0.5) distance[i] = -distance[i]!
  }
  const triangle = heap.u32(near.triangle, count)
  for (let i = 0; i < count; i++) triangle[i] = tree.order[triangle[i]!]!
  return { ...near, free: () => owned.forEach((pointer) => heap.free(pointer)) }
}
