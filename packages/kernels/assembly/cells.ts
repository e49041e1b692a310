/**
 * A uniform grid over particles, hashed into buckets, rebuilt each substep by a stable counting sort. Particles of a bucket stand side by
 * side in order of their number, so what a particle sees, and the order in which it sums it up, depends on nothing but the particles.
 * Kernels take the particles in the order of the cells, too, so that what one looked at is at hand for the next.
 *
 * `cells` points to a `grid` (layouts.ts): 1/width of a cell, buckets − 1, and pointers to
 *   first   u32 per bucket and one more: where its entries start
 *   order   u32 per entry: the particle
 *   entries 8 × f32 per entry: position, radius, velocity, and one that is free
 *   lists   what a thread searches with (neighbourSearch in layouts.ts)
 *   columns x, y, z of all entries and the row of the cell that each is in, so that four are compared at a time
 *   coarser the grid of cells twice as wide over the same particles, and places: the entry of each particle in the finest
 *
 * Entries are those of the finest grid, wherever they were found. Who searches its own crowd reads itself there, too, in the order of the
 * cells.
 */
import { grid, gridEntry } from './layouts'
import { addWrapping, floor, multiplyLow, readF32, readF64, readI32, shiftRight, truncate, writeF32, writeI32 } from './machine'

/** The cell of a coordinate; what lies absurdly far out shares the last one. */
export function cellOf(x: f64, perMetre: f64): i32 {
  const cell = floor(x * perMetre)
  if (cell > 1.0e9) return 1000000000
  if (cell > -1.0e9) return truncate(cell)
  return -1000000000
}
/** Cells side by side along x have buckets side by side: a row of them is one run of entries. */
export function bucketOf(x: i32, y: i32, z: i32, mask: i32): i32 {
  // a sum: of two products that are joined by "exclusive or" the row (−y, −z) has nearly the bucket of (y, z)
  const h = addWrapping(multiplyLow(y, 0x297a2d39), multiplyLow(z, 0x1b56c4e9))
  return addWrapping(h ^ shiftRight(h, 15), x) & mask
}

/** The row of a cell by its y and z; rows that are less than 32,768 cells apart differ. */
export function rowOf(y: i32, z: i32): i32 {
  return (y & 0xffff) | (z << 16)
}

/** The bucket of every particle. */
export function cellKeys(start: i32, end: i32, position: usize, perMetre: f64, mask: i32, keys: usize): void {
  for (let i = start; i < end; i++) {
    const x = cellOf(readF32(position, i * 3), perMetre)
    const y = cellOf(readF32(position, i * 3 + 1), perMetre)
    const z = cellOf(readF32(position, i * 3 + 2), perMetre)
    writeI32(keys, i, bucketOf(x, y, z, mask))
  }
}

/** Counting sort of `count` particles by key, on one thread: fills `first` (buckets + 1) and `order`. */
export function sortCells(count: i32, keys: usize, buckets: i32, first: usize, order: usize): void {
  for (let b = 0; b <= buckets; b++) writeI32(first, b, 0)
  for (let i = 0; i < count; i++) {
    const b = readI32(keys, i) + 1
    writeI32(first, b, readI32(first, b) + 1)
  }
  for (let b = 1; b <= buckets; b++) writeI32(first, b, readI32(first, b) + readI32(first, b - 1))
  for (let i = count - 1; i >= 0; i--) {
    const b = readI32(keys, i) + 1
    // counted down from the bucket's end, which leaves `first` one bucket on
    const at = readI32(first, b) - 1
    writeI32(first, b, at)
    writeI32(order, at, i)
  }
  for (let b = 0; b < buckets; b++) writeI32(first, b, readI32(first, b + 1))
  writeI32(first, buckets, count)
}

/** Copies what neighbours read into the order of the cells; without `entries` and `places` (0) only the columns. */
export function gatherCells(
  start: i32, end: i32, order: usize, position: usize, radius: usize, velocity: usize, entries: usize, places: usize,
  columns: usize, columnBytes: i32, perMetre: f64,
): void {
  const rows = columns + 3 * <usize>columnBytes
  for (let e = start; e < end; e++) {
    const i = readI32(order, e)
    if (places != 0) writeI32(places, i, e)
    writeI32(rows, e, rowOf(cellOf(readF32(position, i * 3 + 1), perMetre), cellOf(readF32(position, i * 3 + 2), perMetre)))
    for (let axis = 0; axis < 3; axis++) {
      writeF32(columns + <usize>(axis * columnBytes), e, readF32(position, i * 3 + axis))
      if (entries == 0) continue
      writeF32(entries, e * gridEntry.SIZE + axis, readF32(position, i * 3 + axis))
      writeF32(entries, e * gridEntry.SIZE + gridEntry.velocityX + axis, readF32(velocity, i * 3 + axis))
    }
    if (entries != 0) writeF32(entries, e * gridEntry.SIZE + gridEntry.radius, readF32(radius, i))
  }
}

export function entriesOf(cells: usize): usize {
  return <usize>readF64(cells, grid.entries)
}
/** As entriesOf, for the velocities. */
export function velocitiesOf(cells: usize): usize {
  return entriesOf(cells) + (<usize>gridEntry.velocityX << 2)
}
export function particleOf(cells: usize, entry: i32): i32 {
  return readI32(<usize>readF64(cells, grid.order), entry)
}
