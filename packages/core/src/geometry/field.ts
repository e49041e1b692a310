/** A coarse field of distances: how far a place is from a surface at least. The first test of what collides. */
import type { Machine } from '@tangle/kernels'
import { closestPoints, type Tree } from './tree.ts'

/** Cells along the longest side, and how far the field goes beyond the mesh, as a share of that side. */
const CELLS = 40
const MARGIN = 0.25
/** f64 of its head: low corner, size of a cell, cells along x, y and z, distance outside of it, what to take off. */
const HEAD = 9

/**
 * The field of the surface with these positions (in the tree's frame) as a block of the heap: a head and an f32 per cell,
 * the distance of its middle less half its diagonal, so that it holds all over the cell.
 */
export function buildField(machine: Machine, tree: Tree, positions: Float32Array): number {
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
  const middles = new Float32Array(across * up * deep * 3)
  for (let n = 0; n < across * up * deep; n++) {
    const at = [n % across, Math.floor(n / across) % up, Math.floor(n / (across * up))]
    for (let axis = 0; axis < 3; axis++) middles[n * 3 + axis] = start[axis]! + (at[axis]! + 0.5) * size
  }
  const { distances } = closestPoints(machine, tree, middles)
  const { heap } = machine
  const pointer = heap.allocate(HEAD * 8 + distances.length * 4)
  heap.f64(pointer, HEAD).set([...start, size, ...counts, margin * 0.999, 0])
  const half = 0.8667 * size
  heap.f32(pointer + HEAD * 8, distances.length).set(distances.map((d) => Math.max(0, d * 0.9999 - half)))
  return pointer
}

/** For a surface that has moved by up to so many metres since. */
export function slackenField(machine: Machine, field: number, by: number): void {
  machine.heap.f64(field, HEAD)[8] = by
}
