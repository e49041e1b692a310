/**
 * Particles that hold one another, by links or by touching: the constraints between them, solved one after the other
 * (Gauss and Seidel), so that momentum is kept to the last bit and stiffness does not wait for many rounds. In one
 * thread, in a fixed order. Tried: all at once with the corrections averaged (Jacobi) — parallel, but momentum is kept
 * only where all have as many contacts, and a stack of ten needs some ten times the iterations.
 *
 * Sources: extended position based dynamics with compliance, Macklin, Müller, Chentanez (2016); small steps, Macklin et
 * al. (2019); friction of positions, Macklin et al. (2014), §6.1; restitution and friction of velocities, Müller et al.,
 * "Detailed rigid body simulation with extended position based dynamics" (2020), §3.6.
 *
 * `bodies` points to a record of `body` (layouts.ts) for each particle.
 */
import { body, F64 } from './layouts'
import { addWrapping, readF32, readF64, squareRoot, writeF32, writeF64 } from './machine'

export function bodyAt(bodies: usize, i: i32): usize {
  return bodies + <usize>(i * body.SIZE * F64)
}

/** Places half-way from `from` to `to`, and what takes them there in h seconds; 3 × f32 each. */
export function halfWay(start: i32, end: i32, from: usize, to: usize, h: f64, middle: usize, velocity: usize): void {
  for (let k = start * 3; k < end * 3; k++) {
    const a = readF32(from, k)
    const b = readF32(to, k)
    writeF32(middle, k, 0.5 * (a + b))
    writeF32(velocity, k, (b - a) / h)
  }
}

/** Columns into bodies, from its `first` place on. `pinned` (f32; 0: none): at 1 and above it does not give way. */
export function gatherBodies(
  start: i32, end: i32, position: usize, startPosition: usize, velocity: usize, inverseMass: usize, radius: usize,
  pinned: usize, bodies: usize, first: i32,
): void {
  for (let i = start; i < end; i++) {
    const p = bodyAt(bodies, addWrapping(first, i))
    for (let axis = 0; axis < 3; axis++) {
      writeF64(p, body.x + axis, readF32(position, i * 3 + axis))
      writeF64(p, body.startX + axis, readF32(startPosition, i * 3 + axis))
      writeF64(p, body.velocityX + axis, readF32(velocity, i * 3 + axis))
      writeF64(p, body.freeVelocityX + axis, readF32(velocity, i * 3 + axis))
    }
    const w = pinned != 0 && readF32(pinned, i) >= 1.0 ? 0.0 : readF32(inverseMass, i)
    writeF64(p, body.inverseMass, w)
    writeF64(p, body.radius, readF32(radius, i))
    writeF64(p, body.awakeInverseMass, w)
    writeF64(p, body.sleepState, 0.0)
  }
}

/** Who has rested for `wait` seconds sleeps: it lies where it lay and does not give way. */
export function sleepBodies(
  start: i32, end: i32, bodies: usize, first: i32, startPosition: usize, restTime: usize, wait: f64,
): void {
  for (let i = start; i < end; i++) {
    if (readF32(restTime, i) < wait) continue
    const p = bodyAt(bodies, addWrapping(first, i))
    writeF64(p, body.inverseMass, 0.0)
    writeF64(p, body.sleepState, 1.0)
    for (let axis = 0; axis < 3; axis++) {
      writeF64(p, body.x + axis, readF32(startPosition, i * 3 + axis))
      writeF64(p, body.velocityX + axis, 0.0)
      writeF64(p, body.freeVelocityX + axis, 0.0)
    }
  }
}

/** Where particles are before the rounds: 3 × f64 each. */
export function storePlaces(start: i32, end: i32, bodies: usize, first: i32, kept: usize): void {
  for (let i = start; i < end; i++) {
    const p = bodyAt(bodies, addWrapping(first, i))
    for (let axis = 0; axis < 3; axis++) writeF64(kept, i * 3 + axis, readF64(p, body.x + axis))
  }
}
/** What the rounds moved gives velocity: v += Δx/h. */
export function velocityFromRounds(start: i32, end: i32, bodies: usize, first: i32, kept: usize, h: f64): void {
  for (let i = start; i < end; i++) {
    const p = bodyAt(bodies, addWrapping(first, i))
    if (readF64(p, body.sleepState) == 1.0) continue
    for (let axis = 0; axis < 3; axis++) {
      const moved = readF64(p, body.x + axis) - readF64(kept, i * 3 + axis)
      writeF64(p, body.velocityX + axis, readF64(p, body.velocityX + axis) + moved / h)
    }
  }
}

/** A bodies back into columns. `travelled` (0: not kept) counts where they got rather than where they were going. */
export function scatterBodies(
  start: i32, end: i32, bodies: usize, first: i32, position: usize, velocity: usize, free: usize, travelled: usize,
): void {
  for (let i = start; i < end; i++) {
    const p = bodyAt(bodies, addWrapping(first, i))
    let went = 0.0
    let meant = 0.0
    for (let axis = 0; axis < 3; axis++) {
      const x = readF64(p, body.x + axis)
      const from = readF64(p, body.startX + axis)
      const wanted = readF32(free, i * 3 + axis) - from
      went += (x - from) * (x - from)
      meant += wanted * wanted
      writeF32(position, i * 3 + axis, x)
      writeF32(velocity, i * 3 + axis, readF64(p, body.velocityX + axis))
    }
    if (travelled == 0) continue
    const length = readF32(travelled, i) + squareRoot(went) - squareRoot(meant)
    writeF32(travelled, i, length > 0.0 ? length : 0.0)
  }
}

export function push(p: usize, at: i32, x: f64, y: f64, z: f64): void {
  writeF64(p, at, readF64(p, at) + x)
  writeF64(p, at + 1, readF64(p, at + 1) + y)
  writeF64(p, at + 2, readF64(p, at + 2) + z)
}
