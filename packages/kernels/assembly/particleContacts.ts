/**
 * Particles that touch one another, four pairs at a time (contactStep). Where two are held apart is fixed as the substep begins;
 * in it only displacements are compared. pairs.ts finds the pairs and cuts them into slabs: those handed to a kernel at once have no
 * body in common, so it runs on all threads and gives the same bytes.
 */
import { bodyRow, contactStep, sleepState, slab } from './layouts'
import {
  add4, and4, any4, bits4, divide4, dot4, equalI4, length4, less4, load4, loadI4, maximum4, minimum4, multiply4, notEqual4, or4,
  select4, splat4, splatI4, squareRoot4, store4, subtract4, unlessFaint4, where4, xor4, F4, I4,
} from './lanes'
import { readF32, readI32, writeF32, writeI32 } from './machine'
import { apartX, apartY, apartZ, firstW, readApart, readRows, rowW, rowX, rowY, rowZ, secondW, writeRows } from './rows'
import { stepAt } from './warmStart'

function firstStep(slabRecords: usize, s: i32): i32 {
  return readI32(slabRecords, s * slab.SIZE + slab.first)
}
function lastStep(slabRecords: usize, s: i32): i32 {
  return firstStep(slabRecords, s) + readI32(slabRecords, s * slab.SIZE + slab.batches)
}

/** Who sleeps is woken by what touches it and moves faster than `speed`, m/s. */
export function wakePairs(
  start: i32, end: i32, slabRecords: usize, steps: usize, starts: usize, moved: usize, speeds: usize, sleeps: usize,
  awakeMass: usize, speed: f64,
): void {
  for (let s = start; s < end; s++) {
    for (let n = firstStep(slabRecords, s); n < lastStep(slabRecords, s); n++) {
      for (let lane = 0; lane < 4; lane++) {
        const a = readI32(stepAt(steps, n), contactStep.bodyA + lane)
        const b = readI32(stepAt(steps, n), contactStep.bodyB + lane)
        const firstSleeps = readI32(sleeps, a) == sleepState.ASLEEP
        if (firstSleeps == (readI32(sleeps, b) == sleepState.ASLEEP)) continue
        const asleep = firstSleeps ? a : b
        const other = firstSleeps ? b : a
        if (squaredOf(speeds, other) <= speed * speed || isApart(starts, moved, a, b)) continue
        writeF32(moved, asleep * bodyRow.SIZE + bodyRow.inverseMass, readF32(awakeMass, asleep))
        writeI32(sleeps, asleep, sleepState.WOKEN)
      }
    }
  }
}
function squaredOf(rows: usize, i: i32): f64 {
  const x = readF32(rows, i * bodyRow.SIZE)
  const y = readF32(rows, i * bodyRow.SIZE + 1)
  const z = readF32(rows, i * bodyRow.SIZE + 2)
  return x * x + y * y + z * z
}
function isApart(starts: usize, moved: usize, a: i32, b: i32): bool {
  let squared = 0.0
  for (let k = 0; k < 3; k++) {
    const i = a * bodyRow.SIZE + k
    const j = b * bodyRow.SIZE + k
    const apart = readF32(starts, i) - readF32(starts, j) + (readF32(moved, i) - readF32(moved, j))
    squared += apart * apart
  }
  const reach = readF32(starts, a * bodyRow.SIZE + bodyRow.radius) + readF32(starts, b * bodyRow.SIZE + bodyRow.radius)
  return squared > reach * reach
}

/** Two whose ways come no nearer than this many times the sum of their radii do not touch in a substep. */
const ACTIVE: f64 = 1.1
/** They lie on one another where they would end up within this many times that. */
const LYING: f64 = 1.001

/**
 * Where each pair is held apart in this substep. With p from b to a at its start, d how that changes, R the sum of radii, and t
 * the moment at which |p + t·d| = R for the first time, or is least, from 0 to 1 (0 where they overlap),
 *
 *   n = (p + t·d)/|p + t·d|,   gap = n·p − R, and at least 0
 *
 * so those that fly by one another are not held up, those that meet do so where they touch, and what rests keeps its n. Source of
 * t: Ericson (2005), §5.5.5. `marks` (i32 per body) is set to 1 for who lies on another; `active` (i32 per batch) gets the bits of those that may touch, the record of a slab in how many batches any may.
 */
