/**
 * Particles that know where they want to go. `goal` is 2 × u32 per particle (what it is on, 0: it has none);
 * `from` and `to` are where its goal is at the start and the end of the substep, 3 × f32. A, C and K as in
 * integrate.ts; `amount` is an f32 per particle.
 */
import { exponentialDecay } from './integrate'
import { readF32, readI32, squareRoot, writeF32, writeI32 } from './machine'

/**
 * Places on other particles: those of the population `number`, by binary search among its ids, which stand in
 * order; each at x₀ + part·(x − x₀), x₀ being `startPosition`. Who aims at one that is dead has no goal any more.
 */
export function memberPoints(
  start: i32, end: i32, number: i32, goal: usize, ids: usize, count: i32, startPosition: usize, position: usize,
  part: f64, out: usize,
): void {
  for (let i = start; i < end; i++) {
    if (readI32(goal, i * 2) != number) continue
    const wanted = readI32(goal, i * 2 + 1)
    let low = 0
    let high = count - 1
    while (low < high) {
      const middle = (low + high) >> 1
      if (readI32(ids, middle) < wanted) low = middle + 1
      else high = middle
    }
    if (count == 0 || readI32(ids, low) != wanted) {
      writeI32(goal, i * 2, 0)
      writeI32(goal, i * 2 + 1, 1)
      continue
    }
    for (let axis = 0; axis < 3; axis++) {
      const x = readF32(startPosition, low * 3 + axis)
      writeF32(out, i * 3 + axis, x + (readF32(position, low * 3 + axis) - x) * part)
    }
  }
}

/** Distance to the goal in metres; −1 where there is none. */
export function goalDistances(start: i32, end: i32, goal: usize, position: usize, at: usize, out: usize): void {
  for (let i = start; i < end; i++) {
    if (readI32(goal, i * 2) == 0) {
      writeF32(out, i, -1.0)
      continue
    }
    let squared = 0.0
    for (let axis = 0; axis < 3; axis++) {
      const d = readF32(at, i * 3 + axis) - readF32(position, i * 3 + axis)
      squared += d * d
    }
    writeF32(out, i, squareRoot(squared))
  }
}

/**
 * Seek: dv/dt = w·(u + ĝ·s − v), ĝ the direction to the goal, s the speed and u the goal's own velocity; so A += w·(u + ĝ·s), C += w. It
 * does not slow down, and circles what it misses. Source: Reynolds, "Steering behaviors for autonomous
 * characters" (1999).
 */
export function seek(
  start: i32, end: i32, amount: usize, goal: usize, from: usize, to: usize, h: f64, position: usize,
  acceleration: usize, damping: usize, speed: f64, speedFactor: usize,
): void {
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    if (w == 0.0 || readI32(goal, i * 2) == 0) continue
    const dx = readF32(from, i * 3) - readF32(position, i * 3)
    const dy = readF32(from, i * 3 + 1) - readF32(position, i * 3 + 1)
    const dz = readF32(from, i * 3 + 2) - readF32(position, i * 3 + 2)
    const r = squareRoot(dx * dx + dy * dy + dz * dz)
    const s = r > 0.0 ? (speed * (speedFactor != 0 ? readF32(speedFactor, i) : 1.0)) / r : 0.0
    for (let axis = 0; axis < 3; axis++) {
      const c = i * 3 + axis
      const u = (readF32(to, c) - readF32(from, c)) / h
      const way = axis == 0 ? dx : axis == 1 ? dy : dz
      writeF32(acceleration, c, readF32(acceleration, c) + w * (u + way * s))
    }
    writeF32(damping, i, readF32(damping, i) + w)
  }
}

/**
 * Arrive: seek at the speed s beyond the distance D, and within it the critically damped approach with the
 * rate ω = s/D, which takes over at speed s without a jump: r'' = −ω²·r − 2ω·r', r being the way from the
 * goal, which may move. Who comes in faster than ω·r is braked with the rate at which it just arrives,
 * ω = −r'/r, so that nobody overshoots. Solved exactly: A += ω²·(g − x₀) + 2ω·u, C += 2ω, K += ω². A weight w
 * takes ω times as long as w·ω. Critically damped approach: any textbook of mechanics; slowing within a
 * distance: Reynolds (1999), "arrival".
 */
