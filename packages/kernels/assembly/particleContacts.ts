/** Two that touch: found, gone on from what they bore, held apart and rubbed (solverBodies.ts says how and from where). */
import { bodyAt, push } from './solverBodies'
import { body, contact, contactRule, F64, gridEntry, neighbour, storedImpulse } from './layouts'
import { multiplyLow, readF32, readF64, readI32, shiftRight, squareRoot, truncate, writeF64, writeI32 } from './machine'
import { entriesOf, listNeighbours, listOf, particleOf } from './neighbours'

/**
 * Candidates for contact: each particle lists up to `most` others, slower ones than itself, that its ball can meet in
 * this substep. `grid` holds places half-way through it, and velocities that are what each moves in it by h. So only who
 * is fast looks far.
 * `kinds` (i32) is the population of each; `allowed` (i32, populations²) the rule of two, −1 where they do not collide.
 * `amounts` (f32): 0 takes no part. `linked` (first, then partners; 0: none) names those that links hold already.
 */
export function listPairs(
  start: i32, end: i32, cells: usize, position: usize, radius: usize, velocity: usize, widest: f64, margin: f64, most: i32,
  kinds: usize, allowed: usize, populations: i32, amounts: usize, partnerFirst: usize, partners: usize,
  counts: usize, slots: usize, h: f64, thread: i32,
): void {
  const entries = entriesOf(cells)
  const list = listOf(cells, thread)
  for (let turn = start; turn < end; turn++) {
    const i = particleOf(cells, turn)
    let kept = 0
    if (readF32(amounts, i) > 0.0) {
      const r = readF32(radius, i)
      const vx = readF32(velocity, i * 3)
      const vy = readF32(velocity, i * 3 + 1)
      const vz = readF32(velocity, i * 3 + 2)
      const squared = vx * vx + vy * vy + vz * vz
      const found = listNeighbours(
        cells, i, readF32(position, i * 3), readF32(position, i * 3 + 1), readF32(position, i * 3 + 2),
        (r + widest) * margin + h * squareRoot(squared), 256, thread,
      )
      for (let n = 0; n < found && kept < most; n++) {
        const e = truncate(readF64(list, n * neighbour.SIZE + neighbour.entry))
        const j = particleOf(cells, e)
        const wx = readF32(entries, e * gridEntry.SIZE + gridEntry.velocityX)
        const wy = readF32(entries, e * gridEntry.SIZE + gridEntry.velocityY)
        const wz = readF32(entries, e * gridEntry.SIZE + gridEntry.velocityZ)
        const its = wx * wx + wy * wy + wz * wz
        if (its > squared || (its == squared && j < i)) continue
        const half = 0.5 * h * squareRoot((vx - wx) * (vx - wx) + (vy - wy) * (vy - wy) + (vz - wz) * (vz - wz))
        const reach = (r + readF32(entries, e * gridEntry.SIZE + gridEntry.radius)) * margin + half
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

/**
 * Pairs in order of their particles, PAIR f64 each: the two, the lower one first, the rule, 3 λ, 4 the speed at which
 * they part before constraints, 5 how far they overlap at the start of the substep; of two that meet on their way 6 the
 * direction between them as they do, so that fast ones do not end up behind one another; 9 λ of friction (3).
 * λ are impulses times h: w·λ is the way that a particle is pushed. Returns how many.
 */
function pairAt(pairs: usize, n: i32): usize {
  return pairs + <usize>(n * contact.SIZE * F64)
}
/** Two that move by more than this share of their radii in a substep are met on their way. */
const FAST: f64 = 0.2

export function packPairs(
  count: i32, most: i32, counts: usize, slots: usize, kinds: usize, allowed: usize, populations: i32, bodies: usize, pairs: usize,
): i32 {
  let found = 0
  for (let i = 0; i < count; i++) {
    const all = readI32(counts, i)
    for (let n = 0; n < all; n++) {
      const other = readI32(slots, i * most + n)
      const low = i < other ? i : other
      const high = i < other ? other : i
      const pair = pairAt(pairs, found)
      writeF64(pair, contact.a, <f64>low)
      writeF64(pair, contact.b, <f64>high)
      writeF64(pair, contact.rule, <f64>readI32(allowed, readI32(kinds, i) * populations + readI32(kinds, other)))
      writeF64(pair, contact.normalImpulse, 0.0)
      writeF64(pair, contact.bore, 0.0)
      for (let axis = 0; axis < 3; axis++) writeF64(pair, contact.tangentImpulseX + axis, 0.0)
      const a = bodyAt(bodies, low)
      const b = bodyAt(bodies, high)
      sweepPair(pair, a, b)
      contactDirection(pair, a, b, low, high)
      writeF64(pair, contact.partingSpeed, speedAlong(a, b, body.freeVelocityX))
      found++
    }
  }
  return found
}

/** |p + t·d| = R for the earliest t, p from b to a at the start, d how that changes: Ericson (2005), §5.5.5. */
function sweepPair(pair: usize, a: usize, b: usize): void {
  const px = readF64(a, body.startX) - readF64(b, body.startX)
  const py = readF64(a, body.startY) - readF64(b, body.startY)
  const pz = readF64(a, body.startZ) - readF64(b, body.startZ)
  const reach = readF64(a, body.radius) + readF64(b, body.radius)
  const apart = squareRoot(px * px + py * py + pz * pz)
  writeF64(pair, contact.startOverlap, apart < reach ? reach - apart : 0.0)
  for (let axis = 0; axis < 3; axis++) writeF64(pair, contact.sweptNormalX + axis, 0.0)
  if (apart <= reach) return
  const dx = readF64(a, body.x) - readF64(b, body.x) - px
  const dy = readF64(a, body.y) - readF64(b, body.y) - py
  const dz = readF64(a, body.z) - readF64(b, body.z) - pz
  const dd = dx * dx + dy * dy + dz * dz
  const along = px * dx + py * dy + pz * dz
  const under = along * along - dd * (apart * apart - reach * reach)
  if (along >= 0.0 || under < 0.0 || dd < FAST * FAST * reach * reach) return
  const t = (-along - squareRoot(under)) / dd
  if (t > 1.0) return
  writeF64(pair, contact.sweptNormalX, (px + t * dx) / reach)
  writeF64(pair, contact.sweptNormalY, (py + t * dy) / reach)
  writeF64(pair, contact.sweptNormalZ, (pz + t * dz) / reach)
}

/** The direction in which a pair is held apart, and its distance along that. */
function contactDirection(pair: usize, a: usize, b: usize, i: i32, j: i32): void {
  nx = readF64(pair, contact.sweptNormalX)
  ny = readF64(pair, contact.sweptNormalY)
  nz = readF64(pair, contact.sweptNormalZ)
  if (nx == 0.0 && ny == 0.0 && nz == 0.0) {
    directionBetween(a, b, i, j)
    return
  }
  distance = speedAlong(a, b, body.x)
}

/** From b to a: direction and distance. At the same place the lower number goes one way, the higher the other. */
let nx: f64 = 0.0
let ny: f64 = 0.0
let nz: f64 = 0.0
let distance: f64 = 0.0
function directionBetween(a: usize, b: usize, i: i32, j: i32): void {
  const x = readF64(a, body.x) - readF64(b, body.x)
  const y = readF64(a, body.y) - readF64(b, body.y)
  const z = readF64(a, body.z) - readF64(b, body.z)
  distance = squareRoot(x * x + y * y + z * z)
  if (distance < 1.0e-12) {
    nx = (i & 1) == (j & 1) ? 1.0 : 0.0
    ny = 0.0
    nz = 1.0 - nx
    return
  }
  nx = x / distance
  ny = y / distance
  nz = z / distance
}

function speedAlong(a: usize, b: usize, at: i32): f64 {
  return (
    nx * (readF64(a, at) - readF64(b, at)) +
    ny * (readF64(a, at + 1) - readF64(b, at + 1)) +
    nz * (readF64(a, at + 2) - readF64(b, at + 2))
  )
}

/** Who sleeps is woken by what touches it and moves faster than `speed`, m/s. */
export function wakePairs(pairs: usize, count: i32, bodies: usize, speed: f64): void {
  for (let n = 0; n < count; n++) {
    const pair = pairAt(pairs, n)
    const a = bodyAt(bodies, truncate(readF64(pair, contact.a)))
    const b = bodyAt(bodies, truncate(readF64(pair, contact.b)))
    const first = readF64(a, body.sleepState) == 1.0
    if (first == (readF64(b, body.sleepState) == 1.0)) continue
    const asleep = first ? a : b
    const other = first ? b : a
    const vx = readF64(other, body.velocityX)
    const vy = readF64(other, body.velocityY)
    const vz = readF64(other, body.velocityZ)
    if (vx * vx + vy * vy + vz * vz <= speed * speed) continue
    directionBetween(a, b, 0, 1)
    if (distance > readF64(a, body.radius) + readF64(b, body.radius)) continue
    writeF64(asleep, body.inverseMass, readF64(asleep, body.awakeInverseMass))
    writeF64(asleep, body.sleepState, 2.0)
  }
}

/** Marks (i32) particles that touch another where they would be at the end of the substep. */
export function markContacts(pairs: usize, count: i32, bodies: usize, particles: i32, marks: usize): void {
  for (let i = 0; i < particles; i++) writeI32(marks, i, 0)
  for (let n = 0; n < count; n++) {
    const pair = pairAt(pairs, n)
    const i = truncate(readF64(pair, contact.a))
    const j = truncate(readF64(pair, contact.b))
    const a = bodyAt(bodies, i)
    const b = bodyAt(bodies, j)
    contactDirection(pair, a, b, i, j)
    if (distance > (readF64(a, body.radius) + readF64(b, body.radius)) * 1.001) continue
    writeI32(marks, i, 1)
    writeI32(marks, j, 1)
  }
}

/** What is remembered of a contact, KNOWN f64: id and population of both, λ, and λ of friction (3). */
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
    const i = truncate(readF64(pair, contact.a))
    const j = truncate(readF64(pair, contact.b))
    const a = readI32(ids, i)
    const b = readI32(ids, j)
    const kindA = readI32(kinds, i)
    const kindB = readI32(kinds, j)
    let at = hashOf(a, b, kindA, kindB) & mask
    for (; readI32(table, at) >= 0; at = (at + 1) & mask) {
      const k = stored + <usize>(readI32(table, at) * storedImpulse.SIZE * F64)
      if (truncate(readF64(k, storedImpulse.idA)) != a || truncate(readF64(k, storedImpulse.idB)) != b) continue
      if (truncate(readF64(k, storedImpulse.populationA)) != kindA || truncate(readF64(k, storedImpulse.populationB)) != kindB) continue
      applyWarmStart(pair, k, bodyAt(bodies, i), bodyAt(bodies, j), i, j)
      break
    }
  }
}
function applyWarmStart(pair: usize, stored: usize, a: usize, b: usize, i: i32, j: i32): void {
  contactDirection(pair, a, b, i, j)
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
    const i = truncate(readF64(pair, contact.a))
    const j = truncate(readF64(pair, contact.b))
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
function pushBoth(a: usize, b: usize, x: f64, y: f64, z: f64): void {
  const wa = readF64(a, body.inverseMass)
  const wb = readF64(b, body.inverseMass)
  push(a, body.x, x * wa, y * wa, z * wa)
  push(b, body.x, -x * wb, -y * wb, -z * wb)
}

/**
 * One round of contacts. With w = wₐ + w_b, C the distance less what it may be, and s how far the two slid along one
 * another in this substep,
 *
 *   λ' = max(λ − C/w, −S·h²/w),   λₜ' = λₜ − s/w, cut to μ·(λ' + S·h²/w) where it is longer than μₛ times that
 *
 * and both are moved by the change. They may come no nearer than touching, or than they were as the substep began: what
 * overlaps already is mended by `depenetratePairs`; if it were mended here, that would give velocity, and heaps would run apart.
 * `rules`: 4 f64 each: bounce, μₛ, μ, stickiness S in m/s², felt over the last twentieth of the radii. Every other round
 * goes backward, so that no side is favoured.
 */
export function solvePairs(pairs: usize, count: i32, bodies: usize, rules: usize, h: f64, backward: i32): void {
  for (let n = 0; n < count; n++) {
    const pair = pairAt(pairs, backward == 1 ? count - 1 - n : n)
    const i = truncate(readF64(pair, contact.a))
    const j = truncate(readF64(pair, contact.b))
    const a = bodyAt(bodies, i)
    const b = bodyAt(bodies, j)
    const w = readF64(a, body.inverseMass) + readF64(b, body.inverseMass)
    if (w == 0.0) continue
    contactDirection(pair, a, b, i, j)
    const rule = truncate(readF64(pair, contact.rule)) * contactRule.SIZE
    const touching = readF64(a, body.radius) + readF64(b, body.radius)
    const gap = distance - touching + readF64(pair, contact.startOverlap)
    const before = readF64(pair, contact.normalImpulse)
    const pull = readF64(rules, rule + contactRule.stickiness) > 0.0 && gap < 0.05 * touching ? (readF64(rules, rule + contactRule.stickiness) * h * h) / w : 0.0
    let lambda = before - gap / w
    if (lambda < -pull) lambda = -pull
    if (lambda == 0.0 && before == 0.0) continue
    writeF64(pair, contact.normalImpulse, lambda)
    const change = lambda - before
    pushBoth(a, b, nx * change, ny * change, nz * change)
    let sx = readF64(a, body.x) - readF64(a, body.startX) - readF64(b, body.x) + readF64(b, body.startX)
    let sy = readF64(a, body.y) - readF64(a, body.startY) - readF64(b, body.y) + readF64(b, body.startY)
    let sz = readF64(a, body.z) - readF64(a, body.startZ) - readF64(b, body.z) + readF64(b, body.startZ)
    const along = sx * nx + sy * ny + sz * nz
    sx -= nx * along
    sy -= ny * along
    sz -= nz * along
    let tx = readF64(pair, contact.tangentImpulseX) - sx / w
    let ty = readF64(pair, contact.tangentImpulseY) - sy / w
    let tz = readF64(pair, contact.tangentImpulseZ) - sz / w
    const load = lambda + pull
    const length = squareRoot(tx * tx + ty * ty + tz * tz)
    if (length > readF64(rules, rule + contactRule.staticFriction) * load) {
      const share = (readF64(rules, rule + contactRule.friction) * load) / length
      tx *= share
      ty *= share
      tz *= share
    }
    pushBoth(a, b, tx - readF64(pair, contact.tangentImpulseX), ty - readF64(pair, contact.tangentImpulseY), tz - readF64(pair, contact.tangentImpulseZ))
    writeF64(pair, contact.tangentImpulseX, tx)
    writeF64(pair, contact.tangentImpulseY, ty)
    writeF64(pair, contact.tangentImpulseZ, tz)
  }
}

/** One round of moving apart what still overlaps, by the share `firm`, with no velocity from it. */
export function depenetratePairs(pairs: usize, count: i32, bodies: usize, firm: f64, backward: i32): void {
  for (let n = 0; n < count; n++) {
    const pair = pairAt(pairs, backward == 1 ? count - 1 - n : n)
    const i = truncate(readF64(pair, contact.a))
    const j = truncate(readF64(pair, contact.b))
    const a = bodyAt(bodies, i)
    const b = bodyAt(bodies, j)
    const wa = readF64(a, body.inverseMass)
    const wb = readF64(b, body.inverseMass)
    if (wa + wb == 0.0) continue
    directionBetween(a, b, i, j)
    const deep = readF64(a, body.radius) + readF64(b, body.radius) - distance
    if (deep <= 0.0) continue
    const share = (firm * deep) / (wa + wb)
    push(a, body.x, nx * share * wa, ny * share * wa, nz * share * wa)
    push(b, body.x, -nx * share * wb, -ny * share * wb, -nz * share * wb)
  }
}

/**
 * Velocities after contact: along n, at least e times the speed of approach. Across, friction takes up to μ times the
 * impulse. Momentum is exchanged, never made.
 */
export function solvePairVelocities(pairs: usize, count: i32, bodies: usize, rules: usize, rest: f64, backward: i32): void {
  for (let n = 0; n < count; n++) {
    const pair = pairAt(pairs, backward == 1 ? count - 1 - n : n)
    if (readF64(pair, contact.normalImpulse) <= 0.0) continue
    const i = truncate(readF64(pair, contact.a))
    const j = truncate(readF64(pair, contact.b))
    const a = bodyAt(bodies, i)
    const b = bodyAt(bodies, j)
    const wa = readF64(a, body.inverseMass)
    const wb = readF64(b, body.inverseMass)
    if (wa + wb == 0.0) continue
    contactDirection(pair, a, b, i, j)
    const rule = truncate(readF64(pair, contact.rule)) * contactRule.SIZE
    const before = readF64(pair, contact.partingSpeed)
    const wanted = -before > rest ? -readF64(rules, rule + contactRule.bounce) * before : 0.0
    const change = wanted - speedAlong(a, b, body.velocityX)
    if (change <= 0.0) continue
    const share = change / (wa + wb)
    push(a, body.velocityX, nx * share * wa, ny * share * wa, nz * share * wa)
    push(b, body.velocityX, -nx * share * wb, -ny * share * wb, -nz * share * wb)
    applyFriction(a, b, wa, wb, readF64(rules, rule + contactRule.staticFriction), readF64(rules, rule + contactRule.friction), change)
  }
}
function applyFriction(a: usize, b: usize, wa: f64, wb: f64, still: f64, sliding: f64, impulse: f64): void {
  const along = speedAlong(a, b, body.velocityX)
  const tx = readF64(a, body.velocityX) - readF64(b, body.velocityX) - nx * along
  const ty = readF64(a, body.velocityY) - readF64(b, body.velocityY) - ny * along
  const tz = readF64(a, body.velocityZ) - readF64(b, body.velocityZ) - nz * along
  const speed = squareRoot(tx * tx + ty * ty + tz * tz)
  if (speed == 0.0) return
  let share = 1.0
  if (speed > still * impulse) share = sliding * impulse < speed ? (sliding * impulse) / speed : 1.0
  share /= wa + wb
  push(a, body.velocityX, -tx * share * wa, -ty * share * wa, -tz * share * wa)
  push(b, body.velocityX, tx * share * wb, ty * share * wb, tz * share * wb)
}

/** How many contacts each particle has (i32), from the pairs with a load, and from those between two that sleep. */
export function countTouches(pairs: usize, count: i32, bodies: usize, particles: i32, touches: usize): void {
  for (let i = 0; i < particles; i++) writeI32(touches, i, 0)
  for (let n = 0; n < count; n++) {
    const pair = pairAt(pairs, n)
    const i = truncate(readF64(pair, contact.a))
    const j = truncate(readF64(pair, contact.b))
    const a = bodyAt(bodies, i)
    const b = bodyAt(bodies, j)
    directionBetween(a, b, i, j)
    if (readF64(pair, contact.normalImpulse) <= 0.0 && distance > (readF64(a, body.radius) + readF64(b, body.radius)) * 1.01) continue
    writeI32(touches, i, readI32(touches, i) + 1)
    writeI32(touches, j, readI32(touches, j) + 1)
  }
}

/** Numbers (i32) of the pairs that press on one another now and did not bear in the last substep. Returns how many. */
export function newTouches(pairs: usize, count: i32, out: usize): i32 {
  let found = 0
  for (let n = 0; n < count; n++) {
    const pair = pairAt(pairs, n)
    if (readF64(pair, contact.normalImpulse) <= 0.0 || readF64(pair, contact.bore) == 1.0) continue
    writeI32(out, found, n)
    found++
  }
  return found
}
