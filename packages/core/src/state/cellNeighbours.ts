/** Who is near whom, of particles that each fill a cell: the lists that the kernels of liquids and of heat go through. */
import { layouts, type Machine } from '@tangle/kernels'
import { buildGrid } from './neighbours.ts'

const { MOST_FLUID_NEIGHBOURS, F32 } = layouts

/** Nobody stands so far off, in metres from the corner: behind the last of a table, out of everyone's reach. */
export const OUT_OF_REACH = 1e15

/** Pointers: places (3 × f32) and widths (f32); of each its name (i32), and whether it is solid (i32; 0: nobody is). */
export interface CellCrowd {
  count: number
  position: number
  spacing: number
  which: number
  solid: number
}

/** Lists of those within `margin` times the support of both, in the order of cells, as `listFluid` in assembly/fluid.ts lays them. */
export function listCellNeighbours(
  machine: Machine,
  { count, position, spacing, which, solid }: CellCrowd,
  margin: number,
  block: (bytes: number) => number,
): { bodies: number; counts: number; slots: number } {
  let widest = 0
  for (const s of machine.heap.f32(spacing, count)) widest = Math.max(widest, s)
  const grid = buildGrid(machine, { count, position, radius: spacing, velocity: position }, 2 * widest * margin, MOST_FLUID_NEIGHBOURS) // prettier-ignore
  const lists = {
    bodies: block(count * F32),
    counts: block(count * F32),
    slots: block(count * MOST_FLUID_NEIGHBOURS * F32),
  }
  machine.run('listFluid', count, { cells: grid.at, widest, margin, which, solid, nobody: count, ...lists })
  grid.free()
  return lists
}

/** The lowest x, y and z of places. */
export function lowestOf(points: Float32Array): [number, number, number] {
  const low: [number, number, number] = [Infinity, Infinity, Infinity]
  for (let k = 0; k < points.length; k += 3)
    for (let axis = 0; axis < 3; axis++) low[axis] = Math.min(low[axis]!, points[k + axis]!)
  return low
}
