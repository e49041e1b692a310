/** What is counted of neighbours: how many there are, who they are, and how far they overlap. */
import { entriesOf, particleOf } from './cells'
import { gridEntry, MOST_NEIGHBOURS } from './layouts'
import { addWrapping, readF32, readI32, squareRoot, writeF32, writeI32 } from './machine'
import { entryAt, listNeighbours, listOf, squaredAt } from './neighbours'

/** How many others lie within `reach` radii of each particle, up to 256. */
export function countNeighbours(
  start: i32, end: i32, cells: usize, reach: f64, out: usize, thread: i32,
): void {
  const entries = entriesOf(cells)
  for (let turn = start; turn < end; turn++) {
    const i = particleOf(cells, turn)
    const at = turn * gridEntry.SIZE
    const found = listNeighbours(
      cells, i, readF32(entries, at), readF32(entries, at + gridEntry.y), readF32(entries, at + gridEntry.z),
      readF32(entries, at + gridEntry.radius) * reach, MOST_NEIGHBOURS, thread,
    )
    writeF32(out, i, <f64>found)
  }
}

/** The neighbours of each particle by number, `most` places each, −1 where there are no more; for tests. */
export function namedNeighbours(
  start: i32, end: i32, position: usize, cells: usize, reach: f64, most: i32, out: usize, thread: i32,
): void {
  for (let turn = start; turn < end; turn++) {
    const i = particleOf(cells, turn)
    const found = listNeighbours(
      cells, i, readF32(position, i * 3), readF32(position, i * 3 + 1), readF32(position, i * 3 + 2), reach, most, thread,
    )
    const list = listOf(cells, thread)
    for (let k = 0; k < most; k++) writeI32(out, i * most + k, k < found ? particleOf(cells, entryAt(list, k)) : -1)
  }
}

function areLinked(firsts: usize, linked: usize, i: i32, j: i32): boolean {
  const end = readI32(firsts, i + 1)
  for (let k = readI32(firsts, i); k < end; k++) if (readI32(linked, k) == j) return true
  return false
}

/**
 * Overlaps: of each particle how many others of a higher number are nearer than the sum of the radii
 * (`pairs`), how many in all (`touching`), and the worst depth in metres. f32 each. Cells are as wide as
 * the largest sum. Whom links hold together do not count: those of i are `linked` from `firsts`[i] to `firsts`[i + 1]
 * (`firsts` 0: there are none).
 */
export function overlaps(
  start: i32, end: i32, position: usize, radius: usize, cells: usize, widest: f64,
  pairs: usize, touching: usize, depth: usize, firsts: usize, linked: usize, thread: i32,
): void {
  const entries = entriesOf(cells)
  const list = listOf(cells, thread)
  for (let turn = start; turn < end; turn++) {
    const i = particleOf(cells, turn)
    const r = readF32(radius, i)
    const found = listNeighbours(
      cells, i, readF32(position, i * 3), readF32(position, i * 3 + 1), readF32(position, i * 3 + 2),
      r + widest, MOST_NEIGHBOURS, thread,
    )
    let higher = 0
    let all = 0
    let worst = 0.0
    for (let k = 0; k < found; k++) {
      const e = entryAt(list, k)
      const deep = r + readF32(entries, e * gridEntry.SIZE + gridEntry.radius) - squareRoot(squaredAt(list, k))
      // what merely touches differs by the rounding of f32
      if (deep <= 1.0e-5 * r || (firsts != 0 && areLinked(firsts, linked, i, particleOf(cells, e)))) continue
      all = addWrapping(all, 1)
      if (particleOf(cells, e) > i) higher = addWrapping(higher, 1)
      if (deep > worst) worst = deep
    }
    writeF32(pairs, i, <f64>higher)
    writeF32(touching, i, <f64>all)
    writeF32(depth, i, worst)
  }
}
