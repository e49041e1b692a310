/** Two that touch: held apart and rubbed (solverBodies.ts says how and from where). pairs.ts finds them. */
import { push } from './solverBodies'
import { body, contact, contactRule } from './layouts'
import { readF64, readI32, squareRoot, truncate, writeF64, writeI32 } from './machine'
import { contactDirection, differenceAlong, directionBetween, distance, first, firstBody, nx, ny, nz, pairAt, pushBoth, second, secondBody } from './pairs'

/** Who sleeps is woken by what touches it and moves faster than `speed`, m/s. */
export function wakePairs(pairs: usize, count: i32, bodies: usize, speed: f64): void {
  for (let n = 0; n < count; n++) {
    const pair = pairAt(pairs, n)
    const a = firstBody(pair, bodies)
    const b = secondBody(pair, bodies)
    const firstSleeps = readF64(a, body.sleepState) == 1.0
    if (firstSleeps == (readF64(b, body.sleepState) == 1.0)) continue
    const asleep = firstSleeps ? a : b
    const other = firstSleeps ? b : a
    const vx = readF64(other, body.velocityX)
    const vy = readF64(other, body.velocityY)
    const vz = readF64(other, body.velocityZ)
    if (vx * vx + vy * vy + vz * vz <= speed * speed) continue
    directionBetween(pair, a, b)
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
    const a = firstBody(pair, bodies)
    const b = secondBody(pair, bodies)
    contactDirection(pair, a, b)
    if (distance > (readF64(a, body.radius) + readF64(b, body.radius)) * 1.001) continue
    writeI32(marks, first(pair), 1)
    writeI32(marks, second(pair), 1)
  }
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
    const a = firstBody(pair, bodies)
    const b = secondBody(pair, bodies)
    const w = readF64(a, body.inverseMass) + readF64(b, body.inverseMass)
    if (w == 0.0) continue
    contactDirection(pair, a, b)
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
    const a = firstBody(pair, bodies)
    const b = secondBody(pair, bodies)
    const wa = readF64(a, body.inverseMass)
    const wb = readF64(b, body.inverseMass)
    if (wa + wb == 0.0) continue
    directionBetween(pair, a, b)
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
    const a = firstBody(pair, bodies)
    const b = secondBody(pair, bodies)
    const wa = readF64(a, body.inverseMass)
    const wb = readF64(b, body.inverseMass)
    if (wa + wb == 0.0) continue
    contactDirection(pair, a, b)
    const rule = truncate(readF64(pair, contact.rule)) * contactRule.SIZE
    const before = readF64(pair, contact.partingSpeed)
    const wanted = -before > rest ? -readF64(rules, rule + contactRule.bounce) * before : 0.0
    const change = wanted - differenceAlong(a, b, body.velocityX)
    if (change <= 0.0) continue
    const share = change / (wa + wb)
    push(a, body.velocityX, nx * share * wa, ny * share * wa, nz * share * wa)
    push(b, body.velocityX, -nx * share * wb, -ny * share * wb, -nz * share * wb)
    applyFriction(a, b, wa, wb, readF64(rules, rule + contactRule.staticFriction), readF64(rules, rule + contactRule.friction), change)
  }
}

function applyFriction(a: usize, b: usize, wa: f64, wb: f64, still: f64, sliding: f64, impulse: f64): void {
  const along = differenceAlong(a, b, body.velocityX)
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

function addTouch(touches: usize, i: i32): void {
  writeI32(touches, i, readI32(touches, i) + 1)
}

/** How many contacts each particle has (i32), from the pairs with a load, and from those between two that sleep. */
export function countTouches(pairs: usize, count: i32, bodies: usize, particles: i32, touches: usize): void {
  for (let i = 0; i < particles; i++) writeI32(touches, i, 0)
  for (let n = 0; n < count; n++) {
    const pair = pairAt(pairs, n)
    const a = firstBody(pair, bodies)
    const b = secondBody(pair, bodies)
    directionBetween(pair, a, b)
    if (readF64(pair, contact.normalImpulse) <= 0.0 && distance > (readF64(a, body.radius) + readF64(b, body.radius)) * 1.01) continue
    addTouch(touches, first(pair))
    addTouch(touches, second(pair))
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
