import type { Machine } from '@tangle/kernels'
import type { Body } from './body.ts'
import { nearSurface } from './distance.ts'
import type { Places } from './mask.ts'
import { RIGID } from './points.ts'
import { weightsOfNear } from './surfaceProjection.ts'

/** Pointers to where places stand on a body: the triangle of each (u32), and the weights of its second and third corner (2 × f32). */
export interface Feet {
  triangle: number
  weights: number
  free(): void
}

/** Where a particle is anchored on the body; else the nearest place of its surface. */
export function feetOf(machine: Machine, body: Body, places: Places): Feet {
  const { heap } = machine
  const { count, frame, positions, anchors } = places
  const on = anchors ? heap.u32(anchors.anchor, count * 2) : new Uint32Array(0)
  const at = anchors ? heap.f32(anchors.at, count * 3) : new Float32Array(0)
  const isOn = (i: number): boolean => on[i * 2] === body.number && on[i * 2 + 1] !== RIGID
  let [triangle, weights] = [0, 0]
  if (anchors && every(count, isOn))
    [triangle, weights] = [heap.allocate(count * 4), heap.allocate(count * 8)] // prettier-ignore
  else {
    const near = nearSurface(machine, body, frame, positions, count, false)
    triangle = heap.allocate(Math.max(4, count * 4))
    heap.u32(triangle, count).set(heap.u32(near.triangle, count))
    weights = weightsOfNear(machine, body, frame, near, count)
    near.free()
  }
  const [triangles, parts] = [heap.u32(triangle, count), heap.f32(weights, count * 2)]
  for (let i = 0; anchors && i < count; i++) {
    if (!isOn(i)) continue
    triangles[i] = on[i * 2 + 1]!
    parts[i * 2] = at[i * 3]!
    parts[i * 2 + 1] = at[i * 3 + 1]!
  }
  return {
    triangle,
    weights,
    free() {
      heap.free(triangle)
      heap.free(weights)
    },
  }
}

function every(count: number, holds: (i: number) => boolean): boolean {
  for (let i = 0; i < count; i++) if (!holds(i)) return false
  return count > 0
}
