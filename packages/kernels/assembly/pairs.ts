/** Pairs of particles that may touch in a substep: found among neighbours, and the direction in which each is held apart. */
import { bodyAt, push } from './solverBodies'
import { body, contact, F64, gridEntry, neighbour } from './layouts'
import { readF32, readF64, readI32, squareRoot, truncate, writeF64, writeI32 } from './machine'
import { entriesOf, listNeighbours, listOf, particleOf } from './neighbours'

export function pairAt(pairs: usize, n: i32): usize {
  return pairs + <usize>(n * contact.SIZE * F64)
}
/** Numbers of the two particles. */
export function first(pair: usize): i32 {
  return truncate(readF64(pair, contact.a))
}
export function second(pair: usize): i32 {
  return truncate(readF64(pair, contact.b))
}
export function firstBody(pair: usize, bodies: usize): usize {
  return bodyAt(bodies, first(pair))
}
export function secondBody(pair: usize, bodies: usize): usize {
  return bodyAt(bodies, second(pair))
}

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

/** Two that move by more than this share of their radii in a substep are met on their way. */
const FAST: f64 = 0.2

/** The candidates as contacts, in order of their particles, the lower one first. Returns how many. */
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
      contactDirection(pair, a, b)
      writeF64(pair, contact.partingSpeed, differenceAlong(a, b, body.freeVelocityX))
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
export function contactDirection(pair: usize, a: usize, b: usize): void {
  nx = readF64(pair, contact.sweptNormalX)
  ny = readF64(pair, contact.sweptNormalY)
  nz = readF64(pair, contact.sweptNormalZ)
  if (nx == 0.0 && ny == 0.0 && nz == 0.0) {
    directionBetween(pair, a, b)
    return
  }
  distance = differenceAlong(a, b, body.x)
}

/** From b to a: direction and distance. At the same place the lower number goes one way, the higher the other. */
export let nx: f64 = 0.0
export let ny: f64 = 0.0
export let nz: f64 = 0.0
export let distance: f64 = 0.0
export function directionBetween(pair: usize, a: usize, b: usize): void {
  const x = readF64(a, body.x) - readF64(b, body.x)
  const y = readF64(a, body.y) - readF64(b, body.y)
  const z = readF64(a, body.z) - readF64(b, body.z)
  distance = squareRoot(x * x + y * y + z * z)
  if (distance < 1.0e-12) {
    nx = (first(pair) & 1) == (second(pair) & 1) ? 1.0 : 0.0
    ny = 0.0
    nz = 1.0 - nx
    return
  }
  nx = x / distance
  ny = y / distance
  nz = z / distance
}

/** Along the direction, a less b: of places the distance, of velocities the speed at which they part. */
export function differenceAlong(a: usize, b: usize, at: i32): f64 {
  return (
    nx * (readF64(a, at) - readF64(b, at)) +
    ny * (readF64(a, at + 1) - readF64(b, at + 1)) +
    nz * (readF64(a, at + 2) - readF64(b, at + 2))
  )
}

/** Moves the two by an impulse times h, each by its share of it. */
export function pushBoth(a: usize, b: usize, x: f64, y: f64, z: f64): void {
  const wa = readF64(a, body.inverseMass)
  const wb = readF64(b, body.inverseMass)
  push(a, body.x, x * wa, y * wa, z * wa)
  push(b, body.x, -x * wb, -y * wb, -z * wb)
}