export function startPairs(
  start: i32, end: i32, slabRecords: usize, steps: usize, active: usize, starts: usize, moved: usize, speeds: usize, marks: usize,
): void {
  for (let s = start; s < end; s++) {
    let touching = 0
    for (let n = firstStep(slabRecords, s); n < lastStep(slabRecords, s); n++) {
      const bits = startPair(stepAt(steps, n), starts, moved, speeds, marks)
      writeI32(active, n, bits)
      if (bits != 0) touching++
    }
    writeI32(slabRecords, s * slab.SIZE + slab.active, touching)
  }
}
/** Returns the bits of those that may touch. */
function startPair(step: usize, starts: usize, moved: usize, speeds: usize, marks: usize): i32 {
  const zero = splat4(0.0)
  const one = splat4(1.0)
  const tiny = splat4(1.0e-30)
  const ia = loadI4(step, contactStep.bodyA)
  const ib = loadI4(step, contactStep.bodyB)
  readApart(starts, ia, ib)
  const px = apartX
  const py = apartY
  const pz = apartZ
  const reach = add4(firstW, secondW)
  readApart(moved, ia, ib)
  const dx = apartX
  const dy = apartY
  const dz = apartZ
  const w = add4(firstW, secondW)
  const squared = dot4(px, py, pz, px, py, pz)
  const along = dot4(px, py, pz, dx, dy, dz)
  const dd = dot4(dx, dy, dz, dx, dy, dz)
  const outside = subtract4(squared, multiply4(reach, reach))
  const under = maximum4(zero, subtract4(multiply4(along, along), multiply4(dd, outside)))
  const met = divide4(subtract4(subtract4(zero, along), squareRoot4(under)), maximum4(dd, tiny))
  const t = where4(less4(zero, outside), minimum4(one, maximum4(zero, met)))
  const mx = add4(px, multiply4(t, dx))
  const my = add4(py, multiply4(t, dy))
  const mz = add4(pz, multiply4(t, dz))
  const apart = length4(mx, my, mz)
  // at the same place one of even and one of odd number part along z, others along x
  const same = less4(apart, splat4(1.0e-12))
  const odd = equalI4(and4(xor4(ia, ib), splatI4(1)), splatI4(1))
  const far = maximum4(apart, tiny)
  const nx = select4(same, select4(odd, zero, one), divide4(mx, far))
  const ny = select4(same, zero, divide4(my, far))
  const nz = select4(same, select4(odd, one, zero), divide4(mz, far))
  const height = dot4(nx, ny, nz, px, py, pz)
  readApart(speeds, ia, ib)
  store4(step, contactStep.partingSpeed, dot4(nx, ny, nz, apartX, apartY, apartZ))
  store4(step, contactStep.startX, px)
  store4(step, contactStep.startY, py)
  store4(step, contactStep.startZ, pz)
  store4(step, contactStep.reach, reach)
  store4(step, contactStep.normalX, nx)
  store4(step, contactStep.normalY, ny)
  store4(step, contactStep.normalZ, nz)
  store4(step, contactStep.gap, maximum4(zero, subtract4(height, reach)))
  store4(step, contactStep.mass, where4(less4(zero, w), divide4(one, maximum4(w, tiny))))
  // what it bore lies across n now
  const bore = load4(step, contactStep.normalImpulse)
  const tx = load4(step, contactStep.tangentX)
  const ty = load4(step, contactStep.tangentY)
  const tz = load4(step, contactStep.tangentZ)
  const into = dot4(tx, ty, tz, nx, ny, nz)
  store4(step, contactStep.bore, bore)
  store4(step, contactStep.tangentX, subtract4(tx, multiply4(into, nx)))
  store4(step, contactStep.tangentY, subtract4(ty, multiply4(into, ny)))
  store4(step, contactStep.tangentZ, subtract4(tz, multiply4(into, nz)))
  const end = add4(height, dot4(nx, ny, nz, dx, dy, dz))
  const lying = bits4(less4(end, multiply4(splat4(LYING), reach)))
  for (let lane = 0; lying >> lane != 0; lane++) if (((lying >> lane) & 1) == 1) markPair(step, lane, marks)
  return bits4(or4(notEqual4(bore, zero), less4(apart, multiply4(splat4(ACTIVE), reach))))
}
function markPair(step: usize, lane: i32, marks: usize): void {
  writeI32(marks, readI32(step, contactStep.bodyA + lane), 1)
  writeI32(marks, readI32(step, contactStep.bodyB + lane), 1)
}

