/**
 * Links solved along paths: distance constraints C = |xₐ − x_b| − L with compliance α (m/N), 0 rigid.
 *
 * Source: Macklin, Müller, Chentanez, "XPBD" (2016), eqs. 18 and 26: with α̃ = α/h², n = ∇C and, for the damping, γ = τ/h,
 *
 *   A·Δλ = −C − α̃·λ − γ·(d − D),   A = (1 + γ)·∇C·W·∇Cᵀ + α̃,   Δx = w·n·Δλ
 *
 * so that stiffness depends on α and neither on h nor on the rounds. τ = α·β is the time of Kelvin and Voigt in which
 * a stretched link creeps back.
 *
 * Links that go on from one another form a path, on which A has three diagonals: wₐ + w_b + α̃ on the middle one, and −w·n·n'
 * for two links with a particle between them. It is solved at once (elimination forward, substitution back), so a chain of any length is borne in one
 * round; only between paths the rounds go, as far as each has changed what the next one sees (Gauss and Seidel). Paths of
 * one colour have no particle in common: four are solved at a time, on all threads.
 *
 * Tried for a rigid chain of 40, of 1.95 m, at 10 substeps of 5 rounds: link after link 2.11 m, over-relaxed 1.98, by colours
 * of single links 2.21, warm starts 1.95 but without bound in a beam; by paths 1.950. More in docs/performance.md.
 *
 * Rows hold displacements from the start of the substep, 16 B a body: f32 tells those apart as finely as f64 tells places.
 */
import { body, F32, link, linkPath, pathBatch, pathStep } from './layouts'
import {
  absolute4, add4, and4, bits4, column0, column1, column2, column3, divide4, less4, load4, loadI4, maximum4, minimum4, multiply4,
  row4, select4, splat4, squareRoot4, store4, storeRow4, subtract4, where4, F4, I4,
} from './lanes'
import { linkAt } from './links'
import { addWrapping, readF32, readF64, readI32, roundF32, squareRoot, truncate, writeF32, writeF64, writeI32 } from './machine'
import { bodyAt } from './solverBodies'

/** Row of a body: its displacement in this substep, and its inverse mass. */
export function placeRows(start: i32, end: i32, bodies: usize, rows: usize): void {
  for (let i = start; i < end; i++) {
    const p = bodyAt(bodies, i)
    for (let axis = 0; axis < 3; axis++) writeF32(rows, i * 4 + axis, readF64(p, body.x + axis) - readF64(p, body.startX + axis))
    writeF32(rows, i * 4 + 3, readF64(p, body.inverseMass))
  }
}
/** Bodies go as far as their rows have; `pushes` (4 × f32 per body) sums that up. */
export function moveBodies(start: i32, end: i32, bodies: usize, rows: usize, pushes: usize): void {
  for (let i = start; i < end; i++) {
    const p = bodyAt(bodies, i)
    for (let axis = 0; axis < 3; axis++) {
      const x = readF64(p, body.x + axis)
      const moved = readF32(rows, i * 4 + axis) - roundF32(x - readF64(p, body.startX + axis))
      if (moved == 0.0) continue
      writeF64(p, body.x + axis, x + moved)
      writeF32(pushes, i * 4 + axis, readF32(pushes, i * 4 + axis) + moved)
    }
  }
}

/** Half of the velocity that links gave in this substep, m/s, from how far they pushed. 3 × f32 per particle. */
export function halfKickOfLinks(start: i32, end: i32, pushes: usize, first: i32, h: f64, halfKick: usize): void {
  for (let i = start; i < end; i++) {
    for (let axis = 0; axis < 3; axis++) {
      writeF32(halfKick, i * 3 + axis, (0.5 / h) * readF32(pushes, addWrapping(first, i) * 4 + axis))
    }
  }
}

/**
 * The paths of links (linkPath), and the lowest colour for each that none of its particles has. `masks`: 2 × i32 per
 * particle, a bit for each colour; `first` is the number of the first particle among the bodies. Returns how many.
 */
