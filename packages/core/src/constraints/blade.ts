/** A mesh as what cuts: its tree and the maps into it, as the kernel `cutLinks` takes them. */
import type { Heap } from '@tangle/kernels'
import { affine } from '../math/vector.ts'
import type { Body } from '../scene/body.ts'

const MAP = 12 * 8
const UNMOVED = affine([0, 0, 0], [0, 0, 0], [1, 1, 1])

/** Between frames `from` and `to`; `free` gives the maps back. */
export function bladeOf(heap: Heap, blade: Body, { from, to }: { from: number; to: number }) {
  const maps = heap.allocate(2 * MAP)
  const { tree, into } = blade.treeAt(to)
  const now = into ?? UNMOVED
  const middle = into ? blade.treeAt((from + to) / 2).into! : now // rigid at one moment, rigid at all
  heap.f64(maps, 24).set([...now, ...middle])
  const { quads, vertices, stack } = tree
  return { cutter: { quads, vertices, stack, into: maps, back: maps + MAP }, free: () => heap.free(maps) }
}
