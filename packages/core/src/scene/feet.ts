import type { Machine } from '@tangle/kernels'
import { diagonalOf, type Body } from './body.ts'
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

/** Where a particle was born on the body, while it is held or lies there; else the nearest place of its surface. */
export function feetOf(machine: Machine, body: Body, places: Places): Feet {
  const { heap } = machine
  const { count, positions } = places
  const [triangle, weights] = [4, 8].map((bytes) => heap.allocate(Math.max(1, count) * bytes)) as [number, number] // prettier-ignore
  const [triangles, parts] = [heap.u32(triangle, count), heap.f32(weights, count * 2)]
  const left = standAtBirth(machine, body, places, triangles, parts)
  if (left.length > 0) {
    const some = left.length < count
    const points = some ? heap.allocate(left.length * 12) : positions
    const [all, asked] = [heap.f32(positions, count * 3), heap.f32(points, left.length * 3)]
    if (some) left.forEach((i, k) => asked.set(all.subarray(i * 3, i * 3 + 3), k * 3))
    const near = nearSurface(machine, body, places.frame, points, left.length, false)
    const found = weightsOfNear(machine, body, places.frame, near, left.length)
    const [on, at] = [heap.u32(near.triangle, left.length), heap.f32(found, left.length * 2)]
    left.forEach((i, k) => {
      triangles[i] = on[k]!
      parts.set(at.subarray(k * 2, k * 2 + 2), i * 2)
    })
    near.free()
    heap.free(found)
    if (some) heap.free(points)
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

/** Weights that are beside a triangle by more are no place on it, but of what hangs on it from inside. */
const SLACK = 1e-4
/** Nearer to its place of birth than this part of the size of the body, and of the place, a particle lies there. */
const [OF_SIZE, OF_PLACE] = [1e-5, 4e-7]

/** Fills in the places of birth of those that are held there, or lie there; the numbers of the others. */
function standAtBirth(
  { heap, ...machine }: Machine,
  body: Body,
  { count, frame, positions, anchors }: Places,
  triangles: Uint32Array,
  weights: Float32Array,
): number[] {
  if (!anchors) return Array.from({ length: count }, (_, i) => i)
  const { anchor, at: anchorAt, isHeld } = anchors
  const [on, at] = [heap.u32(anchor, count * 2), heap.f32(anchorAt, count * 3)]
  let born: Float32Array | undefined
  const block = heap.allocate(Math.max(1, count) * 12)
  const size = OF_SIZE * diagonalOf(body)
  const now = heap.f32(positions, count * 3)
  const lies = (i: number): boolean => {
    if (!born) {
      machine.run('anchorPoints', count, { body: body.number, anchor, anchorAt, positions: body.worldAt(frame), triangles: body.triangles(), map: body.mapAt(frame), out: block }) // prettier-ignore
      born = heap.f32(block, count * 3)
    }
    let [off, far] = [0, 0]
    for (let k = i * 3; k < i * 3 + 3; k++) {
      off = Math.max(off, Math.abs(now[k]! - born[k]!))
      far = Math.max(far, Math.abs(now[k]!))
    }
    return off <= size + OF_PLACE * far
  }
  const left: number[] = []
  for (let i = 0; i < count; i++) {
    const [u, v] = [at[i * 3]!, at[i * 3 + 1]!]
    const isOn = on[i * 2] === body.number && on[i * 2 + 1] !== RIGID && u >= -SLACK && v >= -SLACK && u + v <= 1 + SLACK // prettier-ignore
    if (!isOn || !(isHeld(i) || lies(i))) left.push(i)
    else {
      triangles[i] = on[i * 2 + 1]!
      weights[i * 2] = at[i * 3]!
      weights[i * 2 + 1] = at[i * 3 + 1]!
    }
  }
  heap.free(block)
  return left
}