export function findPaths(links: usize, count: i32, particles: i32, first: i32, masks: usize, paths: usize): i32 {
  for (let k = 0; k < 2 * particles; k++) writeI32(masks, k, 0)
  let found = 0
  let from = 0
  while (from < count) {
    let to = from + 1
    while (to < count && to - from < linkPath.MOST && goesOn(links, to)) to++
    const path = paths + <usize>(found * linkPath.SIZE * F32)
    writeI32(path, linkPath.first, from)
    writeI32(path, linkPath.length, to - from)
    writeI32(path, linkPath.colour, colourPath(links, from, to, first, masks))
    found++
    from = to
  }
  return found
}
/** Whether a link goes on where the one before it ends: that may have broken. */
function goesOn(links: usize, n: i32): bool {
  const record = linkAt(links, n)
  return readF64(record, link.joined) == 1.0 && readF64(record, link.bodyA) == readF64(linkAt(links, n - 1), link.bodyB)
}
function colourPath(links: usize, from: i32, to: i32, first: i32, masks: usize): i32 {
  let low = 0
  let high = 0
  for (let n = from; n < to; n++) {
    for (let side = n == from ? 0 : 1; side < 2; side++) {
      const i = (truncate(readF64(linkAt(links, n), link.bodyA + side)) - first) * 2
      low |= readI32(masks, i)
      high |= readI32(masks, i + 1)
    }
  }
  const colour = freeColour(low, high)
  if (colour == linkPath.COLOURS - 1) return colour
  const half = colour < 31 ? 0 : 1
  const bit = 1 << (colour - 31 * half)
  for (let n = from; n < to; n++) {
    for (let side = n == from ? 0 : 1; side < 2; side++) {
      const at = (truncate(readF64(linkAt(links, n), link.bodyA + side)) - first) * 2 + half
      writeI32(masks, at, readI32(masks, at) | bit)
    }
  }
  return colour
}
/** The lowest bit that is not set, of 31 in each half. */
function freeColour(low: i32, high: i32): i32 {
  for (let k = 0; k < 31; k++) if (((low >> k) & 1) == 0) return k
  for (let k = 0; k < 31; k++) if (((high >> k) & 1) == 0) return k + 31
  return linkPath.COLOURS - 1
}

/** Lengths that are told apart as paths are sorted. */
const LENGTHS: i32 = 256

/** Counting sort of `order` into `sorted` by a field of paths, least first (or greatest first); stable. */
function sortBy(paths: usize, count: i32, field: i32, keys: i32, reversed: i32, order: usize, sorted: usize, counts: usize): void {
  for (let k = 0; k <= keys; k++) writeI32(counts, k, 0)
  for (let n = 0; n < count; n++) {
    const k = keyOf(paths, readI32(order, n), field, keys, reversed) + 1
    writeI32(counts, k, readI32(counts, k) + 1)
  }
  for (let k = 1; k <= keys; k++) writeI32(counts, k, readI32(counts, k) + readI32(counts, k - 1))
  for (let n = 0; n < count; n++) {
    const path = readI32(order, n)
    const k = keyOf(paths, path, field, keys, reversed)
    const at = readI32(counts, k)
    writeI32(sorted, at, path)
    writeI32(counts, k, at + 1)
  }
}
function keyOf(paths: usize, path: i32, field: i32, keys: i32, reversed: i32): i32 {
  const value = readI32(paths, path * linkPath.SIZE + field)
  const key = value < keys ? value : keys - 1
  return reversed == 1 ? keys - 1 - key : key
}

/**
 * Paths in batches of four of a colour, the long ones together. `batches`: pathBatch for each; `slots`: of each step the
 * numbers of its four links, −1 for nobody; `starts`: the first batch of each colour and one more (i32); `order` and
 * `sorted` (i32 per path) and `counts` (LENGTHS + 1 i32) are scratch. Returns how many batches; `starts` ends with how many
 * steps there are.
 */
