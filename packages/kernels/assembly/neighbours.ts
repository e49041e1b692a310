/**
 * Who is near whom: a uniform grid, hashed into buckets, rebuilt each substep by a stable counting sort. Particles of a bucket stand side by side in order of their number, so what a
 * particle sees, and the order in which it sums it up, depends on nothing but the particles. Kernels take
 * the particles in the order of the cells, too, so that what one looked at is at hand for the next.
 *
 * `cells` points to a `grid` (layouts.ts): 1/width of a cell, buckets − 1, and pointers to
 *   first   u32 per bucket and one more: where its entries start
 *   order   u32 per entry: the particle
 *   entries 8 × f32 per entry: position, radius, velocity, and one that is free
 *   lists   per thread neighbour.MOST pairs of f64: the neighbours found (entry, squared distance)
 *   columns x, y, z of all entries and the row of the cell that each is in, so that four are compared at a time
 *   coarser the grid of cells twice as wide over the same particles, and places: the entry of each particle in the finest
 *
 * Entries are those of the finest grid, wherever they were found.
 */
import { F64, grid, gridEntry, neighbour } from './layouts'
import { add4, and4, bits4, equalI4, inRange4, less4, load4, loadI4, multiply4, splat4, splatI4, subtract4 } from './lanes'
import { addWrapping, floor, multiplyLow, readF32, readF64, readI32, shiftRight, squareRoot, truncate, writeF32, writeF64, writeI32 } from './machine'

/** In a crowd without bounds a particle looks at no more entries than this. */
const MOST_LOOKED_AT: i32 = 4096

/** The cell of a coordinate; what lies absurdly far out shares the last one. */
function cellOf(x: f64, perMetre: f64): i32 {
  const cell = floor(x * perMetre)
  if (cell > 1.0e9) return 1000000000
  if (cell > -1.0e9) return truncate(cell)
  return -1000000000
}
/** Cells side by side along x have buckets side by side: a row of them is one run of entries. */
function bucketOf(x: i32, y: i32, z: i32, mask: i32): i32 {
  const h = multiplyLow(y, 0x297a2d39) ^ multiplyLow(z, 0x1b56c4e9)
  return addWrapping(h ^ shiftRight(h, 15), x) & mask
}