export function arrive(
  start: i32, end: i32, amount: usize, goal: usize, from: usize, to: usize, h: f64, startPosition: usize, velocity: usize,
  acceleration: usize, damping: usize, stiffness: usize, speed: f64, speedFactor: usize, slowing: f64,
): void {
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    if (w <= 0.0 || readI32(goal, i * 2) == 0) continue
    let squared = 0.0
    let along = 0.0
    for (let axis = 0; axis < 3; axis++) {
      const c = i * 3 + axis
      const g = readF32(from, c)
      const d = g - readF32(startPosition, c)
      squared += d * d
      along += d * (readF32(velocity, c) - (readF32(to, c) - g) / h)
    }
    const s = speed * (speedFactor != 0 ? readF32(speedFactor, i) : 1.0)
    const r = squareRoot(squared)
    const far = r > slowing
    let rate = (w * s) / slowing
    const brake = squared > 1.0e-12 ? ((w < 1.0 ? w : 1.0) * along) / squared : 0.0
    if (!far && brake > rate) rate = brake
    if (rate > 4.0 / h) rate = 4.0 / h
    const spring = far ? (2.0 * rate * s) / r : rate * rate
    for (let axis = 0; axis < 3; axis++) {
      const c = i * 3 + axis
      const g = readF32(from, c)
      const u = (readF32(to, c) - g) / h
      writeF32(acceleration, c, readF32(acceleration, c) + spring * (g - readF32(startPosition, c)) + 2.0 * rate * u)
    }
    writeF32(damping, i, readF32(damping, i) + 2.0 * rate)
    if (!far) writeF32(stiffness, i, readF32(stiffness, i) + rate * rate)
  }
}

/**
 * Settle: within a distance the critically damped approach alone, whatever else acts, exact for any step: with
 * r = x − goal at the start, s = v₀ − u₀ + ω·r,
 *   r(h) = (r + s·h)·E,  v(h) = u + (s − ω·(r + s·h))·E,  E = e^(−ω·h)
 * u is the velocity of the goal in this substep, u₀ that in the last one: v₀ − u₀ is how the particle moves against it,
 * so what has come to rest goes along with a goal that turns, ripples or speeds up and does not trail by a/ω². `motion`
 * (5 f32) keeps u₀, the age at which it was written, and what the goal is on; where it is not of the substep before, u₀
 * is u. Who comes in faster than ω·r is braked as in `arrive`. Mixed in by the amount (at most 1). `startVelocity` is v₀.
 */
export function settle(
  start: i32, end: i32, goal: usize, amount: usize, position: usize, startPosition: usize, velocity: usize,
  startVelocity: usize, age: usize, motion: usize, from: usize, to: usize, h: f64, rate: f64, within: f64,
): void {
  const usual = exponentialDecay(rate * h)
  for (let i = start; i < end; i++) {
    let k = readF32(amount, i)
    if (k <= 0.0 || readI32(goal, i * 2) == 0) continue
    if (k > 1.0) k = 1.0
    const on = <f64>readI32(goal, i * 2)
    const since = readF32(age, i) - readF32(motion, i * 5 + 3)
    const known = readF32(motion, i * 5 + 4) == on && since > 0.5 * h && since < 1.5 * h
    let squared = 0.0
    let inward = 0.0
    for (let axis = 0; axis < 3; axis++) {
      const c = i * 3 + axis
      const g = readF32(from, c)
      const r = readF32(startPosition, c) - g
      const u = known ? readF32(motion, i * 5 + axis) : (readF32(to, c) - g) / h
      squared += r * r
      inward -= r * (readF32(startVelocity, c) - u)
    }
    if (squared > within * within) continue
    let w = rate
    let decay = usual
    if (squared > 1.0e-12 && inward > rate * squared) {
      w = inward / squared
      if (w > 4.0 / h) w = 4.0 / h
      decay = exponentialDecay(w * h)
    }
    for (let axis = 0; axis < 3; axis++) {
      const c = i * 3 + axis
      const target = readF32(to, c)
      const g = readF32(from, c)
      const u = (target - g) / h
      const before = known ? readF32(motion, i * 5 + axis) : u
      const r = readF32(startPosition, c) - g
      const s = readF32(startVelocity, c) - before + w * r
      const away = (r + s * h) * decay
      const next = target + away
      const speed = u + s * decay - w * away
      const x = readF32(position, c)
      const v = readF32(velocity, c)
      writeF32(position, c, x + (next - x) * k)
      writeF32(velocity, c, v + (speed - v) * k)
      writeF32(motion, i * 5 + axis, u)
    }
    writeF32(motion, i * 5 + 3, readF32(age, i))
    writeF32(motion, i * 5 + 4, on)
  }
}

/**
 * Blend: x = (1 − k)·home + k·goal, k being the amount, from 0 to 1 (below 0: it does not act); the velocity is
 * that of the blend.
 * `home` and `at` are where its place of birth and its goal are at the end of the substep.
 */
export function blend(
  start: i32, end: i32, goal: usize, amount: usize, position: usize, startPosition: usize, velocity: usize,
  home: usize, at: usize, h: f64,
): void {
  for (let i = start; i < end; i++) {
    let k = readF32(amount, i)
    if (k < 0.0 || readI32(goal, i * 2) == 0) continue
    if (k > 1.0) k = 1.0
    for (let axis = 0; axis < 3; axis++) {
      const c = i * 3 + axis
      const a = readF32(home, c)
      const x = a + (readF32(at, c) - a) * k
      writeF32(velocity, c, (x - readF32(startPosition, c)) / h)
      writeF32(position, c, x)
    }
  }
}
