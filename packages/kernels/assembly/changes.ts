/** Changes of what a particle is: size, opacity, colour, orientation. `amount` is how far they apply, 0–1. */
import { readF32, squareRoot, truncate, writeF32 } from './machine'
import { cosineOf, sineOf } from './trigonometry'

function share(amount: f64): f64 {
  return amount > 1.0 ? 1.0 : amount
}

/** radius = radius at birth · mix(1, size, amount); the mass follows the volume. `sizes`: a factor per particle. */
export function resize(
  start: i32, end: i32, amount: usize, birthRadius: usize, radius: usize, inverseMass: usize, size: f64, sizes: usize,
): void {
  for (let i = start; i < end; i++) {
    const k = share(readF32(amount, i))
    if (k <= 0.0) continue
    const s = size * (sizes != 0 ? readF32(sizes, i) : 1.0)
    const before = readF32(radius, i)
    let after = readF32(birthRadius, i) * (1.0 + (s - 1.0) * k)
    if (after < 0.0) after = 0.0
    writeF32(radius, i, after)
    if (after > 0.0 && before > 0.0) {
      const ratio = before / after
      writeF32(inverseMass, i, readF32(inverseMass, i) * ratio * ratio * ratio)
    }
  }
}

/** opacity = mix(1, value, amount), from 0 to 1. */
export function fadeTo(start: i32, end: i32, amount: usize, opacity: usize, value: f64, values: usize): void {
  for (let i = start; i < end; i++) {
    const k = share(readF32(amount, i))
    if (k <= 0.0) continue
    const s = value * (values != 0 ? readF32(values, i) : 1.0)
    const o = 1.0 + (s - 1.0) * k
    writeF32(opacity, i, o < 0.0 ? 0.0 : o > 1.0 ? 1.0 : o)
  }
}

/** colour = mix(own, ramp(at), amount), linear RGB. `ramp`: 256 × 3 f32. */
export function tint(
  start: i32, end: i32, amount: usize, colour: usize, ramp: usize, at: f64, ats: usize, r: f64, g: f64, b: f64,
): void {
  for (let i = start; i < end; i++) {
    const k = share(readF32(amount, i))
    if (k <= 0.0) continue
    let t = at * (ats != 0 ? readF32(ats, i) : 1.0)
    t = t < 0.0 ? 0.0 : t > 1.0 ? 1.0 : t
    const entry = truncate(t * 255.0 + 0.5) * 3
    writeF32(colour, i * 3, r + (readF32(ramp, entry) - r) * k)
    writeF32(colour, i * 3 + 1, g + (readF32(ramp, entry + 1) - g) * k)
    writeF32(colour, i * 3 + 2, b + (readF32(ramp, entry + 2) - b) * k)
  }
}

/**
 * Turns the orientation q (x, y, z, w) about an axis of the particle's own by the angle rate·amount·h:
 * q' = (a·sin(θ/2), cos(θ/2))·q, then made unit. `axes`: 3 × f32 unit vectors.
 */
export function spinBy(start: i32, end: i32, amount: usize, orientation: usize, axes: usize, radians: f64, rates: usize): void {
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    if (w == 0.0) continue
    const half = 0.5 * radians * w * (rates != 0 ? readF32(rates, i) : 1.0)
    const s = sineOf(half)
    const c = cosineOf(half)
    const ax = readF32(axes, i * 3) * s
    const ay = readF32(axes, i * 3 + 1) * s
    const az = readF32(axes, i * 3 + 2) * s
    const qx = readF32(orientation, i * 4)
    const qy = readF32(orientation, i * 4 + 1)
    const qz = readF32(orientation, i * 4 + 2)
    const qw = readF32(orientation, i * 4 + 3)
    const x = c * qx + ax * qw + ay * qz - az * qy
    const y = c * qy - ax * qz + ay * qw + az * qx
    const z = c * qz + ax * qy - ay * qx + az * qw
    const o = c * qw - ax * qx - ay * qy - az * qz
    const length = squareRoot(x * x + y * y + z * z + o * o)
    writeF32(orientation, i * 4, x / length)
    writeF32(orientation, i * 4 + 1, y / length)
    writeF32(orientation, i * 4 + 2, z / length)
    writeF32(orientation, i * 4 + 3, o / length)
  }
}
