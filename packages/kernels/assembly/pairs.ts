/** Pairs of particles that may touch: candidates found among neighbours, and how they are cut into slabs and batches. */
import { bodyRow, gridEntry, neighbour, OPEN_BATCHES } from './layouts'
import { any4, bits4, equalI4, loadI4, or4, splatI4, storeI4 } from './lanes'
import { floor, readF32, readF64, readI32, squareRoot, truncate, writeI32 } from './machine'
import { entriesOf, listNeighbours, listOf, particleOf } from './neighbours'

/**
 * Candidates for contact: each particle lists up to `most` others, slower ones than itself, that its ball can meet. The grid
 * holds the crowd of `crowdOfBodies`. With `ahead` = 0 it stands half-way through a substep, and who moves δ against the other in it
 * is met within δ/2; else it stands at the start, and each may go `ahead` times what it moves now. So only who is fast looks far.
 * `kinds` (i32) is the population of each; `allowed` (i32, populations²) the rule of two, −1 where they do not collide.
 * `amounts` (f32): 0 takes no part. `partners` (from partnerFirst; 0: none) names those that links hold already.
 */
export function listPairs(
  start: i32, end: i32, cells: usize, position: usize, radius: usize, motion: usize, widest: f64, margin: f64, ahead: f64, most: i32,
  kinds: usize, allowed: usize, populations: i32, amounts: usize, partnerFirst: usize, partners: usize,
  counts: usize, slots: usize, thread: i32,
): void {
  const entries = entriesOf(cells)
  const list = listOf(cells, thread)
  for (let turn = start; turn < end; turn++) {
    const i = particleOf(cells, turn)
    let kept = 0
    if (readF32(amounts, i) > 0.0) {
      const r = readF32(radius, i)
      const vx = readF32(motion, i * 3)
      const vy = readF32(motion, i * 3 + 1)
      const vz = readF32(motion, i * 3 + 2)
      const squared = vx * vx + vy * vy + vz * vz
      const own = squareRoot(squared)
      const found = listNeighbours(
        cells, i, readF32(position, i * 3), readF32(position, i * 3 + 1), readF32(position, i * 3 + 2),
        (r + widest) * margin + (ahead == 0.0 ? own : 2.0 * ahead * own), neighbour.MOST, thread,
      )
      for (let n = 0; n < found && kept < most; n++) {
        const e = truncate(readF64(list, n * neighbour.SIZE + neighbour.entry))
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
        if (readF64(list, n * neighbour.SIZE + neighbour.squared) >= reach * reach) continue
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
/**
 * The slab of each body (i32), by the slabs of the bins, and where it stands among all: slab by slab, in each by so many layers along
 * the axis `up`.
 */
export function slabsOfBodies(
  start: i32, end: i32, starts: usize, axis: i32, low: f64, perMetre: f64, bins: i32, slabOfBin: usize,
  up: i32, lowest: f64, layersPerMetre: f64, layers: i32, slabs: usize, keys: usize,
): void {
  for (let i = start; i < end; i++) {
    const s = readI32(slabOfBin, binOf(starts, i, axis, low, perMetre, bins))
    writeI32(slabs, i, s)
    writeI32(keys, i, s * layers + binOf(starts, i, up, lowest, layersPerMetre, layers))
  }
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
 * bodies by slab and layer.
 */
export function countPairs(
  start: i32, end: i32, slabs: usize, slabCount: i32, layers: i32, first: usize, order: usize, counts: usize, most: i32, slots: usize,
  out: usize, bridging: usize,
): void {
  for (let s = start; s < end; s++) {
    let found = 0
    let far = 0
    const to = readI32(first, (s + 2 < slabCount ? s + 2 : slabCount) * layers)
    for (let k = readI32(first, s * layers); k < to; k++) {
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
 * The candidates of slabs in batches of four without a common body: each goes into the first of the batches that are being
 * filled that has none of its bodies. `batches` are 8 i32 each, the lower bodies and then the others; those of slab s begin at
 * `offsets`[s], and `out` counts them. Slab number `slabCount` is for those that bridge more. `open` is scratch.
 */
export function batchPairs(
  start: i32, end: i32, slabs: usize, slabCount: i32, layers: i32, first: usize, order: usize, counts: usize, most: i32, slots: usize,
  nobody: i32, offsets: usize, batches: usize, out: usize, open: usize, thread: i32,
): void {
  const filling = open + <usize>(thread * OPEN_BATCHES * 4)
  for (let s = start; s < end; s++) {
    const base = batches + <usize>(readI32(offsets, s) * 32)
    const bridges = s == slabCount
    const from = bridges ? 0 : readI32(first, s * layers)
    const to = readI32(first, (bridges || s + 2 > slabCount ? slabCount : s + 2) * layers)
    const wanted = bridges ? -1 : s
    let made = 0
    let opened = 0
    for (let k = from; k < to; k++) {
      const i = readI32(order, k)
      for (let n = 0; n < readI32(counts, i); n++) {
        const j = readI32(slots, i * most + n)
        if (slabOfPair(slabs, i, j) != wanted) continue
        const a = i < j ? i : j
        const b = i < j ? j : i
        let at = 0
        while (at < opened && isTaken(base, readI32(filling, at), a, b)) at++
        if (at == opened) {
          // none is free: the one that has waited longest stays as it is
          if (opened == OPEN_BATCHES) opened = closeBatch(filling, 0, opened)
          at = opened
          writeI32(filling, at, made)
          storeI4(base, made * 8, splatI4(nobody))
          storeI4(base, made * 8 + 4, splatI4(nobody))
          opened++
          made++
        }
        const batch = readI32(filling, at)
        const lane = laneOf(bits4(equalI4(loadI4(base, batch * 8), splatI4(nobody))))
        writeI32(base, batch * 8 + lane, a)
        writeI32(base, batch * 8 + 4 + lane, b)
        if (lane == 3) opened = closeBatch(filling, at, opened)
      }
    }
    writeI32(out, s, made)
  }
}
function isTaken(base: usize, batch: i32, a: i32, b: i32): bool {
  const low = loadI4(base, batch * 8)
  const high = loadI4(base, batch * 8 + 4)
  return any4(or4(or4(equalI4(low, splatI4(a)), equalI4(high, splatI4(a))), or4(equalI4(low, splatI4(b)), equalI4(high, splatI4(b)))))
}
function closeBatch(filling: usize, at: i32, opened: i32): i32 {
  for (let n = at + 1; n < opened; n++) writeI32(filling, n - 1, readI32(filling, n))
  return opened - 1
}
/** The lowest bit that is set, of four. */
function laneOf(bits: i32): i32 {
  return (bits & 1) != 0 ? 0 : (bits & 2) != 0 ? 1 : (bits & 4) != 0 ? 2 : 3
}
