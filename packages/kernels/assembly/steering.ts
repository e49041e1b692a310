/**
 * Pulls, whirls and ways of going. A, C and K as in integrate.ts; `amount` is an f32 per particle: weight(phase) ×
 * strength(t) × Π responses.
 */
import { floor, readF32, readI32, squareRoot, truncate, writeF32 } from './machine'
import { philox, toUnit, word0, word1, word2 } from './random'
import { cosineOf, sineOf } from './trigonometry'

/**
 * How a pull falls off with the distance r, 1 at its fullest: 0 nowhere; 1 evenly to 0 at the reach;
 * 2 smoothly to 0 at the reach; 3 as 1/r and 4 as 1/r², 1 at a metre. Within `core` 3 and 4 fall to 0 with r, as inside
 * a ball (4) or a rod (3) of that radius.
 */
function falloff(code: i32, r: f64, reach: f64, core: f64): f64 {
  if (code == 0) return 1.0
  if (code >= 3) {
    const near = r < core ? core : r
    const inner = r < core ? r / core : 1.0
    return code == 3 ? inner / near : inner / (near * near)
  }
  if (r >= reach) return 0.0
  const t = 1.0 - r / reach
  return code == 1 ? t : t * t * (3.0 - 2.0 * t)
}

/**
 * Attract: A += w·f(r)·(p − x)/r. `point` is 3 × f32 per particle, or one place for all (stride 0); what is
 * at `core` or nearer is pulled less, so that nothing shakes there.
 */
export function attractTo(
  start: i32, end: i32, amount: usize, acceleration: usize, position: usize, point: usize, stride: i32,
  code: i32, reach: f64, core: f64,
): void {
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    if (w == 0.0) continue
    const p = i * stride
    const dx = readF32(point, p) - readF32(position, i * 3)
    const dy = readF32(point, p + 1) - readF32(position, i * 3 + 1)
    const dz = readF32(point, p + 2) - readF32(position, i * 3 + 2)
    const r = squareRoot(dx * dx + dy * dy + dz * dz)
    if (r == 0.0) continue
    let size = (w * falloff(code, r, reach, core)) / r
    if (code < 3 && r < core) size *= r / core
    writeF32(acceleration, i * 3, readF32(acceleration, i * 3) + size * dx)
    writeF32(acceleration, i * 3 + 1, readF32(acceleration, i * 3 + 1) + size * dy)
    writeF32(acceleration, i * 3 + 2, readF32(acceleration, i * 3 + 2) + size * dz)
  }
}

/** The nearest point of a path of straight pieces (`count` points of 3 × f32) for each position. */
export function nearestOnPath(start: i32, end: i32, position: usize, path: usize, count: i32, out: usize): void {
  for (let i = start; i < end; i++) {
    const x = readF32(position, i * 3)
    const y = readF32(position, i * 3 + 1)
    const z = readF32(position, i * 3 + 2)
    let best = 1.0e300
    for (let k = 0; k < count; k++) {
      const ax = readF32(path, k * 3)
      const ay = readF32(path, k * 3 + 1)
      const az = readF32(path, k * 3 + 2)
      const next = k + 1 < count ? k + 1 : k
      const ux = readF32(path, next * 3) - ax
      const uy = readF32(path, next * 3 + 1) - ay
      const uz = readF32(path, next * 3 + 2) - az
      const length = ux * ux + uy * uy + uz * uz
      let t = length > 0.0 ? ((x - ax) * ux + (y - ay) * uy + (z - az) * uz) / length : 0.0
      if (t < 0.0) t = 0.0
      if (t > 1.0) t = 1.0
      const px = ax + ux * t
      const py = ay + uy * t
      const pz = az + uz * t
      const squared = (px - x) * (px - x) + (py - y) * (py - y) + (pz - z) * (pz - z)
      if (squared >= best) continue
      best = squared
      writeF32(out, i * 3, px)
      writeF32(out, i * 3 + 1, py)
      writeF32(out, i * 3 + 2, pz)
    }
  }
}

/**
 * Vortex: draws to the velocity u of a whirl about the axis d through c at the rate w: A += w·u, C += w. u turns with
 * `speed` at the edge of the core: solidly within (∝ r), as 1/r without (Rankine's vortex: Rankine, "A Manual
 * of Applied Mechanics", 1858), and has a part towards the axis (`inward`, with the same profile) and along it.
 */
export function vortex(
  start: i32, end: i32, amount: usize, acceleration: usize, damping: usize, position: usize,
  cx: f64, cy: f64, cz: f64, dx: f64, dy: f64, dz: f64,
  core: f64, speed: f64, inward: f64, lift: f64, reach: f64,
): void {
  for (let i = start; i < end; i++) {
    let w = readF32(amount, i)
    if (w == 0.0) continue
    let x = readF32(position, i * 3) - cx
    let y = readF32(position, i * 3 + 1) - cy
    let z = readF32(position, i * 3 + 2) - cz
    const along = x * dx + y * dy + z * dz
    x -= along * dx
    y -= along * dy
    z -= along * dz
    const r = squareRoot(x * x + y * y + z * z)
    if (r >= reach) continue
    // fades out over the last fifth of the reach
    const edge = (reach - r) / (0.2 * reach)
    if (edge < 1.0) w *= edge
    const profile = r < core ? 1.0 / core : core / (r * r)
    const turn = speed * profile
    const pullIn = inward * profile
    const ux = (dy * z - dz * y) * turn - x * pullIn + dx * lift
    const uy = (dz * x - dx * z) * turn - y * pullIn + dy * lift
    const uz = (dx * y - dy * x) * turn - z * pullIn + dz * lift
    writeF32(acceleration, i * 3, readF32(acceleration, i * 3) + w * ux)
    writeF32(acceleration, i * 3 + 1, readF32(acceleration, i * 3 + 1) + w * uy)
    writeF32(acceleration, i * 3 + 2, readF32(acceleration, i * 3 + 2) + w * uz)
    writeF32(damping, i, readF32(damping, i) + w)
  }
}

