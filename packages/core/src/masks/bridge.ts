import { march } from '../geometry/march.ts'
import { buildTree, closestPoints, freeTree } from '../geometry/tree.ts'
import { sizeOf, type Ground } from './ground.ts'

/** Share of the mesh's size within which pieces count as equally near. */
const GAP = 0.02

/**
 * Lets the front jump to pieces that it cannot reach, straight across the gap: the nearest pieces first, as
 * farther ones may be reached from them.
 */
export function bridge({ body, points, slowness, arrival, context: { machine } }: Ground): void {
  const { triangles } = body.mesh
  const near = GAP * sizeOf(points)
  for (;;) {
    const reached = triangles.filter((_, k) => arrival[triangles[k - (k % 3)]!]! < Infinity)
    // vertices that touch no triangle are never reached and need not be
    const missing = [...new Set(triangles)].filter((v) => arrival[v] === Infinity)
    if (missing.length === 0 || reached.length === 0) return
    const tree = buildTree(machine, { positions: points, triangles: reached })
    const queries = Float32Array.from(missing.flatMap((v) => [0, 1, 2].map((axis) => points[v * 3 + axis]!)))
    const closest = closestPoints(machine, tree, queries)
    freeTree(machine.heap, tree)
    const reach = Math.max(
      near,
      closest.distances.reduce((a, b) => (a < b ? a : b)),
    )
    const starts: number[] = []
    missing.forEach((v, i) => {
      // only what lies at the gap is jumped to: the rest is reached over the surface
      if (closest.distances[i]! > reach) return
      const corners = [0, 1, 2].map((k) => reached[closest.triangles[i]! * 3 + k]!)
      const there = Math.min(...corners.map((w) => arrival[w]! + edge(points, w, closest.points, i)))
      arrival[v] = there + closest.distances[i]! * slowness[v]!
      starts.push(v)
    })
    march(body.mesh, points, slowness, arrival, starts)
  }
}

function edge(points: Float32Array, v: number, near: Float32Array, i: number): number {
  let squared = 0
  for (let axis = 0; axis < 3; axis++) squared += (points[v * 3 + axis]! - near[i * 3 + axis]!) ** 2
  return Math.sqrt(squared)
}
