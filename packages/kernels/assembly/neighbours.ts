/**
 * Who is near whom, in the grids of cells.ts. Each search lists all within a ball whose contents are likely to be enough, four at a time
 * and without a branch for each, and then keeps the nearest. What lies in the cells about one is copied side by side once for all
 * that search from it.
 *
 * Squares are f32: of two that differ by less than a ten millionth either may count as the nearer, in the same way on every machine.
 */
import { bucketOf, cellOf, rowOf } from './cells'
import { grid, MOST_NEIGHBOURS, neighbourSearch } from './layouts'
import {
  and4, atLeast4, bits4, count4, dot4, equalI4, inRange4, load4, loadI4, notEqualI4, pack4, splat4, splatI4, store4, storeI4, subtract4, I4,
} from './lanes'
import { countBits, readF32, readF64, readI32, roundF32, squareRoot, truncate, writeF32, writeI32 } from './machine'

export function listOf(cells: usize, thread: i32): usize {
  return <usize>readF64(cells, grid.lists) + ((<usize>(thread * neighbourSearch.SIZE)) << 2)
}
/** The entry of neighbour k of a list, and the square of its distance. */
export function entryAt(list: usize, k: i32): i32 {
  return readI32(list, neighbourSearch.found + k)
}
export function squaredAt(list: usize, k: i32): f64 {
  return readF32(list, neighbourSearch.squares + k)
}

/** How many share the cell of a place. */
function crowdAt(level: usize, x: f64, y: f64, z: f64): i32 {
  const perMetre = readF64(level, grid.perMetre)
  const bucket = bucketOf(cellOf(x, perMetre), cellOf(y, perMetre), cellOf(z, perMetre), truncate(readF64(level, grid.mask)))
  const first = <usize>readF64(level, grid.first)
  return readI32(first, bucket + 1) - readI32(first, bucket)
}

/** Square of the radius of the ball that holds such a part (1/4, 1/2 or 1) of what one of the radius 1 holds. */
function squareOfBall(part: f64): f64 {
  return part == 1.0 ? 1.0 : part == 0.5 ? 0.62996 : 0.39685
}

/**
 * Lists the neighbours of particle i within `reach` of its place (f32, metres); of more than `most` the nearest. Returns how many.
 *
 * The ball that is searched is the smallest of a series, each of twice the volume of the one before, that may hold twice as many as are
 * wanted, by the crowd about it; when it holds too few, the next is. A ball is searched in the grid in which it reaches the next cells
 * and no farther. So the work goes with `most`, however many are in reach and however dense the crowd beside it.
 */
export function listNeighbours(cells: usize, i: i32, x: f64, y: f64, z: f64, reach: f64, most: i32, thread: i32): i32 {
  const list = listOf(cells, thread)
  const limit = most > MOST_NEIGHBOURS ? MOST_NEIGHBOURS : most
  const wanted = <f64>(2 * limit)
  let level = cells
  let coarser = <usize>readF64(level, grid.coarser)
  // a ball of one cell's radius holds 4π/3 cells
  let held = 4.18879 * <f64>crowdAt(level, x, y, z)
  while (coarser != 0 && held < wanted && reach * readF64(level, grid.perMetre) > 1.0) {
    level = coarser
    coarser = <usize>readF64(level, grid.coarser)
    held = 4.18879 * <f64>crowdAt(level, x, y, z)
  }
  let part = 0.25
  while (part < 1.0 && part * held < wanted) part *= 2.0
  while (true) {
    const perMetre = readF64(level, grid.perMetre)
    const squared = squareOfBall(part) / (perMetre * perMetre)
    if (squared >= reach * reach) break
    // a little less, for f32 rounds
    const found = searchBall(cells, level, list, i, x, y, z, 0.999998 * squared)
    if (found >= limit) return nameEntries(cells, level, list, keepNearest(list, found, limit, squared))
    if (part < 1.0) {
      part *= 2.0
      continue
    }
    if (coarser == 0) break
    part = 0.25
    level = coarser
    coarser = <usize>readF64(level, grid.coarser)
  }
  const found = searchBall(cells, level, list, i, x, y, z, reach * reach)
  return nameEntries(cells, level, list, found > limit ? keepNearest(list, found, limit, reach * reach) : found)
}

/** In a coarser grid particles are found: in place of them their entries in the finest. */
function nameEntries(cells: usize, level: usize, list: usize, found: i32): i32 {
  if (level == cells) return found
  const places = <usize>readF64(cells, grid.places)
  for (let k = 0; k < found; k++) writeI32(list, neighbourSearch.found + k, readI32(places, readI32(list, neighbourSearch.found + k)))
  return found
}

