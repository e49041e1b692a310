/** After the rounds of links (linkPaths.ts): what they could not follow, and what they gave in velocity. */
import { F32, pathBatch, pathStep } from './layouts'
import {
  absolute4, add4, bits4, divide4, less4, load4, loadI4, maximum4, minimum4, multiply4, splat4, squareRoot4,
  subtract4, where4, F4,
} from './lanes'
import { lengthNow, SLACK, stepAt } from './linkSteps'
import { addWrapping, readF32, readI32, squareRoot, writeF32 } from './machine'
import { apartX, apartY, apartZ, firstW, readApart, readRows, rowX, rowY, rowZ, secondW, writeRows } from './rows'

/** Half of the velocity that links gave in this substep, m/s, from how far they pushed. 3 × f32 per particle. */
export function halfKickOfLinks(start: i32, end: i32, pushes: usize, first: i32, h: f64, halfKick: usize): void {
  for (let i = start; i < end; i++) {
    for (let axis = 0; axis < 3; axis++) {
      writeF32(halfKick, i * 3 + axis, (0.5 / h) * readF32(pushes, addWrapping(first, i) * 4 + axis))
    }
  }
}

/** Cosines of how far a link turns in a substep: up to the one its impulse is turned back wholly, beyond the other not at all. */
const HARDLY_TURNED: f64 = 0.95
const TURNED: f64 = 0.8

/**
 * After the rounds. A link pushed along n, its direction at the end of the substep; so Σ m·x₀ × Δx is not 0, and a body that
 * turns by θ in a substep loses a share θ² of its spin. Its impulse is turned back to u, the direction as the substep began, in
 * the velocities: `kicks` (4 × f32 per body, metres) sums w·λ·(u − n). Momentum is kept, and so is angular momentum. Source, for
 * u: Ryckaert, Ciccotti, Berendsen, "Numerical integration of the cartesian equations of motion of a system with constraints"
 * (1977). Measured: a ring at 430°/s kept 60 % of its spin over 4 s at 10 substeps of 5 rounds, and 34 % at 2 of 4; now all of it.
 * Tried: to push along u from the start, which throws chains about that turn far in a substep.
 */
export function turnImpulses(start: i32, end: i32, batches: usize, steps: usize, rows: usize, kicks: usize): void {
  for (let k = start; k < end; k++) {
    const batch = k * pathBatch.SIZE
    const first = steps + <usize>(readI32(batches, batch + pathBatch.first) * pathStep.SIZE * F32)
    const count = readI32(batches, batch + pathBatch.steps)
    for (let n = 0; n < count; n++) turnImpulse(stepAt(first, n), rows, kicks)
  }
}
function turnImpulse(step: usize, rows: usize, kicks: usize): void {
  const zero = splat4(0.0)
  const ia = loadI4(step, pathStep.bodyA)
  const ib = loadI4(step, pathStep.bodyB)
  readApart(rows, ia, ib)
  const wa = firstW
  const wb = secondW
  const sx = load4(step, pathStep.startX)
  const sy = load4(step, pathStep.startY)
  const sz = load4(step, pathStep.startZ)
  const x = add4(sx, apartX)
  const y = add4(sy, apartY)
  const z = add4(sz, apartZ)
  const least = splat4(1.0e-24)
  const was = squareRoot4(maximum4(add4(add4(multiply4(sx, sx), multiply4(sy, sy)), multiply4(sz, sz)), least))
  const d = squareRoot4(maximum4(add4(add4(multiply4(x, x), multiply4(y, y)), multiply4(z, z)), least))
  const cosine = divide4(add4(add4(multiply4(x, sx), multiply4(y, sy)), multiply4(z, sz)), multiply4(d, was))
  const turned = multiply4(subtract4(cosine, splat4(TURNED)), splat4(1.0 / (HARDLY_TURNED - TURNED)))
  const share = minimum4(maximum4(turned, zero), splat4(1.0))
  const by = multiply4(share, load4(step, pathStep.impulse))
  const kx = multiply4(by, subtract4(divide4(sx, was), divide4(x, d)))
  const ky = multiply4(by, subtract4(divide4(sy, was), divide4(y, d)))
  const kz = multiply4(by, subtract4(divide4(sz, was), divide4(z, d)))
  readRows(kicks, ia)
  writeRows(kicks, ia, add4(rowX, multiply4(kx, wa)), add4(rowY, multiply4(ky, wa)), add4(rowZ, multiply4(kz, wa)), zero)
  readRows(kicks, ib)
  writeRows(kicks, ib, subtract4(rowX, multiply4(kx, wb)), subtract4(rowY, multiply4(ky, wb)), subtract4(rowZ, multiply4(kz, wb)), zero)
}
/** velocity += kick/h, 3 × f32. */
export function addKicks(start: i32, end: i32, kicks: usize, first: i32, h: f64, velocity: usize): void {
  for (let i = start; i < end; i++) {
    for (let axis = 0; axis < 3; axis++) {
      const k = i * 3 + axis
      writeF32(velocity, k, readF32(velocity, k) + readF32(kicks, addWrapping(first, i) * 4 + axis) / h)
    }
  }
}

