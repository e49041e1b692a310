/** Meshes that move and ripple, and the particles that ride on them. */
import { noise, simplexCurl } from './noise'
import { add4, firstOf4, load4, multiply4, secondOf4, splat4, store4, thirdOf4, xOf4, yOf4, zOf4 } from './lanes'
import { readF32, readF64, readI32, squareRoot, writeF32 } from './machine'
import { sineOf } from './trigonometry'

/** out = M·p for points of 3 × f32; `map` is 12 f64, row by row. In f64: it carries meshes far from the origin. */
export function transformPoints(start: i32, end: i32, points: usize, out: usize, map: usize): void {
  for (let i = start; i < end; i++) {
    const x = readF32(points, i * 3)
    const y = readF32(points, i * 3 + 1)
    const z = readF32(points, i * 3 + 2)
    for (let row = 0; row < 3; row++) {
      const m = row * 4
      writeF32(out, i * 3 + row, readF64(map, m) * x + readF64(map, m + 1) * y + readF64(map, m + 2) * z + readF64(map, m + 3))
    }
  }
}

/**
 * A train of waves along the unit direction d: p += n·amount·sin(2π·(d·p/wavelength − turns)).
 * In place; `normals` are unit normals at rest.
 */
export function rippleMesh(
  start: i32, end: i32, points: usize, rest: usize, normals: usize,
  amount: f64, frequency: f64, turns: f64, dx: f64, dy: f64, dz: f64,
): void {
  for (let i = start; i < end; i++) {
    const along = readF32(rest, i * 3) * dx + readF32(rest, i * 3 + 1) * dy + readF32(rest, i * 3 + 2) * dz
    const push = amount * sineOf(along * frequency - turns)
    for (let axis = 0; axis < 3; axis++) {
      const k = i * 3 + axis
      writeF32(points, k, readF32(points, k) + readF32(normals, k) * push)
    }
  }
}

/** p += n·amount·noise(p/scale), in place; the noise as in noise.ts, spread to about ±1. */
export function wrinkleMesh(
  start: i32, end: i32, points: usize, rest: usize, normals: usize, amount: f64, table: usize, frequency: f64,
): void {
  const f = splat4(frequency)
  const spread = splat4(amount * 105.0)
  for (let i = start; i < end; i += 4) {
    const k = i * 3
    const a = load4(rest, k)
    const b = load4(rest, k + 4)
    const c = load4(rest, k + 8)
    simplexCurl(table, multiply4(xOf4(a, b, c), f), multiply4(yOf4(a, b, c), f), multiply4(zOf4(a, b, c), f))
    const push = multiply4(spread, noise)
    store4(points, k, add4(load4(points, k), multiply4(load4(normals, k), firstOf4(push, push, push))))
    store4(points, k + 4, add4(load4(points, k + 4), multiply4(load4(normals, k + 4), secondOf4(push, push, push))))
    store4(points, k + 8, add4(load4(points, k + 8), multiply4(load4(normals, k + 8), thirdOf4(push, push, push))))
  }
}

const SURFACE: i32 = -1

/**
 * Where the anchors of a body are: on the surface by triangle and weights, with a height along the
 * triangle's normal, or inside it by a place that moves rigidly.
 *
 * anchor: 2 × u32 per particle (body + 1, triangle or 2³² − 1 for a rigid place), anchorAt: 3 × f32 (u, v,
 * height in metres; or a place in the mesh's own space). positions: the world's, 3 × f32 a vertex.
 * map: 12 f64 from the mesh's own space into the world. Particles of other bodies are left alone.
 */
export function anchorPoints(
  start: i32, end: i32, body: i32, anchor: usize, anchorAt: usize,
  positions: usize, triangles: usize, map: usize, out: usize,
): void {
  for (let i = start; i < end; i++) {
    if (readI32(anchor, i * 2) != body) continue
    const triangle = readI32(anchor, i * 2 + 1)
    const u = readF32(anchorAt, i * 3)
    const v = readF32(anchorAt, i * 3 + 1)
    const w = readF32(anchorAt, i * 3 + 2)
    if (triangle == SURFACE) {
      for (let row = 0; row < 3; row++) {
        const m = row * 4
        writeF32(out, i * 3 + row, readF64(map, m) * u + readF64(map, m + 1) * v + readF64(map, m + 2) * w + readF64(map, m + 3))
      }
      continue
    }
    const a = readI32(triangles, triangle * 3) * 3
    const b = readI32(triangles, triangle * 3 + 1) * 3
    const c = readI32(triangles, triangle * 3 + 2) * 3
    const ax = readF32(positions, a)
    const ay = readF32(positions, a + 1)
    const az = readF32(positions, a + 2)
    const ux = readF32(positions, b) - ax
    const uy = readF32(positions, b + 1) - ay
    const uz = readF32(positions, b + 2) - az
    const vx = readF32(positions, c) - ax
    const vy = readF32(positions, c + 1) - ay
    const vz = readF32(positions, c + 2) - az
    let nx = uy * vz - uz * vy
    let ny = uz * vx - ux * vz
    let nz = ux * vy - uy * vx
    const length = squareRoot(nx * nx + ny * ny + nz * nz)
    const lift = length > 0.0 ? w / length : 0.0
    writeF32(out, i * 3, ax + ux * u + vx * v + nx * lift)
    writeF32(out, i * 3 + 1, ay + uy * u + vy * v + ny * lift)
    writeF32(out, i * 3 + 2, az + uz * u + vz * v + nz * lift)
  }
}

/**
 * Holds particles at their anchors: x = mix(x, anchor, k), v = mix(v, inherit·surface velocity, k) with
 * k = 1 for an amount of 1, else 1 − (1 − amount)^(h·24): the share of the way closed each 1/24 s, whatever
 * the substep; `frames` is h·24. Distance travelled counts from where they let go.
 */
export function ride(
  start: i32, end: i32, anchor: usize, amount: usize, position: usize, velocity: usize,
  travelled: usize, from: usize, to: usize, h: f64, frames: f64, inherit: f64,
): void {
  for (let i = start; i < end; i++) {
    if (readI32(anchor, i * 2) == 0) continue
    let k = readF32(amount, i)
    if (k <= 0.0) continue
    if (k >= 1.0) k = 1.0
    else k = 1.0 - power(1.0 - k, frames)
    for (let axis = 0; axis < 3; axis++) {
      const c = i * 3 + axis
      const target = readF32(to, c)
      const surface = (inherit * (target - readF32(from, c))) / h
      const x = readF32(position, c)
      const v = readF32(velocity, c)
      writeF32(position, c, k == 1.0 ? target : x + (target - x) * k)
      writeF32(velocity, c, k == 1.0 ? surface : v + (surface - v) * k)
    }
    if (k == 1.0 && travelled != 0) writeF32(travelled, i, 0.0)
  }
}

/** b^e for 0 < b < 1, e ≥ 0 by halving the exponent: to 2⁻²⁴ of it. */
export function power(b: f64, e: f64): f64 {
  let whole = 1.0
  let rest = e
  while (rest >= 1.0) {
    whole *= b
    rest -= 1.0
  }
  let root = b
  for (let n = 0; n < 24; n++) {
    root = squareRoot(root)
    rest *= 2.0
    if (rest >= 1.0) {
      whole *= root
      rest -= 1.0
    }
  }
  return whole
}