let aimX: f64 = 0.0
let aimY: f64 = 0.0
let aimZ: f64 = 0.0

/** A direction even over the sphere, of particle `id` in the stretch `turn`. */
function randomAim(id: i32, turn: i32, seed: i32, stream: i32): void {
  philox(id, stream, turn, 0, seed, 0)
  const height = 2.0 * toUnit(word0) - 1.0
  const out = squareRoot(1.0 - height * height)
  const round = 6.283185307179586 * toUnit(word1)
  aimX = out * cosineOf(round)
  aimY = height
  aimZ = out * sineOf(round)
}

/**
 * Wander: A += w·d(t), d a direction of the particle's own that drifts from one random direction to the next,
 * `turns` times a second, from a start of its own. It has no memory, so it does not depend on the step.
 * After Reynolds, "Steering behaviors for autonomous characters" (1999).
 */
export function wander(
  start: i32, end: i32, amount: usize, ids: usize, acceleration: usize, time: f64, turns: f64, flat: i32, seed: i32, stream: i32,
): void {
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    if (w == 0.0) continue
    const id = readI32(ids, i)
    philox(id, stream, -1, 0, seed, 0)
    const phase = time * turns + toUnit(word2)
    const whole = floor(phase)
    const t = phase - whole
    const mix = t * t * (3.0 - 2.0 * t)
    randomAim(id, truncate(whole), seed, stream)
    let x = aimX * (1.0 - mix)
    let y = aimY * (1.0 - mix)
    let z = aimZ * (1.0 - mix)
    randomAim(id, truncate(whole) + 1, seed, stream)
    x += aimX * mix
    y += aimY * mix
    z += aimZ * mix
    if (flat == 1) y = 0.0
    writeF32(acceleration, i * 3, readF32(acceleration, i * 3) + w * x)
    writeF32(acceleration, i * 3 + 1, readF32(acceleration, i * 3 + 1) + w * y)
    writeF32(acceleration, i * 3 + 2, readF32(acceleration, i * 3 + 2) + w * z)
  }
}

/**
 * Limits: no faster than `most`, no slower than `least` (m/s), and turning by no more than an angle in a substep,
 * given by its cosine and sine. `startVelocity` is the velocity at the start of the substep. The way of the substep
 * follows the new velocity. Mixed in by the amount (at most 1).
 */
export function limit(
  start: i32, end: i32, amount: usize, position: usize, startPosition: usize, velocity: usize, startVelocity: usize,
  h: f64, most: f64, least: f64, cosine: f64, sine: f64, mostFactor: usize,
): void {
  for (let i = start; i < end; i++) {
    let k = readF32(amount, i)
    if (k <= 0.0) continue
    if (k > 1.0) k = 1.0
    const c = i * 3
    const x = readF32(velocity, c)
    const y = readF32(velocity, c + 1)
    const z = readF32(velocity, c + 2)
    const bx = readF32(startVelocity, c)
    const by = readF32(startVelocity, c + 1)
    const bz = readF32(startVelocity, c + 2)
    const speed = squareRoot(x * x + y * y + z * z)
    const was = squareRoot(bx * bx + by * by + bz * bz)
    let ux = speed > 0.0 ? x / speed : was > 0.0 ? bx / was : 0.0
    let uy = speed > 0.0 ? y / speed : was > 0.0 ? by / was : 0.0
    let uz = speed > 0.0 ? z / speed : was > 0.0 ? bz / was : 0.0
    const along = was > 0.0 ? (ux * bx + uy * by + uz * bz) / was : 1.0
    if (was > 1.0e-6 && along < cosine) {
      // the part of the new direction across the old one, or any such where it goes straight back
      const ox = bx / was
      const oy = by / was
      const oz = bz / was
      let sx = ux - along * ox
      let sy = uy - along * oy
      let sz = uz - along * oz
      let size = squareRoot(sx * sx + sy * sy + sz * sz)
      if (size < 1.0e-9) {
        sx = oz
        sy = 0.0
        sz = -ox
        size = squareRoot(sx * sx + sz * sz)
        if (size < 1.0e-9) {
          sx = 1.0
          size = 1.0
        }
      }
      ux = ox * cosine + (sx / size) * sine
      uy = oy * cosine + (sy / size) * sine
      uz = oz * cosine + (sz / size) * sine
    }
    const fastest = most * (mostFactor != 0 ? readF32(mostFactor, i) : 1.0)
    let s = speed
    if (s < least) s = least
    if (s > fastest) s = fastest
    const mx = (ux * s - x) * k
    const my = (uy * s - y) * k
    const mz = (uz * s - z) * k
    writeF32(velocity, c, x + mx)
    writeF32(velocity, c + 1, y + my)
    writeF32(velocity, c + 2, z + mz)
    // the mean of the old and the new velocity was the way; only its later half has changed
    writeF32(position, c, readF32(position, c) + 0.5 * h * mx)
    writeF32(position, c + 1, readF32(position, c + 1) + 0.5 * h * my)
    writeF32(position, c + 2, readF32(position, c + 2) + 0.5 * h * mz)
  }
}