/** Four pushes x, y, z, each an impulse times h, move the bodies of a step: a along them, b against. */
function pushBoth(rows: usize, ia: I4, ib: I4, x: F4, y: F4, z: F4): void {
  readRows(rows, ia)
  writeRows(rows, ia, add4(rowX, multiply4(x, rowW)), add4(rowY, multiply4(y, rowW)), add4(rowZ, multiply4(z, rowW)), rowW)
  readRows(rows, ib)
  writeRows(rows, ib, subtract4(rowX, multiply4(x, rowW)), subtract4(rowY, multiply4(y, rowW)), subtract4(rowZ, multiply4(z, rowW)), rowW)
}

/** Contacts go on from what they bore in the last substep: a heap is borne from the first round on, and does not creep. */
export function warmStartPairs(start: i32, end: i32, slabRecords: usize, steps: usize, active: usize, moved: usize): void {
  for (let s = start; s < end; s++) {
    for (let n = firstStep(slabRecords, s); n < lastStep(slabRecords, s); n++) {
      if (readI32(active, n) == 0) continue
      const step = stepAt(steps, n)
      const bore = load4(step, contactStep.normalImpulse)
      if (!any4(notEqual4(bore, splat4(0.0)))) continue
      pushBoth(
        moved, loadI4(step, contactStep.bodyA), loadI4(step, contactStep.bodyB),
        add4(load4(step, contactStep.tangentX), multiply4(bore, load4(step, contactStep.normalX))),
        add4(load4(step, contactStep.tangentY), multiply4(bore, load4(step, contactStep.normalY))),
        add4(load4(step, contactStep.tangentZ), multiply4(bore, load4(step, contactStep.normalZ))),
      )
    }
  }
}

/** Ways that are no longer are none, metres; and speeds, m/s. */
const FAINT: f64 = 1.0e-15

/** Stickiness is felt over this share of the radii. */
const STICKING: f64 = 0.05

/**
 * One round of contacts. With w = wₐ + w_b, d how far a has moved against b in this substep, and s the part of it across n,
 *
 *   w·λ' = max(w·λ − n·d − gap, −S·h²),   w·λₜ' = w·λₜ − s, cut to μ·(w·λ' + S·h²) where it is longer than μₛ times that
 *
 * and both are moved by the change. They may come no nearer than touching, or than they were as the substep began: what
 * overlaps already is mended by `depenetratePairs`; if it were mended here, that would give velocity, and heaps would run apart.
 * Every other round goes backward, so that no side is favoured.
 */
export function solvePairs(
  start: i32, end: i32, slabRecords: usize, steps: usize, active: usize, moved: usize, h: f64, backward: i32,
): void {
  const squaredStep = splat4(h * h)
  for (let s = start; s < end; s++) {
    const first = firstStep(slabRecords, s)
    const last = lastStep(slabRecords, s) - 1
    for (let k = first; k <= last; k++) {
      const n = backward == 1 ? last - (k - first) : k
      if (readI32(active, n) != 0) solvePair(stepAt(steps, n), moved, squaredStep)
    }
  }
}
function solvePair(step: usize, moved: usize, squaredStep: F4): void {
  const ia = loadI4(step, contactStep.bodyA)
  const ib = loadI4(step, contactStep.bodyB)
  readRows(moved, ia)
  const ax = rowX
  const ay = rowY
  const az = rowZ
  const wa = rowW
  readRows(moved, ib)
  const bx = rowX
  const by = rowY
  const bz = rowZ
  const wb = rowW
  const nx = load4(step, contactStep.normalX)
  const ny = load4(step, contactStep.normalY)
  const nz = load4(step, contactStep.normalZ)
  const mass = load4(step, contactStep.mass)
  const w = add4(wa, wb)
  const dx = subtract4(ax, bx)
  const dy = subtract4(ay, by)
  const dz = subtract4(az, bz)
  const along = dot4(nx, ny, nz, dx, dy, dz)
  const gap = add4(along, load4(step, contactStep.gap))
  // from here on in metres, w·λ, which says as well for the lightest what is nothing
  const near = less4(gap, multiply4(splat4(STICKING), load4(step, contactStep.reach)))
  const pull = where4(near, multiply4(load4(step, contactStep.stickiness), squaredStep))
  const before = multiply4(w, load4(step, contactStep.normalImpulse))
  const lambda = unlessFaint4(maximum4(subtract4(splat4(0.0), pull), subtract4(before, gap)), FAINT)
  const wasX = multiply4(w, load4(step, contactStep.tangentX))
  const wasY = multiply4(w, load4(step, contactStep.tangentY))
  const wasZ = multiply4(w, load4(step, contactStep.tangentZ))
  const tx = unlessFaint4(subtract4(wasX, subtract4(dx, multiply4(along, nx))), FAINT)
  const ty = unlessFaint4(subtract4(wasY, subtract4(dy, multiply4(along, ny))), FAINT)
  const tz = unlessFaint4(subtract4(wasZ, subtract4(dz, multiply4(along, nz))), FAINT)
  const load = add4(lambda, pull)
  const length = length4(tx, ty, tz)
  const slips = less4(multiply4(load4(step, contactStep.staticFriction), load), length)
  const cut = divide4(multiply4(load4(step, contactStep.friction), load), maximum4(length, splat4(FAINT)))
  const share = select4(slips, cut, splat4(1.0))
  const gripX = multiply4(tx, share)
  const gripY = multiply4(ty, share)
  const gripZ = multiply4(tz, share)
  store4(step, contactStep.normalImpulse, multiply4(mass, lambda))
  store4(step, contactStep.tangentX, multiply4(mass, gripX))
  store4(step, contactStep.tangentY, multiply4(mass, gripY))
  store4(step, contactStep.tangentZ, multiply4(mass, gripZ))
  const change = subtract4(lambda, before)
  const x = multiply4(mass, add4(multiply4(nx, change), subtract4(gripX, wasX)))
  const y = multiply4(mass, add4(multiply4(ny, change), subtract4(gripY, wasY)))
  const z = multiply4(mass, add4(multiply4(nz, change), subtract4(gripZ, wasZ)))
  writeRows(moved, ia, add4(ax, multiply4(x, wa)), add4(ay, multiply4(y, wa)), add4(az, multiply4(z, wa)), wa)
  writeRows(moved, ib, subtract4(bx, multiply4(x, wb)), subtract4(by, multiply4(y, wb)), subtract4(bz, multiply4(z, wb)), wb)
}