export function batchPaths(
  paths: usize, count: i32, order: usize, sorted: usize, counts: usize, batches: usize, slots: usize, starts: usize,
): i32 {
  for (let n = 0; n < count; n++) writeI32(order, n, n)
  sortBy(paths, count, linkPath.length, LENGTHS, 1, order, sorted, counts)
  sortBy(paths, count, linkPath.colour, linkPath.COLOURS, 0, sorted, order, counts)
  let batch = 0
  let step = 0
  let at = 0
  for (let colour = 0; colour < linkPath.COLOURS; colour++) {
    writeI32(starts, colour, batch)
    while (at < count && readI32(paths, readI32(order, at) * linkPath.SIZE + linkPath.colour) == colour) {
      const lanes = laneCount(paths, order, at, count, colour)
      let steps = 0
      for (let lane = 0; lane < lanes; lane++) {
        const length = readI32(paths, readI32(order, at + lane) * linkPath.SIZE + linkPath.length)
        if (length > steps) steps = length
      }
      for (let lane = 0; lane < 4; lane++) fillLane(paths, lane < lanes ? readI32(order, at + lane) : -1, slots, step, steps, lane)
      writeI32(batches, batch * pathBatch.SIZE + pathBatch.first, step)
      writeI32(batches, batch * pathBatch.SIZE + pathBatch.steps, steps)
      batch++
      step += steps
      at += lanes
    }
  }
  writeI32(starts, linkPath.COLOURS, batch)
  writeI32(starts, linkPath.COLOURS + 1, step)
  return batch
}
/** Paths from `at` on that may be one batch. */
function laneCount(paths: usize, order: usize, at: i32, count: i32, colour: i32): i32 {
  if (colour == linkPath.COLOURS - 1) return 1
  let lanes = 1
  while (lanes < 4 && at + lanes < count && readI32(paths, readI32(order, at + lanes) * linkPath.SIZE + linkPath.colour) == colour) lanes++
  return lanes
}
function fillLane(paths: usize, path: i32, slots: usize, step: i32, steps: i32, lane: i32): void {
  const first = path < 0 ? 0 : readI32(paths, path * linkPath.SIZE + linkPath.first)
  const length = path < 0 ? 0 : readI32(paths, path * linkPath.SIZE + linkPath.length)
  for (let k = 0; k < steps; k++) writeI32(slots, (step + k) * 4 + lane, k < length ? first + k : -1)
}

/** Compliance of what does not hold. */
const SLACK: f64 = 1.0e30

/**
 * Steps as the substep begins, with λ = 0. α = (`compliance` + `soft`·L·(wₐ + w_b))/strength, in m/N: with soft = σ/2g a
 * link stretches by the share σ under the weight of one of its ends. `amounts` (f32) are those of the population whose
 * bodies begin at `first`; the strength of a link is the lesser of its ends'. What has none is slack, and so are places that
 * nobody has: they get the body `nobody`, whose inverse mass is 0.
 */
