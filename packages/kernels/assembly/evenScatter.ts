/**
 * Of many places those that lie evenly: the most crowded are taken out, again and again. A place has the weight Σ (1 − d/2r)^8 over the others
 * within 2r, r being the largest radius that as many discs as are to stay can have; d counts as `nearest` at least.
 * Source: Yuksel, "Sample elimination for generating Poisson disk sample sets" (2015).
 *
 * The paper takes out one place after the other, by a heap. Here all go at once that are the most crowded within 2r of themselves and among
 * the most crowded tenth of all: they do not touch one another's weights, so it is the same but for the order.
 *
 * Places are named by their entries in a grid (cells.ts), whose order keeps neighbours together. `near`: entries of the neighbours of the e-th from `first`[e]
 * on (i32); `weights` f64, of one that is gone far below 0.
 */
import { entriesOf, particleOf } from './cells'
import { gridEntry, MOST_NEIGHBOURS } from './layouts'
import { maximum, readF32, readF64, readI32, squareRoot, truncate, writeF64, writeI32 } from './machine'
import { entryAt, listNeighbours, listOf } from './neighbours'

const GONE: f64 = -1.0e30
const BINS = 1024

function listAround(cells: usize, e: i32, reach: f64, thread: i32): i32 {
  const entries = entriesOf(cells)
  const at = e * gridEntry.SIZE
  return listNeighbours(
    cells, particleOf(cells, e), readF32(entries, at), readF32(entries, at + gridEntry.y), readF32(entries, at + gridEntry.z),
    reach, MOST_NEIGHBOURS, thread,
  )
}

/** How many neighbours each entry has. */
export function countNear(start: i32, end: i32, cells: usize, reach: f64, counts: usize, thread: i32): void {
  for (let e = start; e < end; e++) writeI32(counts, e, listAround(cells, e, reach, thread))
}

/** Who they are. */
export function listNear(start: i32, end: i32, cells: usize, reach: f64, first: usize, near: usize, thread: i32): void {
  const list = listOf(cells, thread)
  for (let e = start; e < end; e++) {
    const found = listAround(cells, e, reach, thread)
    const at = readI32(first, e)
    for (let k = 0; k < found; k++) writeI32(near, at + k, entryAt(list, k))
  }
}

/** (1 − d/2r)^8 of two entries, `reach` being 2r. */
function crowdingOf(entries: usize, e: i32, o: i32, reach: f64, nearest: f64): f64 {
  const dx = readF32(entries, e * gridEntry.SIZE) - readF32(entries, o * gridEntry.SIZE)
  const dy = readF32(entries, e * gridEntry.SIZE + gridEntry.y) - readF32(entries, o * gridEntry.SIZE + gridEntry.y)
  const dz = readF32(entries, e * gridEntry.SIZE + gridEntry.z) - readF32(entries, o * gridEntry.SIZE + gridEntry.z)
  const t = maximum(0.0, 1.0 - maximum(squareRoot(dx * dx + dy * dy + dz * dz), nearest) / reach)
  const t2 = t * t
  const t4 = t2 * t2
  return t4 * t4
}

/** The weight of each entry. */
export function weighCrowds(
  start: i32, end: i32, cells: usize, first: usize, near: usize, reach: f64, nearest: f64, weights: usize,
): void {
  const entries = entriesOf(cells)
  for (let e = start; e < end; e++) {
    let weight = 0.0
    for (let k = readI32(first, e); k < readI32(first, e + 1); k++) weight += crowdingOf(entries, e, readI32(near, k), reach, nearest)
    writeF64(weights, e, weight)
  }
}

/** A weight that some tenth of the `count` entries of `left` reach, and the most crowded in any case; `bins`: 1,024 × i32 of scratch. */
export function crowdedTenth(count: i32, left: usize, weights: usize, bins: usize): f64 {
  let most = 0.0
  for (let n = 0; n < count; n++) most = maximum(most, readF64(weights, readI32(left, n)))
  // no weight is left, but for rounding: any may go
  if (most == 0.0) return 0.5 * GONE
  for (let b = 0; b < BINS; b++) writeI32(bins, b, 0)
  const scale = <f64>(BINS - 1) / most
  for (let n = 0; n < count; n++) {
    const b = truncate(maximum(0.0, readF64(weights, readI32(left, n))) * scale)
    writeI32(bins, b, readI32(bins, b) + 1)
  }
  let b = BINS - 1
  for (let above = readI32(bins, b); b > 0 && above * 10 < count; above += readI32(bins, b)) b--
  const least = <f64>b / scale
  return least < most ? least : most
}

/** Whether each of `left` is to go, 1 or 0: it reaches the weight `least`, and nobody near it is more crowded. */
export function markCrowded(start: i32, end: i32, left: usize, weights: usize, least: f64, first: usize, near: usize, marks: usize): void {
  for (let n = start; n < end; n++) {
    const e = readI32(left, n)
    const weight = readF64(weights, e)
    let goes = weight >= least ? 1 : 0
    for (let k = readI32(first, e); goes == 1 && k < readI32(first, e + 1); k++) {
      const o = readI32(near, k)
      const other = readF64(weights, o)
      if (other > weight || (other == weight && o < e)) goes = 0
    }
    writeI32(marks, n, goes)
  }
}

/** Takes out of `left` those that are marked, whose neighbours become lighter. Returns how many are left. */
export function takeOutCrowded(
  count: i32, left: usize, marks: usize, cells: usize, first: usize, near: usize, reach: f64, nearest: f64, weights: usize,
): i32 {
  const entries = entriesOf(cells)
  let kept = 0
  for (let n = 0; n < count; n++) {
    const e = readI32(left, n)
    if (readI32(marks, n) == 0) {
      writeI32(left, kept++, e)
      continue
    }
    writeF64(weights, e, GONE)
    for (let k = readI32(first, e); k < readI32(first, e + 1); k++) {
      const o = readI32(near, k)
      writeF64(weights, o, readF64(weights, o) - crowdingOf(entries, e, o, reach, nearest))
    }
  }
  return kept
}
