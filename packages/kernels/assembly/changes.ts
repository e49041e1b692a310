/** Changes of what a particle is: size, opacity, colour, orientation. `amount` is how far they apply, 0–1. */
import { exponentialDecay } from './integrate'
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
 * An attribute of `width` numbers, with the value v (x, y, z; times `factors`, f32 per particle) and k the amount:
 *   how 0  a = mix(a, v, k)                 set at once
 *   how 1  a = v + (a − v)·e^(−r·k·h)       towards it at the rate r, exactly
 *   how 2  a = a + k·v·h                    so much a second
 */
export function setAttribute(
  start: i32, end: i32, amount: usize, attribute: usize, width: i32, x: f64, y: f64, z: f64, factors: usize,
  how: i32, rate: f64, h: f64,
): void {
  for (let i = start; i < end; i++) {
    const k = readF32(amount, i)
    if (k == 0.0) continue
    const f = factors != 0 ? readF32(factors, i) : 1.0
    for (let part = 0; part < width; part++) {
      const v = (part == 0 ? x : part == 1 ? y : z) * f
      const a = readF32(attribute, i * width + part)
      let next = a + k * v * h
      if (how == 0) next = a + (v - a) * share(k)
      else if (how == 1) next = v + (a - v) * exponentialDecay(rate * (k > 0.0 ? k : 0.0) * h)
      writeF32(attribute, i * width + part, next)
    }
  }
}

/** q' = (a·sin(θ/2), cos(θ/2))·q, made unit: turns the orientation q (x, y, z, w) about the unit axis a by θ. */
function turnBy(orientation: usize, i: i32, x: f64, y: f64, z: f64, angle: f64): void {
  const s = sineOf(0.5 * angle)
  const c = cosineOf(0.5 * angle)
  const ax = x * s
  const ay = y * s
  const az = z * s
  const qx = readF32(orientation, i * 4)
  const qy = readF32(orientation, i * 4 + 1)
  const qz = readF32(orientation, i * 4 + 2)
  const qw = readF32(orientation, i * 4 + 3)
  writeUnit(
    orientation, i,
    c * qx + ax * qw + ay * qz - az * qy,
    c * qy - ax * qz + ay * qw + az * qx,
    c * qz + ax * qy - ay * qx + az * qw,
    c * qw - ax * qx - ay * qy - az * qz,
  )
}

function writeUnit(orientation: usize, i: i32, x: f64, y: f64, z: f64, w: f64): void {
  const length = squareRoot(x * x + y * y + z * z + w * w)
  writeF32(orientation, i * 4, x / length)
  writeF32(orientation, i * 4 + 1, y / length)
  writeF32(orientation, i * 4 + 2, z / length)
  writeF32(orientation, i * 4 + 3, w / length)
}

/** Turns about an axis of the particle's own by the angle rate·amount·h. `axes`: 3 × f32 unit vectors. */
export function spinBy(start: i32, end: i32, amount: usize, orientation: usize, axes: usize, radians: f64, rates: usize): void {
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    if (w == 0.0) continue
    const angle = radians * w * (rates != 0 ? readF32(rates, i) : 1.0)
    turnBy(orientation, i, readF32(axes, i * 3), readF32(axes, i * 3 + 1), readF32(axes, i * 3 + 2), angle)
  }
}

/**
 * Rolls what touches and lets it tumble on: a ball of radius r that goes at v over a surface with normal n and does
 * not slip there has v + ω × (−r·n) = 0 along the surface, so ω = n × v / r. In contact ω comes to that by the
 * amount; off it ω keeps `lasts` of itself. Newborn ones, no older than `young`, start with `begins` (3 × f32, rad/s).
 */
export function tumble(
  start: i32, end: i32, amount: usize, orientation: usize, angularVelocity: usize, velocity: usize, radius: usize,
  contactNormal: usize, age: usize, begins: usize, young: f64, lasts: f64, h: f64,
): void {
  for (let i = start; i < end; i++) {
    const k = share(readF32(amount, i))
    if (k <= 0.0) continue
    const c = i * 3
    const isNew = readF32(age, i) <= young
    let x = readF32(isNew ? begins : angularVelocity, c)
    let y = readF32(isNew ? begins : angularVelocity, c + 1)
    let z = readF32(isNew ? begins : angularVelocity, c + 2)
    const nx = readF32(contactNormal, c)
    const ny = readF32(contactNormal, c + 1)
    const nz = readF32(contactNormal, c + 2)
    const r = readF32(radius, i)
    if (nx * nx + ny * ny + nz * nz > 0.0 && r > 0.0) {
      const vx = readF32(velocity, c)
      const vy = readF32(velocity, c + 1)
      const vz = readF32(velocity, c + 2)
      x += ((ny * vz - nz * vy) / r - x) * k
      y += ((nz * vx - nx * vz) / r - y) * k
      z += ((nx * vy - ny * vx) / r - z) * k
    } else {
      x *= lasts
      y *= lasts
      z *= lasts
    }
    writeF32(angularVelocity, c, x)
    writeF32(angularVelocity, c + 1, y)
    writeF32(angularVelocity, c + 2, z)
    const speed = squareRoot(x * x + y * y + z * z)
    if (speed > 1.0e-9) turnBy(orientation, i, x / speed, y / speed, z / speed, speed * h)
  }
}