export function startSteps(
  start: i32, end: i32, links: usize, slots: usize, steps: usize, bodies: usize, amounts: usize, first: i32, nobody: i32,
  compliance: f64, soft: f64, h: f64,
): void {
  for (let k = start * 4; k < end * 4; k++) {
    const step = steps + <usize>((k >> 2) * pathStep.SIZE * F32)
    const lane = k & 3
    const n = readI32(slots, k)
    writeI32(step, pathStep.number + lane, n)
    writeF32(step, pathStep.impulse + lane, 0.0)
    const record = linkAt(links, n < 0 ? 0 : n)
    const i = truncate(readF64(record, link.bodyA))
    const j = truncate(readF64(record, link.bodyB))
    const one = readF32(amounts, i - first)
    const other = readF32(amounts, j - first)
    const strength = one < other ? one : other
    const acts = n >= 0 && strength > 0.0
    writeI32(step, pathStep.bodyA + lane, n >= 0 ? i : nobody)
    writeI32(step, pathStep.bodyB + lane, n >= 0 ? j : nobody)
    const a = bodyAt(bodies, i)
    const b = bodyAt(bodies, j)
    const x = readF64(a, body.startX) - readF64(b, body.startX)
    const y = readF64(a, body.startY) - readF64(b, body.startY)
    const z = readF64(a, body.startZ) - readF64(b, body.startZ)
    const rest = readF64(record, link.restLength)
    const w = readF64(a, body.inverseMass) + readF64(b, body.inverseMass)
    writeF32(step, pathStep.startX + lane, x)
    writeF32(step, pathStep.startY + lane, y)
    writeF32(step, pathStep.startZ + lane, z)
    writeF32(step, pathStep.excess + lane, x * x + y * y + z * z - rest * rest)
    writeF32(step, pathStep.rest + lane, rest)
    writeF32(step, pathStep.compliance + lane, acts ? (compliance + soft * rest * w) / (h * h * strength) : SLACK)
  }
}

/** Keeps a pivot off 0 where a straight path is held at both ends; a share of wₐ + w_b. */
const LEAST_PIVOT: f64 = 1.0e-4

/** The row of x, y, z and w of four bodies as columns. */
let rowX: F4 = splat4(0.0)
let rowY: F4 = splat4(0.0)
let rowZ: F4 = splat4(0.0)
let rowW: F4 = splat4(0.0)
function readRows(rows: usize, index: I4): void {
  const a = row4(rows, index, 0)
  const b = row4(rows, index, 1)
  const c = row4(rows, index, 2)
  const d = row4(rows, index, 3)
  rowX = column0(a, b, c, d)
  rowY = column1(a, b, c, d)
  rowZ = column2(a, b, c, d)
  rowW = column3(a, b, c, d)
}
function writeRows(rows: usize, index: I4, x: F4, y: F4, z: F4, w: F4): void {
  storeRow4(rows, index, 0, column0(x, y, z, w))
  storeRow4(rows, index, 1, column1(x, y, z, w))
  storeRow4(rows, index, 2, column2(x, y, z, w))
  storeRow4(rows, index, 3, column3(x, y, z, w))
}

/** One round over batches of one colour, from number `from` on. γ = τ/h, `damping` being τ in seconds. */
export function solvePaths(start: i32, end: i32, from: i32, batches: usize, steps: usize, rows: usize, gamma: f64): void {
  for (let k = start; k < end; k++) {
    const batch = (from + k) * pathBatch.SIZE
    const first = steps + <usize>(readI32(batches, batch + pathBatch.first) * pathStep.SIZE * F32)
    const count = readI32(batches, batch + pathBatch.steps)
    const violated = eliminate(first, count, rows, gamma)
    const scale = substitute(first, count, rows, violated)
    applyPath(first, count, rows, scale)
  }
}

/**
 * With δ how the ends have moved against one another in this substep, d² = D² + 2D·δ + δ², and
 *
 *   C = d − L = (D² − L² + 2D·δ + δ²)/(d + L),   free of cancellation, so that f32 is enough
 *
 * Forward elimination along each path, m = A_kk − A_k,k−1·u:  u' = A_k,k+1/m,  Δ' = (r − A_k,k−1·Δ)/m. What is above the
 * diagonal needs n of the next link, so u is finished one step later. Returns Σ |C| of each path, metres.
 */