/** The row of a cell by its y and z; rows that are less than 32,768 cells apart differ. */
function rowOf(y: i32, z: i32): i32 {
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

function put(list: usize, k: i32, entry: i32, squared: f64): void {
  writeF64(list, k * neighbour.SIZE + neighbour.entry, <f64>entry)
  writeF64(list, k * neighbour.SIZE + neighbour.squared, squared)
}
/** Where in a list the farthest is. */
function farthest(list: usize, found: i32): i32 {
  let at = 0
  let most = readF64(list, neighbour.squared)
  for (let k = 1; k < found; k++) {
    const squared = readF64(list, k * neighbour.SIZE + neighbour.squared)
    if (squared > most) {
      most = squared
      at = k
    }
  }
  return at
}

/** 0, −1, 1, −2, 2, …: what is near is looked at first, and little is put into a list to give way again. */
function zigzag(n: i32): i32 {
  return n % 2 == 0 ? truncate(<f64>n / 2.0) : -truncate(<f64>(n + 1) / 2.0)
}

function absolute(a: f64): f64 {
  return a < 0.0 ? -a : a
}

/** Square of the distance to the cell so many cells on, in widths of a cell, from a place in this one. */
function gapTo(step: i32, place: f64): f64 {
  if (step == 0) return 0.0
  const gap = step < 0 ? place - <f64>(step + 1) : <f64>step - place
  return gap * gap
}

/** How many share the cell of a place. */
function crowdAt(level: usize, x: f64, y: f64, z: f64): i32 {
  const perMetre = readF64(level, grid.perMetre)
  const bucket = bucketOf(cellOf(x, perMetre), cellOf(y, perMetre), cellOf(z, perMetre), truncate(readF64(level, grid.mask)))
  const first = <usize>readF64(level, grid.first)
  return readI32(first, bucket + 1) - readI32(first, bucket)
}

/** Shells of cells that are searched before a coarser grid is asked, and what they reach, widths of a cell. */
const FINE_SHELLS: i32 = 2

/**
 * Lists the neighbours of particle i within `reach` of a place; of more than `most` the nearest. Returns how
 * many.
 *
 * Begins in the finest grid in which its cell is no emptier than it must be, and searches two shells; unless the list is full with
 * what lies within those, it begins anew in the grid of twice the width. So the work goes with `most`, however many are in
 * reach, and empty cells beside a crowd are looked at by the dozen rather than by the hundred.
 */
export function listNeighbours(cells: usize, i: i32, x: f64, y: f64, z: f64, reach: f64, most: i32, thread: i32): i32 {
  const list = listOf(cells, thread)
  const limit = most > neighbour.MOST ? neighbour.MOST : most
  let level = cells
  let coarser = <usize>readF64(level, grid.coarser)
  while (coarser != 0 && crowdAt(coarser, x, y, z) <= limit) {
    level = coarser
    coarser = <usize>readF64(level, grid.coarser)
  }
  let worst = reach * reach
  while (coarser != 0) {
    const perMetre = readF64(level, grid.perMetre)
    const sure = <f64>FINE_SHELLS / perMetre
    if (sure >= reach) break
    const found = searchLevel(cells, level, i, x, y, z, reach, worst, FINE_SHELLS, limit, list)
    if (found == limit) {
      // the farthest of a full list bounds what is nearer, in whatever grid
      worst = readF64(list, farthest(list, found) * neighbour.SIZE + neighbour.squared)
      if (worst <= sure * sure * 0.999998) return found
    }
    level = coarser
    coarser = <usize>readF64(level, grid.coarser)
  }
  const shells = truncate(reach * readF64(level, grid.perMetre) * 0.999999) + 1
  return searchLevel(cells, level, i, x, y, z, reach, worst, shells, limit, list)
}

/**
 * Lists those within a number of shells of a grid, no farther than the square `worst`; of more than `limit` the nearest. Cells are
 * searched from its own outward, shell by shell, and no cell that lies wholly beyond the worst of a full list.
 */
function searchLevel(
  finest: usize, cells: usize, i: i32, x: f64, y: f64, z: f64, reach: f64, bound: f64, shells: i32, limit: i32, list: usize,
): i32 {
  const places = <usize>readF64(finest, grid.places)
  const perMetre = readF64(cells, grid.perMetre)
  const mask = truncate(readF64(cells, grid.mask))
  const first = <usize>readF64(cells, grid.first)
  const order = <usize>readF64(cells, grid.order)
  const columnBytes = <usize>readF64(cells, grid.columnBytes)
  const xs = <usize>readF64(cells, grid.columns)
  const ys = xs + columnBytes
  const zs = ys + columnBytes
  const rows = zs + columnBytes
  const px4 = splat4(x)
  const py4 = splat4(y)
  const pz4 = splat4(z)
  // what f32 rounds off its place and the differences
  const rounding = 3.0e-7 * (absolute(x) + absolute(y) + absolute(z) + reach)
  const cx = cellOf(x, perMetre)
  const cy = cellOf(y, perMetre)
  const cz = cellOf(z, perMetre)
  // place within the cell, 0 to 1
  const px = x * perMetre - <f64>cx
  const py = y * perMetre - <f64>cy
  const pz = z * perMetre - <f64>cz
  let worst = bound
  const far = squareRoot(worst) + rounding
  let room = splat4(far * far)
  let found = 0
  let outermost = 0
  let looked = 0
  for (let shell = 1; shell <= shells; shell++) {
    const wide = <f64>shell
    const done = (wide - 1.0) / perMetre
    if (looked >= MOST_LOOKED_AT || done * done > worst * 1.000001) break
    for (let n = 0; n <= 2 * shell; n++) {
      const dz = zigzag(n)
      for (let m = 0; m <= 2 * shell; m++) {
        const dy = zigzag(m)
        // what of the row the sphere of the worst covers; a little more, for places in a cell are rounded
        const wide2 = worst * perMetre * perMetre * 1.000001 - gapTo(dz, pz) - gapTo(dy, py)
        if (wide2 < 0.0) continue
        const half = squareRoot(wide2)
        const row = splatI4(rowOf(cy + dy, cz + dz))
        const from = cx + (half > wide ? -shell : truncate(floor(px - half)))
        const to = cx + (half > wide ? shell : truncate(floor(px + half)))
        // the first shell has its own cell with it; of a row inside a later one only the two ends are new
        const inside = shell > 1 && dz > -shell && dz < shell && dy > -shell && dy < shell
        const ends = inside ? 2 : 1
        for (let side = 0; side < ends; side++) {
          const low = inside && side == 1 ? cx + shell : from > cx - shell ? from : cx - shell
          const high = inside && side == 0 ? cx - shell : to < cx + shell ? to : cx + shell
          const long = high - low + 1
          let bucket = bucketOf(low, cy + dy, cz + dz, mask)
          let left = long
          while (left > 0) {
            // the row goes on in the first bucket where it comes to the last
            const run = bucket + left > mask + 1 ? mask + 1 - bucket : left
            const end = readI32(first, bucket + run)
            let e = readI32(first, bucket)
            const last = end - e > MOST_LOOKED_AT - looked ? e + MOST_LOOKED_AT - looked : end
            looked += last - e
            for (; e < last; e += 4) {
              const dx = subtract4(load4(xs, e), px4)
              const dy4 = subtract4(load4(ys, e), py4)
              const dz4 = subtract4(load4(zs, e), pz4)
              const squares = add4(add4(multiply4(dx, dx), multiply4(dy4, dy4)), multiply4(dz4, dz4))
              // another row may share the buckets
              const here = and4(equalI4(loadI4(rows, e), row), inRange4(e, last))
              let near = bits4(and4(here, less4(squares, room)))
              for (let one = e; near != 0; one++, near >>= 1) {
                if ((near & 1) == 0 || readI32(order, one) == i) continue
                const ex = readF32(xs, one) - x
                const ey = readF32(ys, one) - y
                const ez = readF32(zs, one) - z
                const squared = ex * ex + ey * ey + ez * ez
                if (squared > worst) continue
                const entry = cells == finest ? one : readI32(places, readI32(order, one))
                if (found < limit) put(list, found++, entry, squared)
                else if (squared < worst) put(list, outermost, entry, squared)
                else continue
                // of a full list the farthest gives way; to look for it each time is cheaper than to keep order
                if (found < limit) continue
                outermost = farthest(list, found)
                worst = readF64(list, outermost * neighbour.SIZE + neighbour.squared)
                const far = squareRoot(worst) + rounding
                room = splat4(far * far)
              }
            }
            left -= run
            bucket = 0
          }
        }
      }
    }
  }
  return found
}
export function listOf(cells: usize, thread: i32): usize {
  return <usize>readF64(cells, grid.lists) + <usize>(thread * neighbour.MOST * neighbour.SIZE * F64)
}
export function entriesOf(cells: usize): usize {
  return <usize>readF64(cells, grid.entries)
}
export function particleOf(cells: usize, entry: i32): i32 {
  return readI32(<usize>readF64(cells, grid.order), entry)
}

/** How many others lie within `reach` radii of each particle, up to 256. */
export function countNeighbours(
  start: i32, end: i32, position: usize, radius: usize, cells: usize, reach: f64, out: usize, thread: i32,
): void {
  for (let turn = start; turn < end; turn++) {
    const i = particleOf(cells, turn)
    const found = listNeighbours(
      cells, i, readF32(position, i * 3), readF32(position, i * 3 + 1), readF32(position, i * 3 + 2),
      readF32(radius, i) * reach, neighbour.MOST, thread,
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
    for (let k = 0; k < most; k++) writeI32(out, i * most + k, k < found ? particleOf(cells, truncate(readF64(list, k * neighbour.SIZE + neighbour.entry))) : -1)
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
      r + widest, neighbour.MOST, thread,
    )
    let higher = 0
    let all = 0
    let worst = 0.0
    for (let k = 0; k < found; k++) {
      const e = truncate(readF64(list, k * neighbour.SIZE + neighbour.entry))
      const deep = r + readF32(entries, e * gridEntry.SIZE + gridEntry.radius) - squareRoot(readF64(list, k * neighbour.SIZE + neighbour.squared))
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
