/** What contacts between particles bore, kept from list to list of candidates and in snapshots: they go on from it. */
import { contactRule, contactStep, F32, slab, storedImpulse } from './layouts'
import { readF32, readF64, readI32, unsigned, writeF32, writeI32 } from './machine'

export function stepAt(steps: usize, n: i32): usize {
  return steps + <usize>(n * contactStep.SIZE * F32)
}

/**
 * Steps of the batches of slabs (`slab` records, from number `from` on; theirs begin in `batches` at `offsets`), with what each
 * pair bore (`stored`, those of old body o from `storedFirst`[o] on; `oldOf`: its old number, −1 for none). `rules`: contactRule each.
 */
export function layPairs(
  start: i32, end: i32, slabRecords: usize, offsets: usize, batches: usize, nobody: i32, kinds: usize, ids: usize, allowed: usize,
  populations: i32, rules: usize, oldOf: usize, storedFirst: usize, stored: usize, steps: usize,
): void {
  for (let s = start; s < end; s++) {
    const first = readI32(slabRecords, s * slab.SIZE + slab.first)
    const count = readI32(slabRecords, s * slab.SIZE + slab.batches)
    const from = readI32(offsets, s)
    for (let n = 0; n < count; n++) {
      const batch = batches + <usize>((from + n) * 32)
      const step = stepAt(steps, first + n)
      for (let lane = 0; lane < 4; lane++) {
        const a = readI32(batch, lane)
        const b = readI32(batch, 4 + lane)
        writeI32(step, contactStep.bodyA + lane, a)
        writeI32(step, contactStep.bodyB + lane, b)
        for (let k = 0; k < 4; k++) writeF32(step, contactStep.normalImpulse + 4 * k + lane, 0.0)
        const rule = a == nobody ? -1 : readI32(allowed, readI32(kinds, a) * populations + readI32(kinds, b))
        for (let k = 0; k < contactRule.SIZE; k++) {
          writeF32(step, contactStep.bounce + 4 * k + lane, rule < 0 ? 0.0 : readF64(rules, rule * contactRule.SIZE + k))
        }
        const old = a == nobody ? -1 : readI32(oldOf, a)
        if (old >= 0) recall(step, lane, stored, readI32(storedFirst, old), readI32(storedFirst, old + 1), readI32(ids, b), readI32(kinds, b))
      }
    }
  }
}
function recall(step: usize, lane: i32, stored: usize, from: i32, to: i32, id: i32, kind: i32): void {
  for (let n = from; n < to; n++) {
    const at = n * storedImpulse.SIZE
    if (readI32(stored, at + storedImpulse.id) != id || readI32(stored, at + storedImpulse.population) != kind) continue
    for (let k = 0; k < 4; k++) {
      writeF32(step, contactStep.normalImpulse + 4 * k + lane, readF32(stored, at + storedImpulse.normalImpulse + k))
    }
    return
  }
}

/** The old number of each body by its population and id, both of which ascend (i32, −1: it was not there). */
export function matchBodies(
  count: i32, kinds: usize, ids: usize, oldCount: i32, oldKinds: usize, oldIds: usize, out: usize,
): void {
  let k = 0
  for (let i = 0; i < count; i++) {
    const kind = readI32(kinds, i)
    const id = unsigned(readI32(ids, i))
    while (k < oldCount && (readI32(oldKinds, k) < kind || (readI32(oldKinds, k) == kind && unsigned(readI32(oldIds, k)) < id))) k++
    writeI32(out, i, k < oldCount && readI32(oldKinds, k) == kind && unsigned(readI32(oldIds, k)) == id ? k : -1)
  }
}

/** Adds to `counts` (i32 per body) the contacts of slabs that bear, at the lower body. */
export function countBearing(start: i32, end: i32, slabRecords: usize, steps: usize, counts: usize): void {
  for (let s = start; s < end; s++) {
    const first = readI32(slabRecords, s * slab.SIZE + slab.first)
    const to = first + readI32(slabRecords, s * slab.SIZE + slab.batches)
    for (let n = first; n < to; n++) {
      const step = stepAt(steps, n)
      for (let lane = 0; lane < 4; lane++) {
        if (readF32(step, contactStep.normalImpulse + lane) == 0.0) continue
        const a = readI32(step, contactStep.bodyA + lane)
        writeI32(counts, a, readI32(counts, a) + 1)
      }
    }
  }
}
/** Sums up `counts`: where those of each body begin, and one more; `next` the same. Returns how many there are. */
export function firstsOf(count: i32, counts: usize, first: usize, next: usize): i32 {
  let sum = 0
  for (let i = 0; i < count; i++) {
    writeI32(first, i, sum)
    writeI32(next, i, sum)
    sum += readI32(counts, i)
  }
  writeI32(first, count, sum)
  return sum
}
/** What the contacts of slabs bear, each to where those of its lower body stand. */
export function storeBearing(
  start: i32, end: i32, slabRecords: usize, steps: usize, kinds: usize, ids: usize, next: usize, stored: usize,
): void {
  for (let s = start; s < end; s++) {
    const first = readI32(slabRecords, s * slab.SIZE + slab.first)
    const to = first + readI32(slabRecords, s * slab.SIZE + slab.batches)
    for (let n = first; n < to; n++) {
      const step = stepAt(steps, n)
      for (let lane = 0; lane < 4; lane++) {
        if (readF32(step, contactStep.normalImpulse + lane) == 0.0) continue
        const a = readI32(step, contactStep.bodyA + lane)
        const b = readI32(step, contactStep.bodyB + lane)
        const at = readI32(next, a) * storedImpulse.SIZE
        writeI32(next, a, readI32(next, a) + 1)
        writeI32(stored, at + storedImpulse.id, readI32(ids, b))
        writeI32(stored, at + storedImpulse.population, readI32(kinds, b))
        for (let k = 0; k < 4; k++) {
          writeF32(stored, at + storedImpulse.normalImpulse + k, readF32(step, contactStep.normalImpulse + 4 * k + lane))
        }
      }
    }
  }
}