function eliminate(first: usize, count: i32, rows: usize, gamma: f64): F4 {
  const zero = splat4(0.0)
  const damped = splat4(1.0 + gamma)
  let violated = zero
  let beforeX = zero
  let beforeY = zero
  let beforeZ = zero
  let pivot = splat4(1.0)
  let change = zero
  let joins = zero
  readRows(rows, loadI4(first, pathStep.bodyA))
  let ax = rowX
  let ay = rowY
  let az = rowZ
  let wa = rowW
  for (let k = 0; k < count; k++) {
    const step = first + <usize>(k * pathStep.SIZE * F32)
    readRows(rows, loadI4(step, pathStep.bodyB))
    const wb = rowW
    const dx = subtract4(ax, rowX)
    const dy = subtract4(ay, rowY)
    const dz = subtract4(az, rowZ)
    const sx = load4(step, pathStep.startX)
    const sy = load4(step, pathStep.startY)
    const sz = load4(step, pathStep.startZ)
    const x = add4(sx, dx)
    const y = add4(sy, dy)
    const z = add4(sz, dz)
    const squared = add4(add4(multiply4(x, x), multiply4(y, y)), multiply4(z, z))
    const d = squareRoot4(maximum4(squared, splat4(1.0e-24)))
    const nx = divide4(x, d)
    const ny = divide4(y, d)
    const nz = divide4(z, d)
    // 2D·δ + δ² = (D + x)·δ
    const grown = add4(add4(multiply4(add4(sx, x), dx), multiply4(add4(sy, y), dy)), multiply4(add4(sz, z), dz))
    const c = divide4(add4(load4(step, pathStep.excess), grown), add4(d, load4(step, pathStep.rest)))
    const alpha = load4(step, pathStep.compliance)
    let wanted = add4(c, multiply4(alpha, load4(step, pathStep.impulse)))
    if (gamma > 0.0) {
      // d − D, for n·δ would take a turn for a stretch: (1 − cos θ)·L of it
      const was = squareRoot4(add4(add4(multiply4(sx, sx), multiply4(sy, sy)), multiply4(sz, sz)))
      wanted = add4(wanted, multiply4(splat4(gamma), divide4(grown, add4(d, was))))
    }
    const w = add4(wa, wb)
    const acts = and4(less4(zero, w), less4(alpha, splat4(0.1 * SLACK)))
    violated = add4(violated, where4(acts, absolute4(c)))
    // what comes from the link before it: the particle between them gives way to both
    const along = add4(add4(multiply4(nx, beforeX), multiply4(ny, beforeY)), multiply4(nz, beforeZ))
    const below = where4(acts, multiply4(multiply4(damped, subtract4(zero, multiply4(wa, along))), joins))
    const upper = divide4(below, pivot)
    store4(step, pathStep.upper, upper)
    const diagonal = add4(multiply4(damped, w), alpha)
    const least = add4(multiply4(splat4(LEAST_PIVOT), w), splat4(1.0e-30))
    pivot = maximum4(subtract4(diagonal, multiply4(below, upper)), least)
    change = where4(acts, divide4(subtract4(zero, add4(wanted, multiply4(below, change))), pivot))
    store4(step, pathStep.normalX, nx)
    store4(step, pathStep.normalY, ny)
    store4(step, pathStep.normalZ, nz)
    store4(step, pathStep.change, change)
    joins = where4(acts, splat4(1.0))
    beforeX = nx
    beforeY = ny
    beforeZ = nz
    ax = rowX
    ay = rowY
    az = rowZ
    wa = wb
  }
  return violated
}

/**
 * Back substitution, Δλ_k = Δ'_k − u_k·Δλ_k+1. Where a path cannot be as short as it wants to be, λ may grow without moving
 * anything along it, and move much across: no particle needs to go farther than Σ |C|. Returns the share of Δλ at which
 * none does.
 */
