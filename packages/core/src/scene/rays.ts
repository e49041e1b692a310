import type { Machine } from '@tangle/kernels'
import { nameTriangles } from '../geometry/tree.ts'
import type { Body } from './body.ts'
import { weightsOfNear } from './surfaceProjection.ts'

/** What rays meet first. */
export interface RayHits {
  /** Share of each ray at which it meets the body; 2: it does not. */
  shares: Float32Array
  /** Triangle of the mesh, and the weights of its second and third corner at the place, two each. */
  triangles: Uint32Array
  weights: Float32Array
}

/** Rays from somewhere in the world (x, y, z each, m) to as far as each reaches (m), each at a frame of its own. */
export interface Rays {
  origins: Float32Array
  ways: Float32Array
  frames: Float64Array
}

/**
 * Where rays first meet a body, from either side. A body that keeps its shape stands where it is at the frame of each ray; of others the surface is that
 * of `frame`.
 */
export function castRays(
  machine: Machine,
  body: Body,
  frame: number,
  { origins, ways, frames }: Rays,
): RayHits {
  const { heap } = machine
  const count = frames.length
  // a set of points has nothing to be met
  if (body.mesh.triangles.length === 0) return { shares: new Float32Array(count).fill(2), triangles: new Uint32Array(count), weights: new Float32Array(count * 2) } // prettier-ignore
  const blocks = [12, 12, 4, 4, 12].map((bytes) => heap.allocate(Math.max(1, count) * bytes))
  const [from, way, share, triangle, point] = blocks as [number, number, number, number, number]
  const [starts, steps] = [heap.f32(from, count * 3), heap.f32(way, count * 3)]
  const { tree, into: fixed } = body.treeAt(frame)
  for (let k = 0; k < count; k++) {
    // into the frame of the tree, where the body keeps its shape
    const into = fixed && body.moves ? body.treeAt(frames[k]!).into : fixed
    for (let row = 0; row < 3; row++) {
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
  }
  machine.run('castRays', count, {
    origins: from,
    ways: way,
    quads: tree.quads,
    vertices: tree.vertices,
    stack: tree.stack,
    outShare: share,
    outTriangle: triangle,
  })
  nameTriangles(machine, tree, triangle, count)
  const shares = heap.f32(share, count).slice()
  const met = heap.f32(point, count * 3)
  for (let i = 0; i < count * 3; i++)
    met[i] = starts[i]! + steps[i]! * Math.min(1, shares[Math.floor(i / 3)]!)
  const weights = weightsOfNear(machine, body, frame, { triangle, point }, count)
  const hits = {
    shares,
    triangles: heap.u32(triangle, count).slice(),
    weights: heap.f32(weights, count * 2).slice(),
  }
  for (const block of [...blocks, weights]) heap.free(block)
  return hits
}
