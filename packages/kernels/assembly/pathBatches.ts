/** Which links form paths, and which paths are solved together (linkPaths.ts solves them). */
import { F32, link, linkPath, pathBatch } from './layouts'
import { linkAt } from './links'
import { readF64, readI32, truncate, writeI32 } from './machine'

/**
 * The paths of links (linkPath), and the lowest colour for each that none of its particles has. `masks`: 2 × i32 per
 * particle, a bit for each colour; `first` is the number of the first particle among the bodies. Returns how many.
 */
export function findPaths(links: usize, count: i32, particles: i32, first: i32, masks: usize, paths: usize): i32 {
  for (let k = 0; k < 2 * particles; k++) writeI32(masks, k, 0)
  let found = 0
  let from = 0
  while (from < count) {
    let to = from + 1
    while (to < count && to - from < linkPath.MOST && goesOn(links, to)) to++
    const path = paths + <usize>(found * linkPath.SIZE * F32)
    writeI32(path, linkPath.first, from)
    writeI32(path, linkPath.length, to - from)
    writeI32(path, linkPath.colour, colourPath(links, from, to, first, masks))
    found++
    from = to
  }
  return found
}
/** Whether a link goes on where the one before it ends: that may have broken. */
function goesOn(links: usize, n: i32): bool {
  const record = linkAt(links, n)
  return readF64(record, link.joined) == 1.0 && readF64(record, link.bodyA) == readF64(linkAt(links, n - 1), link.bodyB)
}
function colourPath(links: usize, from: i32, to: i32, first: i32, masks: usize): i32 {
  let low = 0
  let high = 0
  for (let n = from; n < to; n++) {
    for (let side = n == from ? 0 : 1; side < 2; side++) {
      const i = (truncate(readF64(linkAt(links, n), link.bodyA + side)) - first) * 2
      low |= readI32(masks, i)
      high |= readI32(masks, i + 1)
    }
  }
  const colour = freeColour(low, high)
  if (colour == linkPath.COLOURS - 1) return colour
  const half = colour < 31 ? 0 : 1
  const bit = 1 << (colour - 31 * half)
  for (let n = from; n < to; n++) {
    for (let side = n == from ? 0 : 1; side < 2; side++) {
      const at = (truncate(readF64(linkAt(links, n), link.bodyA + side)) - first) * 2 + half
      writeI32(masks, at, readI32(masks, at) | bit)
    }
  }
  return colour
}
/** The lowest bit that is not set, of 31 in each half. */
function freeColour(low: i32, high: i32): i32 {
  for (let k = 0; k < 31; k++) if (((low >> k) & 1) == 0) return k
  for (let k = 0; k < 31; k++) if (((high >> k) & 1) == 0) return k + 31
  return linkPath.COLOURS - 1
}

/** Counting sort of `order` into `sorted` by a field of paths, least first (or greatest first); stable. */
function sortBy(paths: usize, count: i32, field: i32, keys: i32, reversed: i32, order: usize, sorted: usize, counts: usize): void {
  for (let k = 0; k <= keys; k++) writeI32(counts, k, 0)
  for (let n = 0; n < count; n++) {
    const k = keyOf(paths, readI32(order, n), field, keys, reversed) + 1
    writeI32(counts, k, readI32(counts, k) + 1)
  }
  for (let k = 1; k <= keys; k++) writeI32(counts, k, readI32(counts, k) + readI32(counts, k - 1))
  for (let n = 0; n < count; n++) {
    const path = readI32(order, n)
    const k = keyOf(paths, path, field, keys, reversed)
    const at = readI32(counts, k)
    writeI32(sorted, at, path)
    writeI32(counts, k, at + 1)
  }
}
function keyOf(paths: usize, path: i32, field: i32, keys: i32, reversed: i32): i32 {
  const value = readI32(paths, path * linkPath.SIZE + field)
  const key = value < keys ? value : keys - 1
  return reversed == 1 ? keys - 1 - key : key
}

/**
 * Paths in batches of four of a colour, the long ones together. `batches`: pathBatch for each; `slots`: of each step the
 * numbers of its four links, −1 for nobody; `starts`: the first batch of each colour and one more (i32); `order` and
 * `sorted` (i32 per path) and `counts` (linkPath.LENGTHS + 1 i32) are scratch. Returns how many batches; `starts` ends with how many
 * steps there are.
 */
export function batchPaths(
  paths: usize, count: i32, order: usize, sorted: usize, counts: usize, batches: usize, slots: usize, starts: usize,
): i32 {
  for (let n = 0; n < count; n++) writeI32(order, n, n)
  sortBy(paths, count, linkPath.length, linkPath.LENGTHS, 1, order, sorted, counts)
  sortBy(paths, count, linkPath.colour, linkPath.COLOURS, 0, sorted, order, counts)
  let batch = 0
  let step = 0
  let at = 0
  for (let colour = 0; colour < linkPath.COLOURS; colour++) {
    writeI32(starts, colour, batch)
    while (at < count && readI32(paths, readI32(order, at) * linkPath.SIZE + linkPath.colour) == colour) {
      const lanes = laneCount(paths, order, at, count, colour)
      let steps = 0
      for (let lane = 0; lane < lanes; lane++) {
        const length = readI32(paths, readI32(order, at + lane) * linkPath.SIZE + linkPath.length)
        if (length > steps) steps = length
      }
      for (let lane = 0; lane < 4; lane++) fillLane(paths, lane < lanes ? readI32(order, at + lane) : -1, slots, step, steps, lane)
      writeI32(batches, batch * pathBatch.SIZE + pathBatch.first, step)
      writeI32(batches, batch * pathBatch.SIZE + pathBatch.steps, steps)
      batch++
      step += steps
      at += lanes
    }
  }
  writeI32(starts, linkPath.COLOURS, batch)
  writeI32(starts, linkPath.COLOURS + 1, step)
  return batch
}
/** Paths from `at` on that may be one batch. */
function laneCount(paths: usize, order: usize, at: i32, count: i32, colour: i32): i32 {
  if (colour == linkPath.COLOURS - 1) return 1
  let lanes = 1
  while (lanes < 4 && at + lanes < count && readI32(paths, readI32(order, at + lanes) * linkPath.SIZE + linkPath.colour) == colour) lanes++
  return lanes
}
function fillLane(paths: usize, path: i32, slots: usize, step: i32, steps: i32, lane: i32): void {
  const first = path < 0 ? 0 : readI32(paths, path * linkPath.SIZE + linkPath.first)
  const length = path < 0 ? 0 : readI32(paths, path * linkPath.SIZE + linkPath.length)
  for (let k = 0; k < steps; k++) writeI32(slots, (step + k) * 4 + lane, k < length ? first + k : -1)
}