function substitute(first: usize, count: i32, rows: usize, violated: F4): F4 {
  const zero = splat4(0.0)
  let farthest = zero
  let after = zero
  let pushX = zero
  let pushY = zero
  let pushZ = zero
  let upper = zero
  for (let k = count - 1; k >= 0; k--) {
    const step = first + <usize>(k * pathStep.SIZE * F32)
    const change = subtract4(load4(step, pathStep.change), multiply4(upper, after))
    store4(step, pathStep.change, change)
    // the particle at its end b is pushed by it and by the next one
    const x = multiply4(change, load4(step, pathStep.normalX))
    const y = multiply4(change, load4(step, pathStep.normalY))
    const z = multiply4(change, load4(step, pathStep.normalZ))
    const w = weightsOf(rows, loadI4(step, pathStep.bodyB))
    farthest = maximum4(farthest, pushed(w, subtract4(pushX, x), subtract4(pushY, y), subtract4(pushZ, z)))
    upper = load4(step, pathStep.upper)
    after = change
    pushX = x
    pushY = y
    pushZ = z
  }
  farthest = maximum4(farthest, pushed(weightsOf(rows, loadI4(first, pathStep.bodyA)), pushX, pushY, pushZ))
  // a stretched path with springs in it moves less than that
  const bound = add4(violated, violated)
  return select4(less4(bound, farthest), divide4(bound, maximum4(farthest, splat4(1.0e-30))), splat4(1.0))
}
function weightsOf(rows: usize, index: I4): F4 {
  return column3(row4(rows, index, 0), row4(rows, index, 1), row4(rows, index, 2), row4(rows, index, 3))
}
function pushed(w: F4, x: F4, y: F4, z: F4): F4 {
  return multiply4(w, squareRoot4(add4(add4(multiply4(x, x), multiply4(y, y)), multiply4(z, z))))
}

