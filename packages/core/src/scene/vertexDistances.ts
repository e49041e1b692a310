import type { Machine } from '@tangle/kernels'
import { FAR } from '../geometry/tree.ts'
import type { Body } from './body.ts'
import { nearSurface } from './distance.ts'

/** Rounding of places in f32, as a part of the farthest coordinate. */
const ROUNDING = 1e-6

/**
 * Signed distances from the vertices of a body to the surface of another, moment after moment. From one moment to the next a
 * distance changes by no more than the farthest vertices of the two move, so who is far keeps its side without being asked: of a
 * mesh that a fog creeps over, only the vertices near its edge are.
 */
export interface VertexDistances {
  /**
   * Writes the distances at a frame (f32, metres): found where they may be `needed` or less, else FAR with their sign.
   * They are looked for up to `limit`, which is more than `needed`.
   */
  write(frame: number, needed: number, limit: number, out: number): void
}

const known = new WeakMap<Body, WeakMap<Body, VertexDistances>>()

/** The distances of a body's vertices to another body, kept as long as both are. `other` must be closed: sides of an open mesh change in mid-air. */
export function vertexDistances(machine: Machine, body: Body, other: Body): VertexDistances {
  const ofBody = known.get(body) ?? new WeakMap<Body, VertexDistances>()
  known.set(body, ofBody)
  const found = ofBody.get(other) ?? createVertexDistances(machine, body, other)
  ofBody.set(other, found)
  return found
}

function createVertexDistances(machine: Machine, body: Body, other: Body): VertexDistances {
  const { heap } = machine
  const count = body.mesh.positions.length / 3
  /** +1 outside, −1 inside, when last asked. */
  const side = new Int8Array(count)
  /** The distance when last asked, and how far both had gone until then, summed: a bound of the distance is this less what they have gone. */
  const reach = new Float64Array(count).fill(-Infinity)
  let gone = 0
  let last: number | undefined

  function ask(asked: Uint32Array, frame: number, limit: number, out: Float32Array, rounding: number): void {
    const world = body.worldView(frame)
    const points = heap.allocate(asked.length * 12)
    const places = heap.f32(points, asked.length * 3)
    asked.forEach((v, k) => {
      for (let axis = 0; axis < 3; axis++) places[k * 3 + axis] = world[v * 3 + axis]!
    })
    const near = nearSurface(machine, other, frame, points, asked.length, true, limit)
    const distances = heap.f32(near.distance, asked.length)
    asked.forEach((v, k) => {
      const distance = distances[k]!
      out[v] = distance
      side[v] = distance < 0 ? -1 : 1
      reach[v] = Math.min(Math.abs(distance), limit) + gone - rounding
    })
    near.free()
    heap.free(points)
  }

  return {
    write(frame, needed, limit, out) {
      if (last !== undefined && last !== frame) gone += body.swing(last, frame) + other.swing(last, frame)
      last = frame
      const rounding = ROUNDING * farthestCoordinate(body.worldView(frame))
      const least = needed + rounding + gone
      const distances = heap.f32(out, count)
      const asked = new Uint32Array(count)
      let n = 0
      for (let v = 0; v < count; v++) {
        if (reach[v]! > least) distances[v] = side[v]! * FAR
        else asked[n++] = v
      }
      if (n > 0) ask(asked.subarray(0, n), frame, limit, distances, rounding)
    },
  }
}

function farthestCoordinate(points: Float32Array): number {
  let most = 0
  for (let k = 0; k < points.length; k++) most = Math.max(most, Math.abs(points[k]!))
  return most
}
