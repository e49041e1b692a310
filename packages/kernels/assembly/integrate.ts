/**
 * Motion of one substep: every influence adds to an acceleration A and to a damping C, and the
 * particle obeys the linear equation dv/dt = A − C·v, which this kernel solves exactly:
 *
 *   z  = C·h        E = e^(−z)     φ1 = (1 − E)/z     φ2 = (1 − φ1)/z
 *   v' = v·E + A·h·φ1
 *   x' = x + v·h·φ1 + A·h²·φ2
 *
 * With C = 0 this is the parabola of free fall; with C·h large it tends to v = A/C without ever
 * overshooting, so drag and wind of any strength are stable. Quadratic drag enters with its damping
 * taken at the present speed, whose fixed point is the exact terminal speed.
 * φ-functions: Hochbruck, Ostermann, "Exponential integrators", Acta Numerica 19 (2010), §2.
 *
 * Velocity first, then position (semi-implicit Euler) would leave x off by ½·g·h·t in free fall.
 */
import { floor, readF32, squareRoot, truncate, writeF32 } from './machine'

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

let phi1: f64 = 0.0
let phi2: f64 = 0.0
let decay: f64 = 0.0

function setPhi(z: f64): void {
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
    decay = 1.0 - z * phi1
  } else {
    decay = exponentialDecay(z)
    phi1 = (1.0 - decay) / z
    phi2 = (1.0 - phi1) / z
  }
}

/**
 * Columns: position, previous, velocity, acceleration (3 × f32 each), damping, age, phaseAge (f32).
 * `travelled` may be 0 (not kept). h in seconds, speedLimit in m/s.
 * A particle born within this substep has age = −(time since the substep began) and moves only for
 * what is left of it.
 */
export function integrate(
  start: i32, end: i32,
  position: usize, previous: usize, velocity: usize, acceleration: usize, damping: usize,
  age: usize, phaseAge: usize, travelled: usize,
  h: f64, speedLimit: f64,
): void {
  for (let i = start; i < end; i++) {
    const before = readF32(age, i)
    let dt = before < 0.0 ? h + before : h
    // an age stored as f32 is off by rounding: what is born at the very end does not move
    if (dt < h * 1.0e-6) dt = 0.0
    const c = readF32(damping, i)
    setPhi(c * dt)
    let squared = 0.0
    let moved = 0.0
    for (let axis = 0; axis < 3; axis++) {
      const k = i * 3 + axis
      const x = readF32(position, k)
      const v = readF32(velocity, k)
      const a = readF32(acceleration, k)
      const step = v * dt * phi1 + a * dt * dt * phi2
      const after = v * decay + a * dt * phi1
      writeF32(previous, k, x)
      writeF32(position, k, x + step)
      writeF32(velocity, k, after)
      squared += after * after
      moved += step * step
    }
    if (squared > speedLimit * speedLimit) {
      const scale = speedLimit / squareRoot(squared)
      for (let axis = 0; axis < 3; axis++) {
        const k = i * 3 + axis
        writeF32(velocity, k, readF32(velocity, k) * scale)
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
