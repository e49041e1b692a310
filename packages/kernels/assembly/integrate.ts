/**
 * Motion of one substep: every influence adds to an acceleration A, to a damping C and, where it draws to a
 * place, to a stiffness K. With y = x − x₀ the particle obeys the linear equation
 *
 *   y'' = A − C·y' − K·y,   y(0) = 0,   y'(0) = v₀
 *
 * which `integrate` solves exactly, so neither drag, wind nor a goal of any strength can overshoot for the
 * sake of the step. Without K, with the φ-functions of Hochbruck, Ostermann, "Exponential integrators", Acta
 * Numerica 19 (2010), §2:
 *
 *   z  = C·h        E = e^(−z)     φ1 = (1 − E)/z     φ2 = (1 − φ1)/z
 *   v' = v·E + A·h·φ1
 *   x' = x + v·h·φ1 + A·h²·φ2
 *
 * With C = 0 this is the parabola of free fall; with C·h large it tends to v = A/C. Quadratic drag enters
 * with its damping taken at the present speed, whose fixed point is the exact terminal speed.
 *
 * Forces are asked for at x₀ + v₀·h/2 (`drift`): drift, kick, drift keeps the energy of an orbit, which
 * forces at x₀ would raise with every round. Velocity first, then position (semi-implicit Euler) would leave
 * x off by ½·g·h·t in free fall.
 */
import {
  absolute4, add4, addI4, and4, any4, asF4, atLeast4, bits4, column0, column1, column2, column3, divide4, firstOf4, floor4, inRange4,
  lane4, less4, load4, loadI4, maximum4, minimum4, multiply4, row4, secondOf4, select4, shiftLeft4, splat4, splatI4, squareRoot4,
  store4, subtract4, thirdOf4, toI4, where4, withLane, xOf4, yOf4, zOf4, F4,
} from './lanes'
import { floor, squareRoot, truncate } from './machine'
import { cosineOf, sineOf } from './trigonometry'

/** e^(−z) to 1e-12 relative; 0 beyond z = 700, infinite below −700. */
export function exponentialDecay(z: f64): f64 {
  if (z < 0.0) return 1.0 / exponentialDecay(-z)
  if (z > 700.0) return 0.0
  const k = floor(z * 1.4426950408889634 + 0.5)
  const r = -(z - k * 0.6931471805599453)
  let term = 1.0
  let sum = 1.0
  for (let n = 1; n <= 14; n++) {
    term = (term * r) / <f64>n
    sum += term
  }
  let power = truncate(k)
  let factor = 0.5
  while (power > 0) {
    if ((power & 1) == 1) sum *= factor
    factor *= factor
    power >>= 1
  }
  return sum
}

/** e^(−z) for z ≥ 0 and at most 80, to f32. */
function exponentialDecay4(z: F4): F4 {
  // −z = −k·ln 2 + r; ln 2 in two parts, of which the first has so few bits that k times it is exact
  const k = floor4(add4(multiply4(z, splat4(1.4426950408889634)), splat4(0.5)))
  const r = subtract4(multiply4(k, splat4(-2.1219444005469058e-4)), subtract4(z, multiply4(k, splat4(0.693359375))))
  let sum = splat4(1.0 / 5040.0)
  sum = add4(splat4(1.0 / 720.0), multiply4(r, sum))
  sum = add4(splat4(1.0 / 120.0), multiply4(r, sum))
  sum = add4(splat4(1.0 / 24.0), multiply4(r, sum))
  sum = add4(splat4(1.0 / 6.0), multiply4(r, sum))
  sum = add4(splat4(0.5), multiply4(r, sum))
  sum = add4(splat4(1.0), multiply4(r, sum))
  sum = add4(splat4(1.0), multiply4(r, sum))
  // 2^(−k) by its exponent
  return multiply4(sum, asF4(shiftLeft4(addI4(splatI4(127), toI4(multiply4(k, splat4(-1.0)))), 23)))
}

/** Of four particles y(h) = byV·v₀ + byA·A and y'(h) = keepsV·v₀ + gainsA·A. */
let byV: F4 = splat4(0.0)
let byA: F4 = splat4(0.0)
let keepsV: F4 = splat4(0.0)
let gainsA: F4 = splat4(0.0)

/** φ2 = Σ (−z)^n / (n + 2)! for −1 < z < 1, to f32 and free of cancellation. */
function phi2Of(z: F4): F4 {
  let sum = splat4(1.0 / 39916800.0)
  sum = subtract4(splat4(1.0 / 3628800.0), multiply4(z, sum))
  sum = subtract4(splat4(1.0 / 362880.0), multiply4(z, sum))
  sum = subtract4(splat4(1.0 / 40320.0), multiply4(z, sum))
  sum = subtract4(splat4(1.0 / 5040.0), multiply4(z, sum))
  sum = subtract4(splat4(1.0 / 720.0), multiply4(z, sum))
  sum = subtract4(splat4(1.0 / 120.0), multiply4(z, sum))
  sum = subtract4(splat4(1.0 / 24.0), multiply4(z, sum))
  sum = subtract4(splat4(1.0 / 6.0), multiply4(z, sum))
  return subtract4(splat4(0.5), multiply4(z, sum))
}