/** Residual of a path, as a share of its length, beyond which the rounds are taken to have failed. */
const FAILED: f64 = 0.015

/**
 * After the rounds. A held path that swings by its own length within a substep is more than they can follow, and what they
 * leave would grow. Where Σ |C + α̃·λ + γ·(d − D)| exceeds a share of ΣL, each particle is put at the distance from the one
 * before it at which that is 0, from the held end on. Source: Müller, Kim, Chentanez, "Fast simulation of inextensible hair and fur" (2012), §3.1.
 */
export function followPaths(start: i32, end: i32, batches: usize, steps: usize, rows: usize, gamma: f64): void {
  for (let k = start; k < end; k++) {
    const batch = k * pathBatch.SIZE
    const first = steps + <usize>(readI32(batches, batch + pathBatch.first) * pathStep.SIZE * F32)
    const count = readI32(batches, batch + pathBatch.steps)
    const failed = failedPaths(first, count, rows, gamma)
    for (let lane = 0; failed >> lane != 0; lane++) if (((failed >> lane) & 1) == 1) followPath(first, count, rows, gamma, lane)
  }
}
/** The paths of a batch of which the rounds have left too much: a bit for each. */
function failedPaths(first: usize, count: i32, rows: usize, gamma: f64): i32 {
  let left = splat4(0.0)
  let length = splat4(0.0)
  for (let k = 0; k < count; k++) {
    const step = first + <usize>(k * pathStep.SIZE * F32)
    const d = lengthNow(step, rows)
    const alpha = load4(step, pathStep.compliance)
    const rest = load4(step, pathStep.rest)
    const acts = less4(alpha, splat4(0.1 * SLACK))
    const crept = multiply4(splat4(gamma), subtract4(d, lengthBefore(step)))
    const c = add4(add4(subtract4(d, rest), multiply4(alpha, load4(step, pathStep.impulse))), crept)
    left = add4(left, where4(acts, absolute4(c)))
    length = add4(length, where4(acts, rest))
  }
  return bits4(less4(multiply4(splat4(FAILED), length), left))
}

/** D, as the substep began. */
function lengthBefore(step: usize): F4 {
  const x = load4(step, pathStep.startX)
  const y = load4(step, pathStep.startY)
  const z = load4(step, pathStep.startZ)
  return squareRoot4(add4(add4(multiply4(x, x), multiply4(y, y)), multiply4(z, z)))
}

function followPath(first: usize, count: i32, rows: usize, gamma: f64, lane: i32): void {
  let last = count - 1
  while (last >= 0 && readI32(stepAt(first, last), pathStep.number + lane) < 0) last--
  if (last < 0) return
  const fromA = readF32(rows, readI32(first, pathStep.bodyA + lane) * 4 + 3) == 0.0
  const fromB = readF32(rows, readI32(stepAt(first, last), pathStep.bodyB + lane) * 4 + 3) == 0.0
  if (fromA) for (let k = 0; k <= last; k++) follow(stepAt(first, k), rows, gamma, lane, pathStep.bodyA, pathStep.bodyB, -1.0)
  else if (fromB) for (let k = last; k >= 0; k--) follow(stepAt(first, k), rows, gamma, lane, pathStep.bodyB, pathStep.bodyA, 1.0)
}
/** Puts one end of a link at its distance from the other. `sign` is 1 where a follows b. */
function follow(step: usize, rows: usize, gamma: f64, lane: i32, leader: i32, follower: i32, sign: f64): void {
  const alpha = readF32(step, pathStep.compliance + lane)
  const from = readI32(step, leader + lane) * 4
  const to = readI32(step, follower + lane) * 4
  if (alpha > 0.1 * SLACK || readF32(rows, to + 3) == 0.0) return
  // from the leader to the follower
  const sx = sign * readF32(step, pathStep.startX + lane)
  const sy = sign * readF32(step, pathStep.startY + lane)
  const sz = sign * readF32(step, pathStep.startZ + lane)
  const x = sx + readF32(rows, to) - readF32(rows, from)
  const y = sy + readF32(rows, to + 1) - readF32(rows, from + 1)
  const z = sz + readF32(rows, to + 2) - readF32(rows, from + 2)
  const d = squareRoot(x * x + y * y + z * z)
  const before = squareRoot(sx * sx + sy * sy + sz * sz)
  const still = readF32(step, pathStep.rest + lane) - alpha * readF32(step, pathStep.impulse + lane)
  const wanted = (still + gamma * before) / (1.0 + gamma)
  if (d < 1.0e-12 || wanted <= 0.0) return
  writeF32(rows, to, readF32(rows, from) - sx + (x * wanted) / d)
  writeF32(rows, to + 1, readF32(rows, from + 1) - sy + (y * wanted) / d)
  writeF32(rows, to + 2, readF32(rows, from + 2) - sz + (z * wanted) / d)
}
