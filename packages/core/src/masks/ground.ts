import { nearSurface } from '../scene/distance.ts'
import { inverse, transform, unit, type Vector } from '../math/vector.ts'
import type { Body } from '../scene/body.ts'
import type { MaskContext } from './mask.ts'

/** What a front spreads over, and how far it is from its start. */
export interface Ground {
  body: Body
  /** Vertices in the mesh's own frame and world size, x, y, z each. */
  points: Float32Array
  /** Per vertex. */
  slowness: Float32Array
  /** Metres of way per vertex; Infinity where the front has not come. */
  arrival: Float64Array
  context: MaskContext
}

/** Diagonal of the box around points, metres. */
export function sizeOf(points: Float32Array): number {
  const low = [Infinity, Infinity, Infinity]
  const high = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < points.length; i++) {
    low[i % 3] = Math.min(low[i % 3]!, points[i]!)
    high[i % 3] = Math.max(high[i % 3]!, points[i]!)
  }
  return Math.sqrt(low.reduce((sum, l, axis) => sum + (high[axis]! - l) ** 2, 0))
}

/**
 * A ball's circle on the surface, or the surface point nearest to it where it holds no vertex. Vertices of
 * triangles that the ball meets get their distance from its centre. Returns the way at the circle.
 */
export function startAtBall(ground: Ground, centre: Vector, radius: number): number {
  const { body, points, slowness, arrival, context } = ground
  const { mesh } = body
  const middle = inOwnSize(body, centre, context)
  const distanceTo = (c: Vector, v: number): number => {
    const [x, y, z] = [0, 1, 2].map((axis) => points[v * 3 + axis]! - c[axis]!) as Vector
    return Math.sqrt(x * x + y * y + z * z)
  }
  const start = (v: number, distance: number, free = radius): void => {
    const at = distance <= free ? distance : free + (distance - free) * slowness[v]!
    arrival[v] = Math.min(arrival[v]!, at)
  }
  let met = false
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const corners = [0, 1, 2].map((k) => mesh.triangles[t + k]!)
    const distances = corners.map((v) => distanceTo(middle, v))
    if (Math.min(...distances) > radius) continue
    met = true
    corners.forEach((v, k) => start(v, distances[k]!))
  }
  if (met) return radius
  const { machine, first } = context
  const { heap } = machine
  const query = heap.allocate(12)
  heap.f32(query, 3).set(centre)
  const near = nearSurface(machine, body, first, query, 1, false)
  const triangle = heap.u32(near.triangle, 1)[0]!
  near.free()
  heap.free(query)
  const foot = footOn(points, mesh.triangles, triangle, middle)
  for (let k = 0; k < 3; k++) {
    const v = mesh.triangles[triangle * 3 + k]!
    start(v, distanceTo(foot, v), 0)
  }
  return 0
}

/** A world point at the first frame, in the mesh's own frame and world size. */
function inOwnSize(body: Body, point: Vector, { first }: MaskContext): Vector {
  const size = body.sizeAt(first)
  const local = transform(inverse(body.placeAt(first)), point)
  return local.map((x, axis) => x * size[axis]!) as Vector
}

/** The point of a triangle's plane below a point; near enough for where a front starts. */
function footOn(points: Float32Array, triangles: Uint32Array, t: number, p: Vector): Vector {
  const at = (k: number): Vector => {
    const v = triangles[t * 3 + k]! * 3
    return [points[v]!, points[v + 1]!, points[v + 2]!]
  }
  const a = at(0)
  const n = unit(normalOf(a, at(1), at(2)))
  const height = n[0] * (p[0] - a[0]) + n[1] * (p[1] - a[1]) + n[2] * (p[2] - a[2])
  return [p[0] - n[0] * height, p[1] - n[1] * height, p[2] - n[2] * height]
}
const normalOf = (a: Vector, b: Vector, c: Vector): Vector => {
  const [u, v] = [b, c].map((q) => [q[0] - a[0], q[1] - a[1], q[2] - a[2]]) as [Vector, Vector]
  return [u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]]
}

/** Behind the plane all is reached; in triangles that it cuts, the way is measured within the triangle. */
export function startAtPlane(
  { body, points, slowness, arrival, context }: Ground,
  { plane, normal }: { plane: Vector; normal: Vector },
  far: number,
): void {
  const { mesh } = body
  const middle = inOwnSize(body, plane, context)
  const ahead = inOwnSize(body, plane.map((x, axis) => x + unit(normal)[axis]!) as Vector, context)
  const n = unit(ahead.map((x, axis) => x - middle[axis]!) as Vector)
  const height = (v: number): number =>
    n.reduce((sum, component, axis) => sum + component * (points[v * 3 + axis]! - middle[axis]!), 0)
  for (let t = 0; t < mesh.triangles.length; t += 3) {
    const corners = [0, 1, 2].map((k) => mesh.triangles[t + k]!)
    const heights = corners.map(height)
    if (Math.min(...heights) > 0) continue
    const at = (k: number): Vector => [0, 1, 2].map((axis) => points[corners[k]! * 3 + axis]!) as Vector
    const facing = unit(normalOf(at(0), at(1), at(2)))
    const along = n[0] * facing[0] + n[1] * facing[1] + n[2] * facing[2]
    const slope = Math.sqrt(Math.max(1e-6, 1 - along * along))
    corners.forEach((v, k) => {
      const way = Math.max(0, heights[k]! / slope) * slowness[v]!
      arrival[v] = Math.min(arrival[v]!, far + way)
    })
  }
}