function solveDamped(c: F4, h: F4): void {
  const one = splat4(1.0)
  // a negative damping drives: what grows by e⁸⁰ in a substep is soon no number, and told of (core's simulation/finite.ts)
  const z = maximum4(minimum4(multiply4(c, h), splat4(80.0)), splat4(-80.0))
  const size = absolute4(z)
  let phi2 = phi2Of(z)
  let phi1 = subtract4(one, multiply4(z, phi2))
  keepsV = subtract4(one, multiply4(z, phi1))
  const strong = atLeast4(size, one)
  if (any4(strong)) {
    const decay = exponentialDecay4(size)
    keepsV = select4(strong, select4(less4(z, splat4(0.0)), divide4(one, decay), decay), keepsV)
    phi1 = select4(strong, divide4(subtract4(one, keepsV), z), phi1)
    phi2 = select4(strong, divide4(subtract4(one, phi1), z), phi2)
  }
  byV = multiply4(h, phi1)
  byA = multiply4(multiply4(h, h), phi2)
  gainsA = byV
}

/**
 * With s = C/2 and q² = s² − K: c = e^(−s·h)·cosh(q·h), d = e^(−s·h)·sinh(q·h)/q (cos and sin where q² < 0), and
 *   y(h) = v₀·d + A·(1 − c − s·d)/K,   y'(h) = v₀·(c − s·d) + A·d
 */
let sprungByV: f64 = 0.0
let sprungByA: f64 = 0.0
let sprungKeepsV: f64 = 0.0
function solveSprung(c: f64, k: f64, h: f64): void {
  const s = 0.5 * c
  const squared = s * s - k
  const q = squareRoot(squared < 0.0 ? -squared : squared)
  const x = q * h
  let even = 0.0
  let odd = 0.0
  if (x < 0.001) {
    const decay = exponentialDecay(s * h)
    const half = (squared * h * h) / 2.0
    even = decay * (1.0 + half)
    odd = decay * h * (1.0 + half / 3.0)
  } else if (squared < 0.0) {
    const decay = exponentialDecay(s * h)
    even = decay * cosineOf(x)
    odd = (decay * sineOf(x)) / q
  } else {
    // the slower rate as K/(s + q): s − q would cancel
    const slow = exponentialDecay((k / (s + q)) * h)
    const fast = exponentialDecay((s + q) * h)
    even = 0.5 * (slow + fast)
    odd = (0.5 * (slow - fast)) / q
  }
  sprungByV = odd
  sprungKeepsV = even - s * odd
  sprungByA = (1.0 - even - s * odd) / k
}

/** Solves anew those lanes that a stiffness draws, one by one in f64: 1 − c − s·d cancels. gainsA = byV. */
function solveSprungLanes(lanes: i32, c: F4, k: F4, h: F4): void {
  for (let lane = 0; lane < 4; lane++) {
    if (((lanes >> lane) & 1) == 0) continue
    solveSprung(lane4(c, lane), lane4(k, lane), lane4(h, lane))
    byV = withLane(byV, lane, sprungByV)
    byA = withLane(byA, lane, sprungByA)
    keepsV = withLane(keepsV, lane, sprungKeepsV)
    gainsA = byV
  }
}

/** Seconds that each moves in this substep: one born within it has age = −(time since it began). */
function lasting(age: F4, h: F4): F4 {
  const rest = select4(less4(age, splat4(0.0)), add4(h, age), h)
  // an age stored as f32 is off by rounding: what is born at the very end does not move
  return where4(atLeast4(rest, multiply4(h, splat4(1.0e-6))), rest)
}

/**
 * Before forces: startPosition = x₀, position = x₀ + v₀·h/2 where they are asked for; `startVelocity` = v₀ where it is kept (0:
 * not). 3 × f32 each.
 */
export function drift(
  start: i32, end: i32, position: usize, startPosition: usize, velocity: usize, startVelocity: usize, age: usize, h: f64,
): void {
  for (let i = start; i < end; i += 4) {
    const half = multiply4(splat4(0.5), lasting(load4(age, i), splat4(h)))
    driftPart(i * 3, firstOf4(half, half, half), position, startPosition, velocity, startVelocity)
    driftPart(i * 3 + 4, secondOf4(half, half, half), position, startPosition, velocity, startVelocity)
    driftPart(i * 3 + 8, thirdOf4(half, half, half), position, startPosition, velocity, startVelocity)
  }
}
function driftPart(k: i32, half: F4, position: usize, startPosition: usize, velocity: usize, startVelocity: usize): void {
  const x = load4(position, k)
  const v = load4(velocity, k)
  store4(startPosition, k, x)
  store4(position, k, add4(x, multiply4(v, half)))
  if (startVelocity != 0) store4(startVelocity, k, v)
}

/**
 * Columns: position, startPosition, velocity, acceleration (3 × f32 each), damping, stiffness, age, phaseAge (f32).
 * `stiffness` and `travelled` may be 0 (not kept). Starts from `startPosition`. h in seconds, speedLimit in m/s.
 */
