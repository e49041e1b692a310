/** What contacts between particles bore in the last substep, and how they go on from it. */
import { bodyAt } from './solverBodies'
import { contact, F64, storedImpulse } from './layouts'
import { multiplyLow, readF64, readI32, shiftRight, truncate, writeF64, writeI32 } from './machine'
import { contactDirection, first, nx, ny, nz, pairAt, pushBoth, second } from './pairs'

function hashOf(a: i32, b: i32, kindA: i32, kindB: i32): i32 {
  const h = multiplyLow(a, 0x297a2d39) ^ multiplyLow(b, 0x1b56c4e9) ^ multiplyLow(kindA * 64 + kindB, 0x2545f491)
  return h ^ shiftRight(h, 15)
}

/**
 * Contacts go on from what they bore in the last substep (`stored`, `storedCount` of them), and who lies on whom is moved by
 * that at once: a heap is then borne from the first round on, and does not creep. `table` is scratch of `mask` + 1 i32,
 * at least twice as many as are stored.
 */
export function warmStartPairs(
  pairs: usize, count: i32, bodies: usize, ids: usize, kinds: usize, stored: usize, storedCount: i32, table: usize, mask: i32,
): void {
  if (storedCount == 0) return
  for (let n = 0; n <= mask; n++) writeI32(table, n, -1)
  for (let n = 0; n < storedCount; n++) {
    const k = stored + <usize>(n * storedImpulse.SIZE * F64)
    let at = hashOf(truncate(readF64(k, storedImpulse.idA)), truncate(readF64(k, storedImpulse.idB)), truncate(readF64(k, storedImpulse.populationA)), truncate(readF64(k, storedImpulse.populationB))) & mask
    while (readI32(table, at) >= 0) at = (at + 1) & mask
    writeI32(table, at, n)
  }
  for (let n = 0; n < count; n++) {
    const pair = pairAt(pairs, n)
    const i = first(pair)
    const j = second(pair)
    const a = readI32(ids, i)
    const b = readI32(ids, j)
    const kindA = readI32(kinds, i)
    const kindB = readI32(kinds, j)
    let at = hashOf(a, b, kindA, kindB) & mask
    for (; readI32(table, at) >= 0; at = (at + 1) & mask) {
      const k = stored + <usize>(readI32(table, at) * storedImpulse.SIZE * F64)
      if (truncate(readF64(k, storedImpulse.idA)) != a || truncate(readF64(k, storedImpulse.idB)) != b) continue
      if (truncate(readF64(k, storedImpulse.populationA)) != kindA || truncate(readF64(k, storedImpulse.populationB)) != kindB) continue
      applyWarmStart(pair, k, bodyAt(bodies, i), bodyAt(bodies, j))
      break
    }
  }
}

function applyWarmStart(pair: usize, stored: usize, a: usize, b: usize): void {
  contactDirection(pair, a, b)
  const lambda = readF64(stored, storedImpulse.normalImpulse)
  let tx = readF64(stored, storedImpulse.tangentImpulseX)
  let ty = readF64(stored, storedImpulse.tangentImpulseY)
  let tz = readF64(stored, storedImpulse.tangentImpulseZ)
  const along = tx * nx + ty * ny + tz * nz
  tx -= along * nx
  ty -= along * ny
  tz -= along * nz
  writeF64(pair, contact.bore, 1.0)
  writeF64(pair, contact.normalImpulse, lambda)
  writeF64(pair, contact.tangentImpulseX, tx)
  writeF64(pair, contact.tangentImpulseY, ty)
  writeF64(pair, contact.tangentImpulseZ, tz)
  pushBoth(a, b, nx * lambda + tx, ny * lambda + ty, nz * lambda + tz)
}

/** What bears now, for the next substep. Returns how many. */
export function storeImpulses(pairs: usize, count: i32, ids: usize, kinds: usize, stored: usize): i32 {
  let found = 0
  for (let n = 0; n < count; n++) {
    const pair = pairAt(pairs, n)
    if (readF64(pair, contact.normalImpulse) == 0.0) continue
    const i = first(pair)
    const j = second(pair)
    const k = stored + <usize>(found * storedImpulse.SIZE * F64)
    writeF64(k, storedImpulse.idA, <f64>readI32(ids, i))
    writeF64(k, storedImpulse.populationA, <f64>readI32(kinds, i))
    writeF64(k, storedImpulse.idB, <f64>readI32(ids, j))
    writeF64(k, storedImpulse.populationB, <f64>readI32(kinds, j))
    writeF64(k, storedImpulse.normalImpulse, readF64(pair, contact.normalImpulse))
    for (let axis = 0; axis < 3; axis++) writeF64(k, storedImpulse.tangentImpulseX + axis, readF64(pair, contact.tangentImpulseX + axis))
    found++
  }
  return found
}
