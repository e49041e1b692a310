/**
 * Forces without neighbours. Each adds to the acceleration A (3 × f32) and the damping C (f32) that
 * `integrate` solves. `amount` is an f32 per particle: weight(phase) × strength(t) × Π responses.
 */
import { cellularCurlAt, curlX, curlY, curlZ, noise, simplexCurl } from './noise'
import {
  add4, any4, firstOf4, load4, maximum4, multiply4, notEqual4, secondOf4, splat4, squareRoot4, store4, thirdOf4, xOf4, yOf4, zOf4,
  F4,
} from './lanes'

/** Brings the noise to the order of −1 … 1; common practice, no source. */
const NOISE_PEAK: f64 = 60.0

/** Adds four vectors to those of particles i … i + 3. */
function addVector(column: usize, i: i32, x: F4, y: F4, z: F4): void {
  const k = i * 3
  store4(column, k, add4(load4(column, k), firstOf4(x, y, z)))
  store4(column, k + 4, add4(load4(column, k + 4), secondOf4(x, y, z)))
  store4(column, k + 8, add4(load4(column, k + 8), thirdOf4(x, y, z)))
}

/** Even forces: A += w·a and C += w·c, the same everywhere. a in m/s², c in 1/s. */
export function addEvenForce(
  start: i32, end: i32, amount: usize, acceleration: usize, damping: usize,
  ax: f64, ay: f64, az: f64, c: f64,
): void {
  const pulls = ax != 0.0 || ay != 0.0 || az != 0.0
  for (let i = start; i < end; i += 4) {
    const w = load4(amount, i)
    if (pulls) addVector(acceleration, i, multiply4(w, splat4(ax)), multiply4(w, splat4(ay)), multiply4(w, splat4(az)))
    if (c != 0.0) store4(damping, i, add4(load4(damping, i), multiply4(w, splat4(c))))
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
  for (let i = start; i < end; i += 4) {
    const a = load4(velocity, i * 3)
    const b = load4(velocity, i * 3 + 4)
    const c = load4(velocity, i * 3 + 8)
    const x = xOf4(a, b, c)
    const y = yOf4(a, b, c)
    const z = zOf4(a, b, c)
    const r = load4(radius, i)
    const speed = squareRoot4(add4(add4(multiply4(x, x), multiply4(y, y)), multiply4(z, z)))
    const area = multiply4(multiply4(splat4(half), r), r)
    const rate = multiply4(multiply4(area, load4(inverseMass, i)), speed)
    store4(damping, i, add4(load4(damping, i), multiply4(load4(amount, i), rate)))
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
  const f = splat4(frequency)
  for (let i = start; i < end; i += 4) {
    const w = load4(amount, i)
    if (!any4(notEqual4(w, splat4(0.0)))) continue
    let pull = w
    if (gust > 0.0) {
      const a = load4(position, i * 3)
      const b = load4(position, i * 3 + 4)
      const c = load4(position, i * 3 + 8)
      simplexCurl(
        gradients,
        add4(multiply4(xOf4(a, b, c), f), splat4(offset)),
        multiply4(yOf4(a, b, c), f),
        multiply4(zOf4(a, b, c), f),
      )
      pull = multiply4(w, maximum4(add4(splat4(1.0), multiply4(splat4(gust * NOISE_PEAK), noise)), splat4(0.0)))
    }
    if (speeds != 0) pull = multiply4(pull, load4(speeds, i))
    addVector(acceleration, i, multiply4(pull, splat4(ux)), multiply4(pull, splat4(uy)), multiply4(pull, splat4(uz)))
    store4(damping, i, add4(load4(damping, i), w))
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
  const shift = splat4(offset)
  for (let i = start; i < end; i += 4) {
    const w = load4(amount, i)
    if (!any4(notEqual4(w, splat4(0.0)))) continue
    const a = load4(position, i * 3)
    const b = load4(position, i * 3 + 4)
    const c = load4(position, i * 3 + 8)
    const px = xOf4(a, b, c)
    const py = yOf4(a, b, c)
    const pz = zOf4(a, b, c)
    let x = splat4(0.0)
    let y = splat4(0.0)
    let z = splat4(0.0)
    let f = splat4(frequency)
    let gain = multiply4(splat4(amplitude), w)
    for (let octave = 0; octave < octaves; octave++) {
      simplexCurl(
        gradients + <usize>(octave * tableBytes),
        add4(multiply4(px, f), shift),
        add4(multiply4(py, f), shift),
        add4(multiply4(pz, f), shift),
      )
      x = add4(x, multiply4(gain, curlX))
      y = add4(y, multiply4(gain, curlY))
      z = add4(z, multiply4(gain, curlZ))
      f = add4(f, f)
      gain = multiply4(gain, splat4(0.5))
    }
    addVector(acceleration, i, x, y, z)
  }
}

/** The same with a whirl in each cell: see `cellularCurlAt`. */
export function cellularCurl(
  start: i32, end: i32, amount: usize, acceleration: usize, position: usize,
  table: usize, axes: usize, frequency: f64, amplitude: f64,
): void {
  const f = splat4(frequency)
  for (let i = start; i < end; i += 4) {
    const w = multiply4(splat4(amplitude), load4(amount, i))
    if (!any4(notEqual4(w, splat4(0.0)))) continue
    const a = load4(position, i * 3)
    const b = load4(position, i * 3 + 4)
    const c = load4(position, i * 3 + 8)
    cellularCurlAt(table, axes, multiply4(xOf4(a, b, c), f), multiply4(yOf4(a, b, c), f), multiply4(zOf4(a, b, c), f))
    addVector(acceleration, i, multiply4(w, curlX), multiply4(w, curlY), multiply4(w, curlZ))
  }
}

/** Curl noise at given points, for tests and for arrows on the stage. out: 3 × f32. */
export function curlAt(start: i32, end: i32, points: usize, out: usize, gradients: usize, frequency: f64, offset: f64): void {
  const f = splat4(frequency)
  const shift = splat4(offset)
  for (let i = start; i < end; i += 4) {
    const a = load4(points, i * 3)
    const b = load4(points, i * 3 + 4)
    const c = load4(points, i * 3 + 8)
    simplexCurl(
      gradients,
      add4(multiply4(xOf4(a, b, c), f), shift),
      add4(multiply4(yOf4(a, b, c), f), shift),
      add4(multiply4(zOf4(a, b, c), f), shift),
    )
    store4(out, i * 3, firstOf4(curlX, curlY, curlZ))
    store4(out, i * 3 + 4, secondOf4(curlX, curlY, curlZ))
    store4(out, i * 3 + 8, thirdOf4(curlX, curlY, curlZ))
  }
}
