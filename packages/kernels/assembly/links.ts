/**
 * Links as records (`link` in layouts.ts), in the order in which they were made: which there are, where their ends stand,
 * how far they stretch and when they break. linkPaths.ts solves them.
 */
import { bodyRow, F64, link, treeStack } from './layouts'
import { addWrapping, readF32, readF64, readI32, squareRoot, truncate, unsigned, writeF32, writeF64, writeI32 } from './machine'
import { piercesTree } from './sweep'

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

/**
 * Takes out links that hold no more, which go to `broken` in their order. Returns how many are left; the greatest stretch
 * of these into `most` (f64).
 */
export function removeBroken(links: usize, count: i32, broken: usize, most: usize): i32 {
  let left = 0
  let gone = 0
  let greatest = readF64(most, 0)
  for (let n = 0; n < count; n++) {
    const record = linkAt(links, n)
    if (readF64(record, link.holds) != 1.0) {
      copyRecord(record, linkAt(broken, gone))
      gone++
      continue
    }
    if (readF64(record, link.stretch) > greatest) greatest = readF64(record, link.stretch)
    copyRecord(record, linkAt(links, left))
    left++
  }
  writeF64(most, 0, greatest)
  return left
}

/**
 * After the rounds: the stretch of each; those beyond what they bear break; beyond `yields` the length at rest follows
 * by the share `creep`.
 */
export function strainLinks(
  start: i32, end: i32, links: usize, starts: usize, moved: usize, breaks: f64, yields: f64, creep: f64,
): void {
  for (let n = start; n < end; n++) {
    const record = linkAt(links, n)
    if (readF64(record, link.holds) == 0.0) continue
    const a = truncate(readF64(record, link.bodyA)) * bodyRow.SIZE
    const b = truncate(readF64(record, link.bodyB)) * bodyRow.SIZE
    const x = readF32(starts, a) - readF32(starts, b) + (readF32(moved, a) - readF32(moved, b))
    const y = readF32(starts, a + 1) - readF32(starts, b + 1) + (readF32(moved, a + 1) - readF32(moved, b + 1))
    const z = readF32(starts, a + 2) - readF32(starts, b + 2) + (readF32(moved, a + 2) - readF32(moved, b + 2))
    const d = squareRoot(x * x + y * y + z * z)
    const first = readF64(record, link.madeLength)
    const stretch = d / first - 1.0
    writeF64(record, link.stretch, stretch)
    if (breaks > 0.0 && stretch > breaks * readF64(record, link.breakFactor)) {
      writeF64(record, link.holds, 0.0)
      continue
    }
    if (creep == 0.0) continue
    const rest = readF64(record, link.restLength)
    const over = d / rest - 1.0
    const beyond = over > yields ? over - yields : over < -yields ? over + yields : 0.0
    if (beyond != 0.0) writeF64(record, link.restLength, rest * (1.0 + beyond * creep))
  }
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
 * substep ago. `into` is the map of the world into the tree's frame (12 f64). Each writes to itself only.
 */
export function cutLinks(
  start: i32, end: i32, links: usize, starts: usize, moved: usize,
  quads: usize, vertices: usize, stack: usize, into: usize, back: usize, thread: i32,
): void {
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
      if (piercesTree(quads, vertices, stack, thread * treeStack.SIZE, px, py, pz, dx, dy, dz)) {
        writeF64(record, link.holds, 2.0)
        break
      }
    }
  }
}
/** A number of a body's place, so far on its way through the substep. */
function onWay(starts: usize, moved: usize, at: i32, share: f64): f64 {
  return readF32(starts, at) + readF32(moved, at) * share
}
function row(map: usize, at: i32, x: f64, y: f64, z: f64): f64 {
  return readF64(map, at) * x + readF64(map, at + 1) * y + readF64(map, at + 2) * z + readF64(map, at + 3)
}

/** Partners of every particle by links that hold: `first` (i32, particles + 1) and `partners` (i32, 2 per link). */
export function linkPartners(links: usize, count: i32, particles: i32, first: usize, partners: usize): void {
  for (let i = 0; i <= particles; i++) writeI32(first, i, 0)
  for (let n = 0; n < count; n++) {
    const record = linkAt(links, n)
    if (readF64(record, link.holds) == 0.0) continue
    for (let side = 0; side < 2; side++) {
      const i = truncate(readF64(record, link.bodyA + side)) + 1
      writeI32(first, i, readI32(first, i) + 1)
    }
  }
  for (let i = 1; i <= particles; i++) writeI32(first, i, readI32(first, i) + readI32(first, i - 1))
  for (let n = count - 1; n >= 0; n--) {
    const record = linkAt(links, n)
    if (readF64(record, link.holds) == 0.0) continue
    for (let side = 0; side < 2; side++) {
      const i = truncate(readF64(record, link.bodyA + side))
      const at = readI32(first, i + 1) - 1
      writeI32(first, i + 1, at)
      writeI32(partners, at, truncate(readF64(record, link.bodyB - side)))
    }
  }
  // what was counted down stands one place on
  for (let i = 0; i < particles; i++) writeI32(first, i, readI32(first, i + 1))
  writeI32(first, particles, 2 * holding(links, count))
}
function holding(links: usize, count: i32): i32 {
  let all = 0
  for (let n = 0; n < count; n++) if (readF64(linkAt(links, n), link.holds) != 0.0) all++
  return all
}
