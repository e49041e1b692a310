/** Pairs of particles that may touch: candidates found among neighbours, and how they are cut into slabs and batches. */
import { bodyRow, gridEntry, MOST_NEIGHBOURS, PAIR_COLOURS } from './layouts'
import { floor, readF32, readF64, readI32, squareRoot, truncate, writeI32 } from './machine'
import { entriesOf, particleOf } from './cells'
import { entryAt, listNeighbours, listOf, squaredAt } from './neighbours'

/**
 * Candidates for contact: each particle lists up to `most` others, slower ones than itself, that its ball can meet. The grid
 * holds the crowd of `crowdOfBodies`. With `ahead` = 0 it stands half-way through a substep, and who moves δ against the other in it
 * is met within δ/2; else it stands at the start, and each may go `ahead` times what it moves now. So only who is fast looks far.
 * `kinds` (i32) is the population of each; `allowed` (i32, populations²) the rule of two, −1 where they do not collide.
 * `amounts` (f32): 0 takes no part. `partners` (from partnerFirst; 0: none) names those that links hold already.
 */
export function listPairs(
  start: i32, end: i32, cells: usize, widest: f64, margin: f64, ahead: f64, most: i32,
  kinds: usize, allowed: usize, populations: i32, amounts: usize, partnerFirst: usize, partners: usize,
  counts: usize, slots: usize, thread: i32,
): void {
  const entries = entriesOf(cells)
  const list = listOf(cells, thread)
  for (let turn = start; turn < end; turn++) {
    const i = particleOf(cells, turn)
    let kept = 0
    if (readF32(amounts, i) > 0.0) {
      const at = turn * gridEntry.SIZE
      const r = readF32(entries, at + gridEntry.radius)
      const vx = readF32(entries, at + gridEntry.velocityX)
      const vy = readF32(entries, at + gridEntry.velocityY)
      const vz = readF32(entries, at + gridEntry.velocityZ)
      const squared = vx * vx + vy * vy + vz * vz
      const own = squareRoot(squared)
      const found = listNeighbours(
        cells, i, readF32(entries, at), readF32(entries, at + gridEntry.y), readF32(entries, at + gridEntry.z),
        (r + widest) * margin + (ahead == 0.0 ? own : 2.0 * ahead * own), MOST_NEIGHBOURS, thread,
      )
      for (let n = 0; n < found && kept < most; n++) {
        const e = entryAt(list, n)
        const j = particleOf(cells, e)
        const wx = readF32(entries, e * gridEntry.SIZE + gridEntry.velocityX)
        const wy = readF32(entries, e * gridEntry.SIZE + gridEntry.velocityY)
        const wz = readF32(entries, e * gridEntry.SIZE + gridEntry.velocityZ)
        const its = wx * wx + wy * wy + wz * wz
        if (its > squared || (its == squared && j < i)) continue
        const nearer = ahead == 0.0
          ? 0.5 * squareRoot((vx - wx) * (vx - wx) + (vy - wy) * (vy - wy) + (vz - wz) * (vz - wz))
          : ahead * (own + squareRoot(its))
        const reach = (r + readF32(entries, e * gridEntry.SIZE + gridEntry.radius)) * margin + nearer
        if (squaredAt(list, n) >= reach * reach) continue
        if (readF32(amounts, j) == 0.0 || readI32(allowed, readI32(kinds, i) * populations + readI32(kinds, j)) < 0) continue
        if (partnerFirst != 0 && isLinked(partnerFirst, partners, i, j)) continue
        writeI32(slots, i * most + kept, j)
        kept++
      }
    }
    writeI32(counts, i, kept)
  }
}
function isLinked(first: usize, partners: usize, i: i32, j: i32): boolean {
  const end = readI32(first, i + 1)
  for (let k = readI32(first, i); k < end; k++) {
    if (readI32(partners, k) == j) return true
  }
  return false
}

/** Bodies in each of so many bins along an axis (i32). */
export function countBins(count: i32, starts: usize, axis: i32, low: f64, perMetre: f64, bins: i32, out: usize): void {
  for (let b = 0; b < bins; b++) writeI32(out, b, 0)
  for (let i = 0; i < count; i++) {
    const b = binOf(starts, i, axis, low, perMetre, bins)
    writeI32(out, b, readI32(out, b) + 1)
  }
}
function binOf(starts: usize, i: i32, axis: i32, low: f64, perMetre: f64, bins: i32): i32 {
  const at = floor((readF32(starts, i * bodyRow.SIZE + axis) - low) * perMetre)
  return at < 0.0 ? 0 : at < <f64>bins ? truncate(at) : bins - 1
}
/** The slab of each body (i32), by the slabs of the bins. */
export function slabsOfBodies(
  start: i32, end: i32, starts: usize, axis: i32, low: f64, perMetre: f64, bins: i32, slabOfBin: usize, slabs: usize,
): void {
  for (let i = start; i < end; i++) writeI32(slabs, i, readI32(slabOfBin, binOf(starts, i, axis, low, perMetre, bins)))
}