/**
 * Turns the front, Z, towards a direction d (`ways`: 3 × f32 of any length; where it is 0 nothing turns): the share
 * k = 1 − 2^(−frames·amount/half life) of the way, along the chord of quaternions. `level` keeps Y as far up as d
 * allows; else the shortest turn is taken, (z × d, 1 + z·d)·q.
 */
export function faceTo(start: i32, end: i32, amount: usize, orientation: usize, ways: usize, portion: f64, level: i32): void {
  for (let i = start; i < end; i++) {
    const k = share(readF32(amount, i)) * portion
    if (k <= 0.0) continue
    let dx = readF32(ways, i * 3)
    let dy = readF32(ways, i * 3 + 1)
    let dz = readF32(ways, i * 3 + 2)
    const length = squareRoot(dx * dx + dy * dy + dz * dz)
    if (length < 1.0e-6) continue
    dx /= length
    dy /= length
    dz /= length
    const qx = readF32(orientation, i * 4)
    const qy = readF32(orientation, i * 4 + 1)
    const qz = readF32(orientation, i * 4 + 2)
    const qw = readF32(orientation, i * 4 + 3)
    let tx = 1.0
    let ty = 0.0
    let tz = 0.0
    let tw = 0.0
    const across = squareRoot(dx * dx + dz * dz)
    if (level != 0 && across > 1.0e-4) {
      // half a turn about Y by the bearing of d, then about X by its height; both from the half-angle formulas
      const bearingCosine = squareRoot(0.5 * (1.0 + dz / across > 0.0 ? 1.0 + dz / across : 0.0))
      let bearingSine = squareRoot(0.5 * (1.0 - dz / across > 0.0 ? 1.0 - dz / across : 0.0))
      if (dx < 0.0) bearingSine = -bearingSine
      const heightCosine = squareRoot(0.5 * (1.0 + across))
      let heightSine = squareRoot(0.5 * (1.0 - across > 0.0 ? 1.0 - across : 0.0))
      if (dy > 0.0) heightSine = -heightSine
      tx = bearingCosine * heightSine
      ty = bearingSine * heightCosine
      tz = -bearingSine * heightSine
      tw = bearingCosine * heightCosine
    } else {
      const zx = 2.0 * (qx * qz + qw * qy)
      const zy = 2.0 * (qy * qz - qw * qx)
      const zz = 1.0 - 2.0 * (qx * qx + qy * qy)
      let ax = zy * dz - zz * dy
      let ay = zz * dx - zx * dz
      let az = zx * dy - zy * dx
      let aw = 1.0 + zx * dx + zy * dy + zz * dz
      if (aw < 1.0e-6) {
        // straight about: over its own X
        ax = 1.0 - 2.0 * (qy * qy + qz * qz)
        ay = 2.0 * (qx * qy + qw * qz)
        az = 2.0 * (qx * qz - qw * qy)
        aw = 0.0
      }
      const size = squareRoot(ax * ax + ay * ay + az * az + aw * aw)
      ax /= size
      ay /= size
      az /= size
      aw /= size
      tx = aw * qx + ax * qw + ay * qz - az * qy
      ty = aw * qy - ax * qz + ay * qw + az * qx
      tz = aw * qz + ax * qy - ay * qx + az * qw
      tw = aw * qw - ax * qx - ay * qy - az * qz
    }
    const side = qx * tx + qy * ty + qz * tz + qw * tw < 0.0 ? -1.0 : 1.0
    writeUnit(
      orientation, i,
      qx + (tx * side - qx) * k,
      qy + (ty * side - qy) * k,
      qz + (tz * side - qz) * k,
      qw + (tw * side - qw) * k,
    )
  }
}