/** Lists all but particle i whose distance has a square of at most `squared`. Returns how many. */
function searchBall(finest: usize, level: usize, list: usize, i: i32, x: f64, y: f64, z: f64, squared: f64): i32 {
  const perMetre = readF64(level, grid.perMetre)
  const isNear = squared * perMetre * perMetre <= 1.000001
  const count = isNear
    ? copyAround(finest, level, list, cellOf(x, perMetre), cellOf(y, perMetre), cellOf(z, perMetre))
    : copyBall(finest, level, list, x, y, z, squareRoot(squared))
  const px = splat4(x)
  const py = splat4(y)
  const pz = splat4(z)
  const self = splatI4(level == finest && i >= 0 ? readI32(<usize>readF64(finest, grid.places), i) : i)
  const most = splat4(squared)
  let found = 0
  for (let k = 0; k < count; k += 4) {
    const dx = subtract4(load4(list, neighbourSearch.x + k), px)
    const dy = subtract4(load4(list, neighbourSearch.y + k), py)
    const dz = subtract4(load4(list, neighbourSearch.z + k), pz)
    const named = loadI4(list, neighbourSearch.names + k)
    const squares = dot4(dx, dy, dz, dx, dy, dz)
    const near = bits4(and4(atLeast4(most, squares), notEqualI4(named, self)))
    storeI4(list, neighbourSearch.found + found, pack4(named, near))
    store4(list, neighbourSearch.squares + found, pack4(squares, near))
    found += countBits(near)
  }
  return found
}

/** 0, −1, 1, −2, 2, …: should a crowd be too large to look at all of it, what is near is looked at. */
function zigzag(n: i32): i32 {
  return (n & 1) == 0 ? n >> 1 : -((n + 1) >> 1)
}

/** Copies who is in a cell and in the next ones, unless that is at hand. Returns how many. */
function copyAround(finest: usize, level: usize, list: usize, cx: i32, cy: i32, cz: i32): i32 {
  if (
    readI32(list, neighbourSearch.level) == <i32>level && readI32(list, neighbourSearch.cellX) == cx &&
    readI32(list, neighbourSearch.cellY) == cy && readI32(list, neighbourSearch.cellZ) == cz
  ) return readI32(list, neighbourSearch.count)
  writeI32(list, neighbourSearch.level, <i32>level)
  writeI32(list, neighbourSearch.cellX, cx)
  writeI32(list, neighbourSearch.cellY, cy)
  writeI32(list, neighbourSearch.cellZ, cz)
  copyFrom(finest, level, list)
  for (let n = 0; n < 3; n++) {
    for (let m = 0; m < 3; m++) copyCells(cx - 1, cx + 1, cy + zigzag(m), cz + zigzag(n))
  }
  writeI32(list, neighbourSearch.count, copied)
  return endCopies()
}

/** Copies who is in the cells that a ball wider than one touches. Returns how many. */
function copyBall(finest: usize, level: usize, list: usize, x: f64, y: f64, z: f64, radius: f64): i32 {
  writeI32(list, neighbourSearch.level, 0)
  const perMetre = readF64(level, grid.perMetre)
  const cy = cellOf(y, perMetre)
  const cz = cellOf(z, perMetre)
  // in widths of a cell, a little more, for places in a cell are rounded
  const wide = radius * perMetre * 1.000001
  const py = y * perMetre - <f64>cy
  const pz = z * perMetre - <f64>cz
  const shells = truncate(wide) + 1
  copyFrom(finest, level, list)
  for (let n = 0; n <= 2 * shells; n++) {
    const dz = zigzag(n)
    for (let m = 0; m <= 2 * shells && copied < neighbourSearch.MOST_LOOKED_AT; m++) {
      const dy = zigzag(m)
      const squared = wide * wide - gapTo(dz, pz) - gapTo(dy, py)
      if (squared < 0.0) continue
      const half = squareRoot(squared) / perMetre
      copyCells(cellOf(x - half, perMetre), cellOf(x + half, perMetre), cy + dy, cz + dz)
    }
  }
  return endCopies()
}
/** Square of the distance to the cell so many cells on, in widths of a cell, from a place in this one. */
function gapTo(step: i32, place: f64): f64 {
  if (step == 0) return 0.0
  const gap = step < 0 ? place - <f64>(step + 1) : <f64>step - place
  return gap * gap
}

/** Where rows are copied from and to, and how many there are: pointers and numbers of a grid, read once for all of its rows. */
let toList: usize = 0
let mask: i32 = 0
let first: usize = 0
let names: usize = 0
let xs: usize = 0
let ys: usize = 0
let zs: usize = 0
let rows: usize = 0
let copied: i32 = 0