function applyPath(first: usize, count: i32, rows: usize, scale: F4): void {
  for (let k = 0; k < count; k++) {
    const step = first + <usize>(k * pathStep.SIZE * F32)
    const change = multiply4(scale, load4(step, pathStep.change))
    store4(step, pathStep.impulse, add4(load4(step, pathStep.impulse), change))
    const x = multiply4(change, load4(step, pathStep.normalX))
    const y = multiply4(change, load4(step, pathStep.normalY))
    const z = multiply4(change, load4(step, pathStep.normalZ))
    const a = loadI4(step, pathStep.bodyA)
    readRows(rows, a)
    writeRows(rows, a, add4(rowX, multiply4(x, rowW)), add4(rowY, multiply4(y, rowW)), add4(rowZ, multiply4(z, rowW)), rowW)
    const b = loadI4(step, pathStep.bodyB)
    readRows(rows, b)
    writeRows(rows, b, subtract4(rowX, multiply4(x, rowW)), subtract4(rowY, multiply4(y, rowW)), subtract4(rowZ, multiply4(z, rowW)), rowW)
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
export function turnImpulses(start: i32, end: i32, from: i32, batches: usize, steps: usize, rows: usize, kicks: usize): void {
  for (let k = start; k < end; k++) {
    const batch = (from + k) * pathBatch.SIZE
    const first = steps + <usize>(readI32(batches, batch + pathBatch.first) * pathStep.SIZE * F32)
    const count = readI32(batches, batch + pathBatch.steps)
    for (let n = 0; n < count; n++) turnImpulse(stepAt(first, n), rows, kicks)
  }
}
function turnImpulse(step: usize, rows: usize, kicks: usize): void {
  const zero = splat4(0.0)
  const ia = loadI4(step, pathStep.bodyA)
  const ib = loadI4(step, pathStep.bodyB)
  readRows(rows, ia)
  const ax = rowX
  const ay = rowY
  const az = rowZ
  const wa = rowW
  readRows(rows, ib)
  const wb = rowW
  const sx = load4(step, pathStep.startX)
  const sy = load4(step, pathStep.startY)
  const sz = load4(step, pathStep.startZ)
  const x = add4(sx, subtract4(ax, rowX))
  const y = add4(sy, subtract4(ay, rowY))
  const z = add4(sz, subtract4(az, rowZ))
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
 * leave would grow. Where Σ |C + α̃·λ| exceeds a share of ΣL, each particle is put at its distance from the one before it,
 * from the held end on. Source: Müller, Kim, Chentanez, "Fast simulation of inextensible hair and fur" (2012), §3.1.
 */
export function followPaths(start: i32, end: i32, from: i32, batches: usize, steps: usize, rows: usize): void {
  for (let k = start; k < end; k++) {
    const batch = (from + k) * pathBatch.SIZE
    const first = steps + <usize>(readI32(batches, batch + pathBatch.first) * pathStep.SIZE * F32)
    const count = readI32(batches, batch + pathBatch.steps)
    const failed = failedPaths(first, count, rows)
    for (let lane = 0; failed >> lane != 0; lane++) if (((failed >> lane) & 1) == 1) followPath(first, count, rows, lane)
  }
}
/** The paths of a batch of which the rounds have left too much: a bit for each. */
function failedPaths(first: usize, count: i32, rows: usize): i32 {
  let left = splat4(0.0)
  let length = splat4(0.0)
  for (let k = 0; k < count; k++) {
    const step = first + <usize>(k * pathStep.SIZE * F32)
    readRows(rows, loadI4(step, pathStep.bodyA))
    const ax = rowX
    const ay = rowY
    const az = rowZ
    readRows(rows, loadI4(step, pathStep.bodyB))
    const x = add4(load4(step, pathStep.startX), subtract4(ax, rowX))
    const y = add4(load4(step, pathStep.startY), subtract4(ay, rowY))
    const z = add4(load4(step, pathStep.startZ), subtract4(az, rowZ))
    const d = squareRoot4(add4(add4(multiply4(x, x), multiply4(y, y)), multiply4(z, z)))
    const alpha = load4(step, pathStep.compliance)
    const rest = load4(step, pathStep.rest)
    const acts = less4(alpha, splat4(0.1 * SLACK))
    const c = add4(subtract4(d, rest), multiply4(alpha, load4(step, pathStep.impulse)))
    left = add4(left, where4(acts, absolute4(c)))
    length = add4(length, where4(acts, rest))
  }
  return bits4(less4(multiply4(splat4(FAILED), length), left))
}

function followPath(first: usize, count: i32, rows: usize, lane: i32): void {
  let last = count - 1
  while (last >= 0 && readI32(stepAt(first, last), pathStep.number + lane) < 0) last--
  if (last < 0) return
  const fromA = readF32(rows, readI32(first, pathStep.bodyA + lane) * 4 + 3) == 0.0
  const fromB = readF32(rows, readI32(stepAt(first, last), pathStep.bodyB + lane) * 4 + 3) == 0.0
  if (fromA) for (let k = 0; k <= last; k++) follow(stepAt(first, k), rows, lane, pathStep.bodyA, pathStep.bodyB, -1.0)
  else if (fromB) for (let k = last; k >= 0; k--) follow(stepAt(first, k), rows, lane, pathStep.bodyB, pathStep.bodyA, 1.0)
}
function stepAt(first: usize, k: i32): usize {
  return first + <usize>(k * pathStep.SIZE * F32)
}
/** Puts one end of a link at its distance from the other. `sign` is 1 where a follows b. */
function follow(step: usize, rows: usize, lane: i32, leader: i32, follower: i32, sign: f64): void {
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
  const wanted = readF32(step, pathStep.rest + lane) - alpha * readF32(step, pathStep.impulse + lane)
  if (d < 1.0e-12 || wanted <= 0.0) return
  writeF32(rows, to, readF32(rows, from) - sx + (x * wanted) / d)
  writeF32(rows, to + 1, readF32(rows, from + 1) - sy + (y * wanted) / d)
  writeF32(rows, to + 2, readF32(rows, from + 2) - sz + (z * wanted) / d)
}

/** What each link bore, back into its record. */
export function finishSteps(start: i32, end: i32, links: usize, steps: usize): void {
  for (let k = start * 4; k < end * 4; k++) {
    const step = steps + <usize>((k >> 2) * pathStep.SIZE * F32)
    const n = readI32(step, pathStep.number + (k & 3))
    if (n >= 0) writeF64(linkAt(links, n), link.impulse, readF32(step, pathStep.impulse + (k & 3)))
  }
}