export function integrate(
  start: i32, end: i32,
  position: usize, startPosition: usize, velocity: usize, acceleration: usize, damping: usize, stiffness: usize,
  age: usize, phaseAge: usize, travelled: usize,
  h: f64, speedLimit: f64,
): void {
  const most = splat4(speedLimit * speedLimit)
  for (let i = start; i < end; i += 4) {
    const before = load4(age, i)
    const dt = lasting(before, splat4(h))
    const c = load4(damping, i)
    solveDamped(c, dt)
    if (stiffness != 0) {
      // below a billionth of a swing in a substep nothing is left of K in f32
      const k = load4(stiffness, i)
      const sprung = bits4(less4(splat4(1.0e-9), multiply4(multiply4(k, dt), dt)))
      if (sprung != 0) solveSprungLanes(sprung, c, k, dt)
    }
    const p = i * 3
    const va = load4(velocity, p)
    const vb = load4(velocity, p + 4)
    const vc = load4(velocity, p + 8)
    const aa = load4(acceleration, p)
    const ab = load4(acceleration, p + 4)
    const ac = load4(acceleration, p + 8)
    const vx = xOf4(va, vb, vc)
    const vy = yOf4(va, vb, vc)
    const vz = zOf4(va, vb, vc)
    const ax = xOf4(aa, ab, ac)
    const ay = yOf4(aa, ab, ac)
    const az = zOf4(aa, ab, ac)
    const stepX = add4(multiply4(vx, byV), multiply4(ax, byA))
    const stepY = add4(multiply4(vy, byV), multiply4(ay, byA))
    const stepZ = add4(multiply4(vz, byV), multiply4(az, byA))
    store4(position, p, add4(load4(startPosition, p), firstOf4(stepX, stepY, stepZ)))
    store4(position, p + 4, add4(load4(startPosition, p + 4), secondOf4(stepX, stepY, stepZ)))
    store4(position, p + 8, add4(load4(startPosition, p + 8), thirdOf4(stepX, stepY, stepZ)))
    let afterX = add4(multiply4(vx, keepsV), multiply4(ax, gainsA))
    let afterY = add4(multiply4(vy, keepsV), multiply4(ay, gainsA))
    let afterZ = add4(multiply4(vz, keepsV), multiply4(az, gainsA))
    const squared = add4(add4(multiply4(afterX, afterX), multiply4(afterY, afterY)), multiply4(afterZ, afterZ))
    const tooFast = less4(most, squared)
    if (any4(tooFast)) {
      const scale = select4(tooFast, divide4(splat4(speedLimit), squareRoot4(squared)), splat4(1.0))
      afterX = multiply4(afterX, scale)
      afterY = multiply4(afterY, scale)
      afterZ = multiply4(afterZ, scale)
    }
    store4(velocity, p, firstOf4(afterX, afterY, afterZ))
    store4(velocity, p + 4, secondOf4(afterX, afterY, afterZ))
    store4(velocity, p + 8, thirdOf4(afterX, afterY, afterZ))
    if (travelled != 0) {
      const moved = add4(add4(multiply4(stepX, stepX), multiply4(stepY, stepY)), multiply4(stepZ, stepZ))
      store4(travelled, i, add4(load4(travelled, i), squareRoot4(moved)))
    }
    store4(age, i, add4(before, splat4(h)))
    store4(phaseAge, i, add4(load4(phaseAge, i), splat4(h)))
  }
}

/** Sets a column of f32 to one value. */
export function fill(start: i32, end: i32, column: usize, value: f64): void {
  const v = splat4(value)
  for (let i = start; i < end; i += 4) store4(column, i, v)
}

/**
 * Forces begin with what is even: acceleration and damping of each particle by its phase. `even`: a row of 4 f32 per
 * phase of so many, acceleration (m/s²) and damping (1/s); see `applyForces` in core's simulation/influencePass.ts. `stiffness` may be 0.
 */
export function startForces(
  start: i32, end: i32, phase: usize, phases: i32, even: usize, acceleration: usize, damping: usize, stiffness: usize,
): void {
  const none = splat4(0.0)
  let a = load4(even, 0)
  let b = a
  let c = a
  let d = a
  for (let i = start; i < end; i += 4) {
    if (phases > 1) {
      const row = and4(loadI4(phase, i), inRange4(i, end))
      a = row4(even, row, 0)
      b = row4(even, row, 1)
      c = row4(even, row, 2)
      d = row4(even, row, 3)
    }
    const x = column0(a, b, c, d)
    const y = column1(a, b, c, d)
    const z = column2(a, b, c, d)
    store4(acceleration, i * 3, firstOf4(x, y, z))
    store4(acceleration, i * 3 + 4, secondOf4(x, y, z))
    store4(acceleration, i * 3 + 8, thirdOf4(x, y, z))
    store4(damping, i, column3(a, b, c, d))
    if (stiffness != 0) store4(stiffness, i, none)
  }
}
