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
import { floor, readF32, squareRoot, truncate, writeF32 } from './machine'
import { cosineOf, sineOf } from './trigonometry'

/** e^(−z) for z ≥ 0, to 1e-12 relative; 0 beyond z = 700. */
export function exponentialDecay(z: f64): f64 {
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

/** y(h) = byV·v₀ + byA·A and y'(h) = keepsV·v₀ + gainsA·A. */
let byV: f64 = 0.0
let byA: f64 = 0.0
let keepsV: f64 = 0.0
let gainsA: f64 = 0.0

function solveDamped(c: f64, h: f64): void {
  const z = c * h
  let phi1 = 0.0
  let phi2 = 0.0
  if (z < 1.0) {
    // φ2 = Σ (−z)^n / (n + 2)!, free of cancellation for small z
    let term = 0.5
    let sum = 0.5
    for (let n = 1; n <= 15; n++) {
      term = (term * -z) / <f64>(n + 2)
      sum += term
    }
    phi2 = sum
    phi1 = 1.0 - z * phi2
    keepsV = 1.0 - z * phi1
  } else {
    keepsV = exponentialDecay(z)
    phi1 = (1.0 - keepsV) / z
    phi2 = (1.0 - phi1) / z
  }
  byV = h * phi1
  byA = h * h * phi2
  gainsA = h * phi1
}

/**
 * With s = C/2 and q² = s² − K: c = e^(−s·h)·cosh(q·h), d = e^(−s·h)·sinh(q·h)/q (cos and sin where q² < 0), and
 *   y(h) = v₀·d + A·(1 − c − s·d)/K,   y'(h) = v₀·(c − s·d) + A·d
 */
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
  byV = odd
  keepsV = even - s * odd
  byA = (1.0 - even - s * odd) / k
  gainsA = odd
}

/** Seconds that a particle moves in this substep: one born within it has age = −(time since it began). */
function lasting(age: f64, h: f64): f64 {
  const rest = age < 0.0 ? h + age : h
  // an age stored as f32 is off by rounding: what is born at the very end does not move
  return rest < h * 1.0e-6 ? 0.0 : rest
}

/**
 * Before forces: startPosition = x₀, position = x₀ + v₀·h/2 where they are asked for; `startVelocity` = v₀ where it is kept (0:
 * not). 3 × f32 each.
 */
export function drift(
  start: i32, end: i32, position: usize, startPosition: usize, velocity: usize, startVelocity: usize, age: usize, h: f64,
): void {
  for (let i = start; i < end; i++) {
    const half = 0.5 * lasting(readF32(age, i), h)
    for (let axis = 0; axis < 3; axis++) {
      const k = i * 3 + axis
      const x = readF32(position, k)
      const v = readF32(velocity, k)
      writeF32(startPosition, k, x)
      writeF32(position, k, x + v * half)
      if (startVelocity != 0) writeF32(startVelocity, k, v)
    }
  }
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
  for (let i = start; i < end; i++) {
    const before = readF32(age, i)
    const dt = lasting(before, h)
    const k = stiffness != 0 ? readF32(stiffness, i) : 0.0
    // below a billionth of a swing in a substep nothing is left of K in f32
    if (k * dt * dt < 1.0e-9) solveDamped(readF32(damping, i), dt)
    else solveSprung(readF32(damping, i), k, dt)
    let squared = 0.0
    let moved = 0.0
    for (let axis = 0; axis < 3; axis++) {
      const c = i * 3 + axis
      const v = readF32(velocity, c)
      const a = readF32(acceleration, c)
      const step = v * byV + a * byA
      const after = v * keepsV + a * gainsA
      writeF32(position, c, readF32(startPosition, c) + step)
      writeF32(velocity, c, after)
      squared += after * after
      moved += step * step
    }
    if (squared > speedLimit * speedLimit) {
      const scale = speedLimit / squareRoot(squared)
      for (let axis = 0; axis < 3; axis++) {
        const c = i * 3 + axis
        writeF32(velocity, c, readF32(velocity, c) * scale)
      }
    }
    if (travelled != 0) writeF32(travelled, i, readF32(travelled, i) + squareRoot(moved))
    writeF32(age, i, before + h)
    writeF32(phaseAge, i, readF32(phaseAge, i) + h)
  }
}

/** Sets a column of f32 to one value. */
export function fill(start: i32, end: i32, column: usize, value: f64): void {
  for (let i = start; i < end; i++) writeF32(column, i, value)
}
