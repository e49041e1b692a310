import type { Machine } from '@tangle/kernels'
import { inverse } from '../math/vector.ts'
import type { Body } from './body.ts'
import { nearSurface, signedNear } from './distance.ts'
import { FAR } from '../geometry/tree.ts'

export interface SurfaceNear {
  /** Pointers: 3 × f32 nearest point in the world, f32 distance in metres, u32 triangle. */
  point: number
  distance: number
  triangle: number
  free(): void
}

/** The surface nearest to points of the world (3 × f32) at a frame, with its points in the world too; `signed` distances are below 0 inside, as `signedNear` tells them. */
export function surfaceNear(
  machine: Machine,
  body: Body,
  frame: number,
  points: number,
  count: number,
  limit?: number,
  signed = false,
): SurfaceNear {
  const { heap } = machine
  const near = signed
    ? signedNear(machine, body, frame, points, count, limit ?? FAR)
    : nearSurface(machine, body, frame, points, count, false, limit)
  const { into } = body.treeAt(frame)
  if (into) {
    const map = heap.allocate(96)
    heap.f64(map, 12).set(inverse(into))
    machine.run('transformPoints', count, { points: near.point, out: near.point, map })
    heap.free(map)
  }
  return near
}

/**
 * Pointer to the weights of the second and third corner (2 × f32 each) of the places that `nearSurface` found on their triangles; to be
 * freed.
 */
export function weightsOfNear(
  machine: Machine,
  body: Body,
  frame: number,
  { triangle, point }: Pick<SurfaceNear, 'triangle' | 'point'>,
  count: number,
): number {
  const out = machine.heap.allocate(count * 8)
  const positions = body.treeAt(frame).into ? body.sizedPointerAt(frame) : body.worldAt(frame)
  machine.run('weightsOnTriangles', count, { triangle, point, positions, triangles: body.triangles(), out })
  return out
}

/** On which triangle of a body points of the world (pointer, 3 × f32) are at a frame, and where on it: nearest places. */
export function projectionWeights(
  machine: Machine,
  body: Body,
  frame: number,
  points: number,
  count: number,
): { triangles: Uint32Array; weights: Float32Array } {
  const { heap } = machine
  const near = nearSurface(machine, body, frame, points, count, false)
  const pointer = weightsOfNear(machine, body, frame, near, count)
  const triangles = heap.u32(near.triangle, count).slice()
  const weights = heap.f32(pointer, count * 2).slice()
  near.free()
  heap.free(pointer)
  return { triangles, weights }
}

export interface SurfaceProjection extends SurfaceNear {
  /** Pointers: 3 × f32 unit normal of the triangle, and velocity of the place in m/s. */
  normal: number
  velocity: number
}

/**
 * Where points stand on a body at one end of a substep (frames `from` to `to`, `h` seconds): the nearest place,
 * its normal and how it moves.
 */
export function projectToSurface(
  machine: Machine,
  body: Body,
  moment: { from: number; to: number; h: number },
  at: 'from' | 'to',
  points: number,
  count: number,
  limit?: number,
): SurfaceProjection {
  const { heap } = machine
  const near = surfaceNear(machine, body, moment[at], points, count, limit)
  const normal = heap.allocate(count * 12)
  const velocity = heap.allocate(count * 12)
  const [here, there] = [body.worldAt(moment[at]), body.worldAt(moment[at === 'from' ? 'to' : 'from'])]
  // the kernel goes from the first vertices to the second, and its normal is of the second
  const seconds = at === 'to' ? moment.h : -moment.h
  const { triangle, point } = near
  machine.run('projectToSurface', count, {
    triangle,
    point,
    from: there,
    to: here,
    triangles: body.outwardTriangles(),
    h: seconds,
    normal,
    surface: velocity,
  })
  return {
    ...near,
    normal,
    velocity,
    free() {
      near.free()
      heap.free(normal)
      heap.free(velocity)
    },
  }
}