/**
 * The slab of a pair is the lower one of its bodies: slabs that are not neighbours have no body in common, so all even ones
 * are solved at once, and then all odd ones. −1: it bridges more than two.
 */
function slabOfPair(slabs: usize, i: i32, j: i32): i32 {
  const one = readI32(slabs, i)
  const other = readI32(slabs, j)
  if (one == other || one + 1 == other) return one
  return one == other + 1 ? other : -1
}

/**
 * Of each slab the number of its candidates, and of those listed in it that bridge more (i32). `first` and `order` sort the
 * bodies by slab.
 */
export function countPairs(
  start: i32, end: i32, slabs: usize, slabCount: i32, first: usize, order: usize, counts: usize, most: i32, slots: usize,
  out: usize, bridging: usize,
): void {
  for (let s = start; s < end; s++) {
    let found = 0
    let far = 0
    const to = readI32(first, s + 2 < slabCount ? s + 2 : slabCount)
    for (let k = readI32(first, s); k < to; k++) {
      const i = readI32(order, k)
      for (let n = 0; n < readI32(counts, i); n++) {
        const which = slabOfPair(slabs, i, readI32(slots, i * most + n))
        if (which == s) found++
        else if (which < 0 && readI32(slabs, i) == s) far++
      }
    }
    writeI32(out, s, found)
    writeI32(bridging, s, far)
  }
}

/**
 * The candidates of slabs in batches of four without a common body: each has the lowest colour that neither of its bodies has yet, and
 * four of a colour are a batch. So batches that follow one another wait for one another little. `batches` are 8 i32 each, the lower bodies
 * and then the others. `solved` is the order in which slabs are taken, in phases: theirs begin at `offsets`, and `out` counts them. Slab number
 * `slabCount` is for those that bridge more.
 * Scratch: `masks` (i32 per body), `colours` (i32 per candidate), `counts` … of PAIR_COLOURS per thread.
 */
export function batchPairs(
  start: i32, end: i32, slabs: usize, slabCount: i32, first: usize, order: usize, counts: usize, most: i32, slots: usize,
  solved: usize, nobody: i32, offsets: usize, batches: usize, out: usize, masks: usize, colours: usize, scratch: usize, thread: i32,
): void {
  const room = scratch + <usize>(thread * PAIR_COLOURS * 4)
  for (let turn = start; turn < end; turn++) {
    const s = readI32(solved, turn)
    const at = readI32(offsets, turn)
    const base = batches + <usize>(at * 32)
    const bridges = s == slabCount
    const from = bridges ? 0 : readI32(first, s)
    const to = readI32(first, bridges || s + 2 > slabCount ? slabCount : s + 2)
    const wanted = bridges ? -1 : s
    for (let c = 0; c < PAIR_COLOURS; c++) writeI32(room, c, 0)
    for (let k = from; k < to; k++) writeI32(masks, readI32(order, k), 0)
    let found = 0
    for (let k = from; k < to; k++) {
      const i = readI32(order, k)
      for (let n = 0; n < readI32(counts, i); n++) {
        const j = readI32(slots, i * most + n)
        if (slabOfPair(slabs, i, j) != wanted) continue
        const c = freeColour(readI32(masks, i) | readI32(masks, j))
        writeI32(masks, i, readI32(masks, i) | (1 << c))
        writeI32(masks, j, readI32(masks, j) | (1 << c))
        writeI32(colours, at + found, c)
        writeI32(room, c, readI32(room, c) + 1)
        found++
      }
    }
    const made = layColours(room, base, nobody)
    writeI32(out, turn, made)
    found = 0
    for (let k = from; k < to; k++) {
      const i = readI32(order, k)
      for (let n = 0; n < readI32(counts, i); n++) {
        const j = readI32(slots, i * most + n)
        if (slabOfPair(slabs, i, j) != wanted) continue
        const c = readI32(colours, at + found)
        const place = readI32(room, c)
        // those that found no colour free stand alone
        writeI32(room, c, place + (c == PAIR_COLOURS - 1 ? 4 : 1))
        const batch = base + <usize>((place >> 2) * 32)
        writeI32(batch, place & 3, i < j ? i : j)
        writeI32(batch, 4 + (place & 3), i < j ? j : i)
        found++
      }
    }
  }
}
/** The lowest bit that is not set. */
function freeColour(mask: i32): i32 {
  for (let c = 0; c < PAIR_COLOURS - 1; c++) if (((mask >> c) & 1) == 0) return c
  return PAIR_COLOURS - 1
}
/** From how many have each colour, in place, the first place of each; clears the batches. Returns how many there are. */
function layColours(room: usize, base: usize, nobody: i32): i32 {
  let made = 0
  for (let c = 0; c < PAIR_COLOURS; c++) {
    const count = readI32(room, c)
    writeI32(room, c, made * 4)
    made += c == PAIR_COLOURS - 1 ? count : (count + 3) >> 2
  }
  for (let k = 0; k < made * 8; k++) writeI32(base, k, nobody)
  return made
}
