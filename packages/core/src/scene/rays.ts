import type { Machine } from '@tangle/kernels'
import { nameTriangles } from '../geometry/tree.ts'
import type { Body } from './body.ts'

/** What rays meet first. */
export interface RayHits {
  /** Share of each ray at which it meets the body; 2: it does not. */
  shares: Float32Array
  /** Triangle of the mesh. */
  triangles: Uint32Array
}

/**
 * Where rays first meet a body at a frame, from either side.
 * @param origins x, y, z each, in the world, m
 * @param ways from there to as far as each reaches, m
 */
export function castRays(
  machine: Machine,
  body: Body,
  frame: number,
  origins: Float32Array,
  ways: Float32Array,
): RayHits {
  const { heap } = machine
  const count = origins.length / 3
  const { tree, into } = body.treeAt(frame)
  const blocks = [12, 12, 4, 4].map((bytes) => heap.allocate(Math.max(1, count) * bytes))
  const [from, way, share, triangle] = blocks as [number, number, number, number]
  const [starts, steps] = [heap.f32(from, count * 3), heap.f32(way, count * 3)]
  for (let k = 0; k < count; k++)
    for (let row = 0; row < 3; row++) {
      // into the frame of the tree, where the body keeps its shape
      const at = (of: Float32Array, shift: number): number =>
        into
          ? into[row * 4]! * of[k * 3]! +
            into[row * 4 + 1]! * of[k * 3 + 1]! +
            into[row * 4 + 2]! * of[k * 3 + 2]! +
            shift * into[row * 4 + 3]!
          : of[k * 3 + row]!
      starts[k * 3 + row] = at(origins, 1)
      steps[k * 3 + row] = at(ways, 0)
    }
  const { quads, vertices, stack } = tree
  machine.run('castRays', count, {
    origins: from,
    ways: way,
    quads,
    vertices,
    stack,
    outShare: share,
    outTriangle: triangle,
  })
  nameTriangles(machine, tree, triangle, count)
  const hits = { shares: heap.f32(share, count).slice(), triangles: heap.u32(triangle, count).slice() }
  for (const block of blocks) heap.free(block)
  return hits
}
