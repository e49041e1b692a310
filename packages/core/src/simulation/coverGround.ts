/** The ground of a cover in the heap, for the kernels of covers.ts. */
import type { Heap } from '@tangle/kernels'
import type { Ground } from '../geometry/ground.ts'

export interface CoverGround {
  /** Pointers, as the kernels take them: pairs of vertices and how many, how far apart they are, area around each vertex. */
  edges: { count: number; pairs: number; apart: number; area: number }
  /** Pointer to i32 per triangle: 1 where something may lie on it. */
  onGround: number
  /** Pointers to scratch per vertex: i32; and f64 metres, two of them. */
  steep: number
  fresh: number
  added: number
  vertices: number
  free(): void
}

export function createCoverGround(heap: Heap, ground: Ground, triangles: Uint32Array): CoverGround {
  const vertices = ground.area.length
  const count = ground.apart.length
  const owned: number[] = []
  const block = (bytes: number): number => {
    const pointer = heap.allocate(bytes)
    owned.push(pointer)
    return pointer
  }
  const edges = { count, pairs: block(count * 8), apart: block(count * 8), area: block(vertices * 8) }
  heap.u32(edges.pairs, count * 2).set(ground.edges)
  heap.f64(edges.apart, count).set(ground.apart)
  heap.f64(edges.area, vertices).set(ground.area)
  const onGround = block((triangles.length / 3) * 4)
  const flags = heap.u32(onGround, triangles.length / 3).fill(0)
  for (const t of ground.faces)
    if ([0, 1, 2].every((c) => ground.area[triangles[t + c]!]! > 0)) flags[t / 3] = 1
  return {
    edges,
    onGround,
    steep: block(vertices * 4),
    fresh: block(vertices * 8),
    added: block(vertices * 8),
    vertices,
    free: () => owned.forEach((pointer) => heap.free(pointer)),
  }
}
