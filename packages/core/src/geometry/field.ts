/** A coarse field of distances: how far a place is from a surface at least. The first test of what collides. */
import { layouts, type Machine } from '@tangle/kernels'
import { FAR, type Tree } from './tree.ts'

const { distanceField, F64, SIDE_GROUP } = layouts

/** Cells along the longest side, and how far the field goes beyond the mesh, as a share of that side. */
const CELLS = 40
const MARGIN = 0.25

/**
 * The field of the surface with these positions (in the tree's frame) as a block of the heap: a head and an f32 per cell, the distance
 * of its middle less half its diagonal, so that it holds all over the cell. Of a `closed` surface the distances inside are negative.
 */
export function buildField(machine: Machine, tree: Tree, positions: Float32Array, closed: boolean): number {
  const { heap } = machine
  const low = [Infinity, Infinity, Infinity]
  const high = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < positions.length; i++) {
    const axis = i % 3
    low[axis] = Math.min(low[axis]!, positions[i]!)
    high[axis] = Math.max(high[axis]!, positions[i]!)
  }
  const longest = Math.max(1e-6, ...low.map((x, axis) => high[axis]! - x))
  const margin = longest * MARGIN
  const size = (longest + 2 * margin) / CELLS
  const start = low.map((x) => x - margin)
  const counts = low.map((x, axis) => Math.ceil((high[axis]! - x + 2 * margin) / size))
  const [across, up, deep] = counts as [number, number, number]
  const count = across * up * deep
  const [queries, outPoint, outDistance, outTriangle] = [12, 12, 4, 4].map((bytes) =>
    heap.allocate(count * bytes),
  ) as [number, number, number, number]
  const middles = heap.f32(queries, count * 3)
  for (let n = 0; n < count; n++) {
    const at = [n % across, Math.floor(n / across) % up, Math.floor(n / (across * up))]
    for (let axis = 0; axis < 3; axis++) middles[n * 3 + axis] = start[axis]! + (at[axis]! + 0.5) * size
  }
  const { quads, vertices, dipoles, stack } = tree
  const asked = { queries, quads, vertices, stack, limit: FAR }
  machine.run('closestPoints', count, { ...asked, outPoint, outDistance, outTriangle })
  if (closed)
    machine.run('signDistances', Math.ceil(count / SIDE_GROUP), { ...asked, count, dipoles, distance: outDistance }) // prettier-ignore
  const field = heap.allocate(distanceField.SIZE * F64 + count * 4)
  const head = [...start, size, ...counts, margin * 0.999, 0, closed ? 1 : 0]
  heap.f64(field, distanceField.SIZE).set(head)
  const half = 0.8667 * size
  const sure = (d: number): number => Math.sign(d) * Math.max(0, Math.abs(d) * 0.9999 - half)
  heap.f32(field + distanceField.SIZE * F64, count).set(heap.f32(outDistance, count).map(sure))
  for (const pointer of [queries, outPoint, outDistance, outTriangle]) heap.free(pointer)
  return field
}

/** Whether a field tells on which side places are. */
export const isSided = (machine: Machine, field: number): boolean =>
  machine.heap.f64(field, distanceField.SIZE)[distanceField.sided] === 1

/** For a surface that has moved by up to so many metres since. */
export function slackenField(machine: Machine, field: number, by: number): void {
  machine.heap.f64(field, distanceField.SIZE)[distanceField.slack] = by
}
