/**
 * Forces without neighbours. Each adds to the acceleration A (3 × f32) and the damping C (f32) that
 * `integrate` solves. `amount` is an f32 per particle: weight(phase) × strength(t) × Π responses.
 */
import { curlX, curlY, curlZ, noise, simplexCurl, cellularCurlAt } from './noise'
import { readF32, squareRoot, writeF32 } from './machine'

/** Brings the noise to the order of −1 … 1; common practice, no source. */
const NOISE_PEAK: f64 = 60.0

/** A += w·a, the same everywhere. a in m/s². */
export function accelerate(
  start: i32, end: i32, amount: usize, acceleration: usize,
  ax: f64, ay: f64, az: f64,
): void {
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    if (w == 0.0) continue
    writeF32(acceleration, i * 3, readF32(acceleration, i * 3) + w * ax)
    writeF32(acceleration, i * 3 + 1, readF32(acceleration, i * 3 + 1) + w * ay)
    writeF32(acceleration, i * 3 + 2, readF32(acceleration, i * 3 + 2) + w * az)
  }
}

/** Linear drag: dv/dt = −w·v, so C += w. w in 1/s. */
export function dampLinear(start: i32, end: i32, amount: usize, damping: usize): void {
  for (let i = start; i < end; i++) {
    writeF32(damping, i, readF32(damping, i) + readF32(amount, i))
  }
}

/**
 * Quadratic drag of a ball: F = ½·ρ·c·A·|v|·v with A = π·r², so C += w·½·ρ·c·π·r²·|v|/m.
 * half = ½·ρ·c·π in kg/m³.
 */
export function dampQuadratic(
  start: i32, end: i32, amount: usize, damping: usize,
  velocity: usize, radius: usize, inverseMass: usize, half: f64,
): void {
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    const x = readF32(velocity, i * 3)
    const y = readF32(velocity, i * 3 + 1)
    const z = readF32(velocity, i * 3 + 2)
    const r = readF32(radius, i)
    const rate = half * r * r * readF32(inverseMass, i) * squareRoot(x * x + y * y + z * z)
    writeF32(damping, i, readF32(damping, i) + w * rate)
  }
}

/**
 * Wind: the particle is drawn to the air's velocity u at the rate w (1/s): dv/dt = w·(u − v).
 * Gusts scale u by 1 + gust·n(x/scale, t), n being smooth noise from −1 to 1. u in m/s. `speeds` is
 * a factor of u per particle (f32), or 0.
 */
export function blow(
  start: i32, end: i32, amount: usize, acceleration: usize, damping: usize, position: usize,
  ux: f64, uy: f64, uz: f64, speeds: usize, gust: f64, gradients: usize, frequency: f64, offset: f64,
): void {
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    if (w == 0.0) continue
    let factor = 1.0
    if (gust > 0.0) {
      simplexCurl(
        gradients,
        readF32(position, i * 3) * frequency + offset,
        readF32(position, i * 3 + 1) * frequency,
        readF32(position, i * 3 + 2) * frequency,
      )
      factor = 1.0 + gust * noise * NOISE_PEAK
      if (factor < 0.0) factor = 0.0
    }
    if (speeds != 0) factor *= readF32(speeds, i)
    const pull = w * factor
    writeF32(acceleration, i * 3, readF32(acceleration, i * 3) + pull * ux)
    writeF32(acceleration, i * 3 + 1, readF32(acceleration, i * 3 + 1) + pull * uy)
    writeF32(acceleration, i * 3 + 2, readF32(acceleration, i * 3 + 2) + pull * uz)
    writeF32(damping, i, readF32(damping, i) + w)
  }
}

/**
 * Turbulence: A += w·Σ gain^o · curl(2^o·x/scale) over the octaves o, halving the amplitude each time.
 * `gradients` holds one table per octave (see noise.ts), `amplitude` the factor of the first octave.
 */
export function curlNoise(
  start: i32, end: i32, amount: usize, acceleration: usize, position: usize,
  gradients: usize, tableBytes: i32, octaves: i32, frequency: f64, amplitude: f64, offset: f64,
): void {
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    if (w == 0.0) continue
    const px = readF32(position, i * 3)
    const py = readF32(position, i * 3 + 1)
    const pz = readF32(position, i * 3 + 2)
    let x = 0.0
    let y = 0.0
    let z = 0.0
    let f = frequency
    let gain = amplitude * w
    for (let octave = 0; octave < octaves; octave++) {
      simplexCurl(gradients + <usize>(octave * tableBytes), px * f + offset, py * f + offset, pz * f + offset)
      x += gain * curlX
      y += gain * curlY
      z += gain * curlZ
      f *= 2.0
      gain *= 0.5
    }
    writeF32(acceleration, i * 3, readF32(acceleration, i * 3) + x)
    writeF32(acceleration, i * 3 + 1, readF32(acceleration, i * 3 + 1) + y)
    writeF32(acceleration, i * 3 + 2, readF32(acceleration, i * 3 + 2) + z)
  }
}

/** The same with a whirl in each cell: see `cellularCurlAt`. */
export function cellularCurl(
  start: i32, end: i32, amount: usize, acceleration: usize, position: usize,
  table: usize, axes: usize, frequency: f64, amplitude: f64,
): void {
  for (let i = start; i < end; i++) {
    const w = amplitude * readF32(amount, i)
    if (w == 0.0) continue
    cellularCurlAt(table, axes, readF32(position, i * 3) * frequency, readF32(position, i * 3 + 1) * frequency, readF32(position, i * 3 + 2) * frequency)
    writeF32(acceleration, i * 3, readF32(acceleration, i * 3) + w * curlX)
    writeF32(acceleration, i * 3 + 1, readF32(acceleration, i * 3 + 1) + w * curlY)
    writeF32(acceleration, i * 3 + 2, readF32(acceleration, i * 3 + 2) + w * curlZ)
  }
}

/** Curl noise at given points, for tests and for arrows on the stage. out: 3 × f32. */
export function curlAt(start: i32, end: i32, points: usize, out: usize, gradients: usize, frequency: f64, offset: f64): void {
  for (let i = start; i < end; i++) {
    simplexCurl(
      gradients,
      readF32(points, i * 3) * frequency + offset,
      readF32(points, i * 3 + 1) * frequency + offset,
      readF32(points, i * 3 + 2) * frequency + offset,
    )
    writeF32(out, i * 3, curlX)
    writeF32(out, i * 3 + 1, curlY)
    writeF32(out, i * 3 + 2, curlZ)
  }
}