/** From b to a where they are now: |p + d| and its parts, of which `nowX` … hold the last ones. */
let nowX: F4 = splat4(0.0)
let nowY: F4 = splat4(0.0)
let nowZ: F4 = splat4(0.0)
function distanceNow(step: usize, moved: usize): F4 {
  readApart(moved, loadI4(step, contactStep.bodyA), loadI4(step, contactStep.bodyB))
  nowX = add4(load4(step, contactStep.startX), apartX)
  nowY = add4(load4(step, contactStep.startY), apartY)
  nowZ = add4(load4(step, contactStep.startZ), apartZ)
  return length4(nowX, nowY, nowZ)
}

/**
 * What overlaps by less than this share of the radii is left: who lies in a heap is pressed that far into others, and were it moved out in
 * each substep, along n and without friction, heaps would creep. Measured: 4 mm at 4 × 20 rounds 1.0° in 10 s without it, 0 with it.
 */
const SLOP: f64 = 0.01

/** One round of moving apart what still overlaps, by the share `firm`, with no velocity from it. */
export function depenetratePairs(
  start: i32, end: i32, slabRecords: usize, steps: usize, active: usize, moved: usize, firm: f64, backward: i32,
): void {
  const zero = splat4(0.0)
  for (let s = start; s < end; s++) {
    const first = firstStep(slabRecords, s)
    const last = lastStep(slabRecords, s) - 1
    for (let k = first; k <= last; k++) {
      const n = backward == 1 ? last - (k - first) : k
      if (readI32(active, n) == 0) continue
      const step = stepAt(steps, n)
      const distance = distanceNow(step, moved)
      const deep = subtract4(multiply4(splat4(1.0 - SLOP), load4(step, contactStep.reach)), distance)
      if (!any4(less4(zero, deep))) continue
      const by = multiply4(multiply4(splat4(firm), maximum4(zero, deep)), load4(step, contactStep.mass))
      const same = less4(distance, splat4(1.0e-12))
      const far = maximum4(distance, splat4(1.0e-30))
      pushBoth(
        moved, loadI4(step, contactStep.bodyA), loadI4(step, contactStep.bodyB),
        multiply4(by, select4(same, load4(step, contactStep.normalX), divide4(nowX, far))),
        multiply4(by, select4(same, load4(step, contactStep.normalY), divide4(nowY, far))),
        multiply4(by, select4(same, load4(step, contactStep.normalZ), divide4(nowZ, far))),
      )
    }
  }
}

