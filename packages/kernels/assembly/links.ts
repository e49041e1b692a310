/**
 * Links as records (`link` in layouts.ts), in the order in which they were made: which there are, where their ends stand,
 * how far they stretch and when they break. linkPaths.ts solves them.
 */
import { bodyRow, F64, link, treeQuad, treeStack } from './layouts'
import { addWrapping, readF32, readF64, readI32, squareRoot, truncate, unsigned, writeF32, writeF64, writeI32 } from './machine'
import { piercesTree } from './rays'

export function linkAt(links: usize, n: i32): usize {
  return links + <usize>(n * link.SIZE * F64)
}

/** column += factor·halfKick, 3 × f32. */
export function addHalfKick(start: i32, end: i32, column: usize, halfKick: usize, factor: f64): void {
  for (let k = start * 3; k < end * 3; k++) writeF32(column, k, readF32(column, k) + factor * readF32(halfKick, k))
}
/** What lies on something (marked, see `predictResting`) needs no such correction. */
export function clearHalfKick(start: i32, end: i32, marks: usize, first: i32, halfKick: usize): void {
  for (let i = start; i < end; i++) {
    if (readI32(marks, addWrapping(first, i)) == 0) continue
    for (let axis = 0; axis < 3; axis++) writeF32(halfKick, i * 3 + axis, 0.0)
  }
}

/**
 * Where the ends of links stand among the bodies, by their ids, which ascend; links to the dead are taken out. Returns how
 * many are left.
 */
export function placeLinks(links: usize, count: i32, ids: usize, particles: i32, first: i32): i32 {
  let left = 0
  for (let n = 0; n < count; n++) {
    const record = linkAt(links, n)
    const a = placeOf(ids, particles, truncate(readF64(record, link.idA)), truncate(readF64(record, link.bodyA)) - first)
    const b = placeOf(ids, particles, truncate(readF64(record, link.idB)), truncate(readF64(record, link.bodyB)) - first)
    if (a < 0 || b < 0) continue
    writeF64(record, link.bodyA, <f64>(a + first))
    writeF64(record, link.bodyB, <f64>(b + first))
    copyRecord(record, linkAt(links, left))
    left++
  }
  return left
}
/** Place of an id, which may be where it was; −1 where it is not. */
function placeOf(ids: usize, particles: i32, id: i32, known: i32): i32 {
  if (known >= 0 && known < particles && readI32(ids, known) == id) return known
  let low = 0
  let high = particles
  while (low < high) {
    const middle = (low + high) >> 1
    if (unsigned(readI32(ids, middle)) < unsigned(id)) low = middle + 1
    else high = middle
  }
  return low < particles && readI32(ids, low) == id ? low : -1
}
function copyRecord(from: usize, to: usize): void {
  if (from == to) return
  for (let k = 0; k < link.SIZE; k++) writeF64(to, k, readF64(from, k))
}

/** Takes out links that hold no more, which go to `broken` in their order. Returns how many are left. */
export function removeBroken(links: usize, count: i32, broken: usize): i32 {
  let left = 0
  let gone = 0
  for (let n = 0; n < count; n++) {
    const record = linkAt(links, n)
    if (readF64(record, link.holds) != 1.0) {
      copyRecord(record, linkAt(broken, gone))
      gone++
      continue
    }
    copyRecord(record, linkAt(links, left))
    left++
  }
  return left
}

/** Σ ½·α·F² of links that hold, joule, with the force F = λ/h²; rigid ones have none. */
export function energyOfLinks(links: usize, count: i32, moved: usize, compliance: f64, soft: f64, h: f64): f64 {
  let sum = 0.0
  for (let n = 0; n < count; n++) {
    const record = linkAt(links, n)
    if (readF64(record, link.holds) != 1.0) continue
    const wa = readF32(moved, truncate(readF64(record, link.bodyA)) * bodyRow.SIZE + bodyRow.inverseMass)
    const wb = readF32(moved, truncate(readF64(record, link.bodyB)) * bodyRow.SIZE + bodyRow.inverseMass)
    const alpha = compliance + soft * readF64(record, link.restLength) * (wa + wb)
    const force = readF64(record, link.impulse) / (h * h)
    sum += 0.5 * alpha * force * force
  }
  return sum
}

/**
 * Links through which the surface of a mesh passes are cut: where a triangle lies between the two ends, now or half a
 * substep ago; `flag` (i32) is set then. `into` is the map of the world into the tree's frame (12 f64).
 */