function copyFrom(finest: usize, level: usize, list: usize): void {
  const columnBytes = <usize>readF64(level, grid.columnBytes)
  toList = list
  mask = truncate(readF64(level, grid.mask))
  first = <usize>readF64(level, grid.first)
  // in the finest grid they are named by their entries, in a coarser one by their numbers
  names = level == finest ? 0 : <usize>readF64(level, grid.order)
  xs = <usize>readF64(level, grid.columns)
  ys = xs + columnBytes
  zs = ys + columnBytes
  rows = zs + columnBytes
  copied = 0
}

/** What is read behind the last is beyond every reach. */
function endCopies(): i32 {
  for (let k = 0; k < 3; k++) writeF32(toList, neighbourSearch.x + copied + k, 3.0e38)
  return copied
}

/** Copies who is in the cells from `low` to `high` of a row behind those that are there. */
function copyCells(low: i32, high: i32, y: i32, z: i32): void {
  const row = splatI4(rowOf(y, z))
  let bucket = bucketOf(low, y, z, mask)
  // no longer than once around the buckets
  let left = high - low > mask ? mask + 1 : high - low + 1
  while (left > 0) {
    // the row goes on in the first bucket where it comes to the last
    const run = bucket + left > mask + 1 ? mask + 1 - bucket : left
    copyRun(row, readI32(first, bucket), readI32(first, bucket + run))
    left -= run
    bucket = 0
  }
}

/** Copies those of a run of entries that are in the row: another may share its buckets. */
function copyRun(row: I4, from: i32, to: i32): void {
  let count = copied
  for (let e = from; e < to && count < neighbourSearch.MOST_LOOKED_AT; e += 4) {
    const here = bits4(and4(equalI4(loadI4(rows, e), row), inRange4(e, to)))
    store4(toList, neighbourSearch.x + count, pack4(load4(xs, e), here))
    store4(toList, neighbourSearch.y + count, pack4(load4(ys, e), here))
    store4(toList, neighbourSearch.z + count, pack4(load4(zs, e), here))
    storeI4(toList, neighbourSearch.names + count, pack4(names == 0 ? count4(e) : loadI4(names, e), here))
    count += countBits(here)
  }
  copied = count
}

/** How many of a list have a square of at most so much. */
function countWithin(list: usize, found: i32, squared: f64): i32 {
  const most = splat4(squared)
  let count = 0
  for (let k = 0; k < found; k += 4) count += countBits(bits4(atLeast4(most, load4(list, neighbourSearch.squares + k))))
  return count
}

/**
 * The square that so many of a list do not exceed is closed in on, by halves and by what was counted in turn. Should some be equal to within a
 * ten millionth there is none, and of those the first stay.
 */
function keepNearest(list: usize, found: i32, limit: i32, squared: f64): i32 {
  for (let k = 0; k < 3; k++) writeF32(list, neighbourSearch.squares + found + k, 3.0e38)
  let low = 0.0
  let high = squared
  let below = countWithin(list, found, 0.0)
  let above = found
  if (below >= limit) {
    high = 0.0
    above = below
    below = 0
  }
  for (let turn = 0; above != limit && high - low > 1.0e-7 * high; turn++) {
    const share = turn % 2 == 0 ? (<f64>(limit - below) + 0.5) / (<f64>(above - below) + 1.0) : 0.5
    const middle = roundF32(low + (high - low) * share)
    if (middle <= low || middle >= high) break
    const count = countWithin(list, found, middle)
    if (count >= limit) {
      high = middle
      above = count
    } else {
      low = middle
      below = count
    }
  }
  if (above != limit) return keepFirst(list, found, limit, low, high, below)
  const most = splat4(high)
  let kept = 0
  for (let k = 0; k < found; k += 4) {
    const entries = loadI4(list, neighbourSearch.found + k)
    const squares = load4(list, neighbourSearch.squares + k)
    const near = bits4(atLeast4(most, squares))
    storeI4(list, neighbourSearch.found + kept, pack4(entries, near))
    store4(list, neighbourSearch.squares + kept, pack4(squares, near))
    kept += countBits(near)
  }
  return limit
}

/** Keeps the `below` up to `low`, and of those up to `high` the first until there are `limit`. */
function keepFirst(list: usize, found: i32, limit: i32, low: f64, high: f64, below: i32): i32 {
  let equals = limit - below
  let kept = 0
  for (let k = 0; k < found; k++) {
    const squared = squaredAt(list, k)
    if (squared > high) continue
    if (below == 0 || squared > low) {
      if (equals == 0) continue
      equals--
    }
    writeI32(list, neighbourSearch.found + kept, entryAt(list, k))
    writeF32(list, neighbourSearch.squares + kept, squared)
    kept++
  }
  return kept
}