/**
 * Velocities after contact: along n, at least e times the speed of approach, where that is more than `rest`. Across, friction takes
 * up to μ times the impulse. Momentum is exchanged, never made.
 */
export function solvePairVelocities(
  start: i32, end: i32, slabRecords: usize, steps: usize, active: usize, speeds: usize, rest: f64, backward: i32,
): void {
  const resting = splat4(rest)
  for (let s = start; s < end; s++) {
    const first = firstStep(slabRecords, s)
    const last = lastStep(slabRecords, s) - 1
    for (let k = first; k <= last; k++) {
      const n = backward == 1 ? last - (k - first) : k
      if (readI32(active, n) != 0) solvePairVelocity(stepAt(steps, n), speeds, resting)
    }
  }
}
function solvePairVelocity(step: usize, speeds: usize, rest: F4): void {
  const zero = splat4(0.0)
  const presses = less4(zero, load4(step, contactStep.normalImpulse))
  if (!any4(presses)) return
  const ia = loadI4(step, contactStep.bodyA)
  const ib = loadI4(step, contactStep.bodyB)
  readApart(speeds, ia, ib)
  const vx = apartX
  const vy = apartY
  const vz = apartZ
  const nx = load4(step, contactStep.normalX)
  const ny = load4(step, contactStep.normalY)
  const nz = load4(step, contactStep.normalZ)
  const approach = subtract4(zero, load4(step, contactStep.partingSpeed))
  const wanted = where4(less4(rest, approach), multiply4(load4(step, contactStep.bounce), approach))
  const along = dot4(nx, ny, nz, vx, vy, vz)
  const change = where4(presses, maximum4(zero, subtract4(wanted, along)))
  if (!any4(less4(zero, change))) return
  const tx = unlessFaint4(subtract4(vx, multiply4(along, nx)), FAINT)
  const ty = unlessFaint4(subtract4(vy, multiply4(along, ny)), FAINT)
  const tz = unlessFaint4(subtract4(vz, multiply4(along, nz)), FAINT)
  const speed = length4(tx, ty, tz)
  const slips = less4(multiply4(load4(step, contactStep.staticFriction), change), speed)
  const slid = multiply4(load4(step, contactStep.friction), change)
  const cut = minimum4(splat4(1.0), divide4(slid, maximum4(speed, splat4(1.0e-30))))
  const share = where4(less4(zero, change), select4(slips, cut, splat4(1.0)))
  const mass = load4(step, contactStep.mass)
  pushBoth(
    speeds, ia, ib,
    multiply4(mass, subtract4(multiply4(nx, change), multiply4(tx, share))),
    multiply4(mass, subtract4(multiply4(ny, change), multiply4(ty, share))),
    multiply4(mass, subtract4(multiply4(nz, change), multiply4(tz, share))),
  )
}

/**
 * After the rounds: `touches` (i32 per body) is set to 1 for who has a contact with a load, or with one that sleeps as it does;
 * `fresh` gets of each batch the bits of those that press on one another and did not bear in the last substep.
 */
export function finishPairs(
  start: i32, end: i32, slabRecords: usize, steps: usize, active: usize, moved: usize, touches: usize, fresh: usize,
): void {
  const zero = splat4(0.0)
  for (let s = start; s < end; s++) {
    for (let n = firstStep(slabRecords, s); n < lastStep(slabRecords, s); n++) {
      writeI32(fresh, n, 0)
      if (readI32(active, n) == 0) continue
      const step = stepAt(steps, n)
      const presses = less4(zero, load4(step, contactStep.normalImpulse))
      const near = less4(distanceNow(step, moved), multiply4(splat4(1.01), load4(step, contactStep.reach)))
      const touching = bits4(or4(presses, near))
      for (let lane = 0; touching >> lane != 0; lane++) if (((touching >> lane) & 1) == 1) markPair(step, lane, touches)
      writeI32(fresh, n, bits4(and4(presses, equalI4(notEqual4(load4(step, contactStep.bore), zero), splatI4(0)))))
    }
  }
}

/** Numbers of the pairs (4 × batch + lane, i32) whose bits are set. Returns how many. */
export function pairsOfBits(count: i32, bits: usize, out: usize): i32 {
  let found = 0
  for (let n = 0; n < count; n++) {
    const which = readI32(bits, n)
    for (let lane = 0; which >> lane != 0; lane++) {
      if (((which >> lane) & 1) == 0) continue
      writeI32(out, found, n * 4 + lane)
      found++
    }
  }
  return found
}
