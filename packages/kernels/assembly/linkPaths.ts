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
import { F32, pathBatch, pathStep } from './layouts'
import {
  absolute4, add4, and4, divide4, less4, load4, loadI4, maximum4, multiply4,
  select4, splat4, squareRoot4, store4, subtract4, where4, F4,
} from './lanes'
import { SLACK } from './linkSteps'
import { readI32 } from './machine'
import { readRows, rowW, rowX, rowY, rowZ, writeRows } from './rows'

/** Keeps a pivot off 0 where a straight path is held at both ends; a share of wₐ + w_b. */
const LEAST_PIVOT: f64 = 1.0e-4

/** One round over batches of one colour. γ = τ/h, `damping` being τ in seconds. */
export function solvePaths(start: i32, end: i32, batches: usize, steps: usize, rows: usize, gamma: f64): void {
  for (let k = start; k < end; k++) {
    const batch = k * pathBatch.SIZE
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
  let perPivot = splat4(1.0)
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
    const perD = divide4(splat4(1.0), d)
    const nx = multiply4(x, perD)
    const ny = multiply4(y, perD)
    const nz = multiply4(z, perD)
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
    const upper = multiply4(below, perPivot)
    store4(step, pathStep.upper, upper)
    store4(step, pathStep.weight, wb)
    const diagonal = add4(multiply4(damped, w), alpha)
    const least = add4(multiply4(splat4(LEAST_PIVOT), w), splat4(1.0e-30))
    perPivot = divide4(splat4(1.0), maximum4(subtract4(diagonal, multiply4(below, upper)), least))
    change = where4(acts, multiply4(subtract4(zero, add4(wanted, multiply4(below, change))), perPivot))
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
    const w = load4(step, pathStep.weight)
    farthest = maximum4(farthest, pushed(w, subtract4(pushX, x), subtract4(pushY, y), subtract4(pushZ, z)))
    upper = load4(step, pathStep.upper)
    after = change
    pushX = x
    pushY = y
    pushZ = z
  }
  readRows(rows, loadI4(first, pathStep.bodyA))
  farthest = maximum4(farthest, pushed(rowW, pushX, pushY, pushZ))
  // a stretched path with springs in it moves less than that
  const bound = add4(violated, violated)
  return select4(less4(bound, farthest), divide4(bound, maximum4(farthest, splat4(1.0e-30))), splat4(1.0))
}
function pushed(w: F4, x: F4, y: F4, z: F4): F4 {
  return multiply4(w, squareRoot4(add4(add4(multiply4(x, x), multiply4(y, y)), multiply4(z, z))))
}

/** Each particle is pushed by the link that begins at it and by the one that ends there. */
function applyPath(first: usize, count: i32, rows: usize, scale: F4): void {
  let body = loadI4(first, pathStep.bodyA)
  readRows(rows, body)
  let x = rowX
  let y = rowY
  let z = rowZ
  let w = rowW
  for (let k = 0; k < count; k++) {
    const step = first + <usize>(k * pathStep.SIZE * F32)
    const change = multiply4(scale, load4(step, pathStep.change))
    store4(step, pathStep.impulse, add4(load4(step, pathStep.impulse), change))
    const pushX = multiply4(change, load4(step, pathStep.normalX))
    const pushY = multiply4(change, load4(step, pathStep.normalY))
    const pushZ = multiply4(change, load4(step, pathStep.normalZ))
    writeRows(rows, body, add4(x, multiply4(pushX, w)), add4(y, multiply4(pushY, w)), add4(z, multiply4(pushZ, w)), w)
    body = loadI4(step, pathStep.bodyB)
    readRows(rows, body)
    w = rowW
    x = subtract4(rowX, multiply4(pushX, w))
    y = subtract4(rowY, multiply4(pushY, w))
    z = subtract4(rowZ, multiply4(pushZ, w))
  }
  writeRows(rows, body, x, y, z, w)
}