export function cutLinks(
  start: i32, end: i32, links: usize, starts: usize, moved: usize,
  quads: usize, vertices: usize, stack: usize, into: usize, back: usize, flag: usize, thread: i32,
): void {
  boundTree(quads)
  for (let n = start; n < end; n++) {
    const record = linkAt(links, n)
    if (readF64(record, link.holds) != 1.0) continue
    const a = truncate(readF64(record, link.bodyA)) * bodyRow.SIZE
    const b = truncate(readF64(record, link.bodyB)) * bodyRow.SIZE
    for (let half = 0; half < 2; half++) {
      // half a substep ago the surface was half its way back, which is the same as the ends that way forth
      const map = half == 0 ? into : back
      const share = half == 0 ? 1.0 : 0.5
      const ax = onWay(starts, moved, a + 0, share)
      const ay = onWay(starts, moved, a + 1, share)
      const az = onWay(starts, moved, a + 2, share)
      const px = row(map, 0, ax, ay, az)
      const py = row(map, 4, ax, ay, az)
      const pz = row(map, 8, ax, ay, az)
      const bx = onWay(starts, moved, b + 0, share)
      const by = onWay(starts, moved, b + 1, share)
      const bz = onWay(starts, moved, b + 2, share)
      const dx = row(map, 0, bx, by, bz) - px
      const dy = row(map, 4, bx, by, bz) - py
      const dz = row(map, 8, bx, by, bz) - pz
      if (isBeside(px, dx, lowX, highX) || isBeside(py, dy, lowY, highY) || isBeside(pz, dz, lowZ, highZ)) continue
      if (piercesTree(quads, vertices, stack, thread * treeStack.SIZE, px, py, pz, dx, dy, dz)) {
        writeF64(record, link.holds, 2.0)
        writeI32(flag, 0, 1)
        break
      }
    }
  }
}
/** The box of a whole tree, with room for rounding. */
let lowX: f64 = 0.0
let lowY: f64 = 0.0
let lowZ: f64 = 0.0
let highX: f64 = 0.0
let highY: f64 = 0.0
let highZ: f64 = 0.0
function boundTree(quads: usize): void {
  lowX = lowest(quads, treeQuad.lowX)
  lowY = lowest(quads, treeQuad.lowY)
  lowZ = lowest(quads, treeQuad.lowZ)
  highX = highest(quads, treeQuad.highX)
  highY = highest(quads, treeQuad.highY)
  highZ = highest(quads, treeQuad.highZ)
}
function lowest(quads: usize, at: i32): f64 {
  let low = readF32(quads, at)
  for (let k = 1; k < 4; k++) {
    const one = readF32(quads, at + k)
    if (one < low) low = one
  }
  return low - ROOM * (low < 0.0 ? -low : low)
}
function highest(quads: usize, at: i32): f64 {
  let high = readF32(quads, at)
  for (let k = 1; k < 4; k++) {
    const one = readF32(quads, at + k)
    if (one > high) high = one
  }
  return high + ROOM * (high < 0.0 ? -high : high)
}
/** What f32 rounds off a place is less. */
const ROOM: f64 = 1.0e-6
/** Whether the way from p by d lies wholly below or above two bounds. */
function isBeside(p: f64, d: f64, low: f64, high: f64): bool {
  return (p < low && p + d < low) || (p > high && p + d > high)
}
/** A number of a body's place, so far on its way through the substep. */
function onWay(starts: usize, moved: usize, at: i32, share: f64): f64 {
  return readF32(starts, at) + readF32(moved, at) * share
}
function row(map: usize, at: i32, x: f64, y: f64, z: f64): f64 {
  return readF64(map, at) * x + readF64(map, at + 1) * y + readF64(map, at + 2) * z + readF64(map, at + 3)
}

/**
 * The two ends of each link (2 × i32) among `particles` whose ids ascend, `first` being the number of their first among the bodies;
 * −1 where one is not there.
 */
export function linkEnds(start: i32, end: i32, links: usize, ids: usize, particles: i32, first: i32, ends: usize): void {
  for (let n = start; n < end; n++) {
    const record = linkAt(links, n)
    const a = placeOf(ids, particles, truncate(readF64(record, link.idA)), truncate(readF64(record, link.bodyA)) - first)
    const b = placeOf(ids, particles, truncate(readF64(record, link.idB)), truncate(readF64(record, link.bodyB)) - first)
    const both = a >= 0 && b >= 0
    writeI32(ends, n * 2, both ? a + first : -1)
    writeI32(ends, n * 2 + 1, both ? b + first : -1)
  }
}
/** Whom each particle is linked to: from `first`[i] (i32, particles + 1) on in `partners` (i32, 2 per link), by `linkEnds`. */
export function partnersOfEnds(count: i32, ends: usize, particles: i32, first: usize, partners: usize): void {
  for (let i = 0; i <= particles; i++) writeI32(first, i, 0)
  for (let k = 0; k < 2 * count; k++) {
    const i = readI32(ends, k)
    if (i >= 0) writeI32(first, i + 1, readI32(first, i + 1) + 1)
  }
  for (let i = 1; i <= particles; i++) writeI32(first, i, readI32(first, i) + readI32(first, i - 1))
  for (let k = 2 * count - 1; k >= 0; k--) {
    const i = readI32(ends, k)
    if (i < 0) continue
    // counted down from where the next one's begin, which leaves that where its own do
    const at = readI32(first, i + 1) - 1
    writeI32(first, i + 1, at)
    writeI32(partners, at, readI32(ends, k ^ 1))
  }
  const all = countEnds(count, ends)
  for (let i = 0; i < particles; i++) writeI32(first, i, readI32(first, i + 1))
  writeI32(first, particles, all)
}
function countEnds(count: i32, ends: usize): i32 {
  let all = 0
  for (let k = 0; k < 2 * count; k++) if (readI32(ends, k) >= 0) all++
  return all
}
