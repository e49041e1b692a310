/** Directions that are combed on a surface, and particles that follow them. */
import { readF32, readI32, squareRoot, writeF32 } from './machine'

/**
 * Combed directions at each particle's nearest place of a surface that moves and bends. Directions d are given at the vertices of the
 * mesh at `rest` (3 × f32 each); at a place they are the mean of the corners' by its weights, written with the edges u, v of the
 * triangle and its unit normal n as d = α·u + β·v + γ·n, and put together again with the edges and the normal that the triangle has
 * among the `vertices` now. With m = u × v: α = (d × v)·m/m², β = (u × d)·m/m². Unit length, or 0 where there is none.
 */
export function combedWays(
  start: i32, end: i32, triangle: usize, point: usize, vertices: usize, triangles: usize, rest: usize, directions: usize, out: usize,
): void {
  for (let i = start; i < end; i++) {
    const t = readI32(triangle, i) * 3
    const a = readI32(triangles, t) * 3
    const b = readI32(triangles, t + 1) * 3
    const c = readI32(triangles, t + 2) * 3
    // weights of the place among the corners now
    const ax = readF32(vertices, a)
    const ay = readF32(vertices, a + 1)
    const az = readF32(vertices, a + 2)
    const ux = readF32(vertices, b) - ax
    const uy = readF32(vertices, b + 1) - ay
    const uz = readF32(vertices, b + 2) - az
    const vx = readF32(vertices, c) - ax
    const vy = readF32(vertices, c + 1) - ay
    const vz = readF32(vertices, c + 2) - az
    const mx = uy * vz - uz * vy
    const my = uz * vx - ux * vz
    const mz = ux * vy - uy * vx
    const mm = mx * mx + my * my + mz * mz
    const px = readF32(point, i * 3) - ax
    const py = readF32(point, i * 3 + 1) - ay
    const pz = readF32(point, i * 3 + 2) - az
    const inverse = mm > 0.0 ? 1.0 / mm : 0.0
    const s = ((py * vz - pz * vy) * mx + (pz * vx - px * vz) * my + (px * vy - py * vx) * mz) * inverse
    const r = ((uy * pz - uz * py) * mx + (uz * px - ux * pz) * my + (ux * py - uy * px) * mz) * inverse
    const q = 1.0 - s - r
    const dx = readF32(directions, a) * q + readF32(directions, b) * s + readF32(directions, c) * r
    const dy = readF32(directions, a + 1) * q + readF32(directions, b + 1) * s + readF32(directions, c + 1) * r
    const dz = readF32(directions, a + 2) * q + readF32(directions, b + 2) * s + readF32(directions, c + 2) * r
    // the triangle at rest: edges e, f, normal k
    const ex = readF32(rest, b) - readF32(rest, a)
    const ey = readF32(rest, b + 1) - readF32(rest, a + 1)
    const ez = readF32(rest, b + 2) - readF32(rest, a + 2)
    const fx = readF32(rest, c) - readF32(rest, a)
    const fy = readF32(rest, c + 1) - readF32(rest, a + 1)
    const fz = readF32(rest, c + 2) - readF32(rest, a + 2)
    const kx = ey * fz - ez * fy
    const ky = ez * fx - ex * fz
    const kz = ex * fy - ey * fx
    const kk = kx * kx + ky * ky + kz * kz
    const part = kk > 0.0 ? 1.0 / kk : 0.0
    const alpha = ((dy * fz - dz * fy) * kx + (dz * fx - dx * fz) * ky + (dx * fy - dy * fx) * kz) * part
    const beta = ((ey * dz - ez * dy) * kx + (ez * dx - ex * dz) * ky + (ex * dy - ey * dx) * kz) * part
    const rise = (dx * kx + dy * ky + dz * kz) * squareRoot(part)
    const gamma = mm > 0.0 ? rise / squareRoot(mm) : 0.0
    const x = alpha * ux + beta * vx + gamma * mx
    const y = alpha * uy + beta * vy + gamma * my
    const z = alpha * uz + beta * vz + gamma * mz
    const length = squareRoot(x * x + y * y + z * z)
    const unit = length > 1.0e-12 ? 1.0 / length : 0.0
    writeF32(out, i * 3, x * unit)
    writeF32(out, i * 3 + 1, y * unit)
    writeF32(out, i * 3 + 2, z * unit)
  }
}

/**
 * Follow: dv/dt = w·(u + s·m − v), u the velocity of the surface, s the speed and m the mean of the combed direction d (`way`) and of
 * the pull p to where they shall run, by their weights: m = (a·d + b·p)/max(|a·d + b·p|, a), so that they run at s and leave it by no more
 * than the pull asks. p = n·clamp((offset − height)/reach, −1, 1) with n the way out of the surface. Beyond `within` none.
 */
export function followWays(
  start: i32, end: i32, amount: usize, position: usize, point: usize, way: usize, normal: usize, surface: usize, distance: usize,
  acceleration: usize, damping: usize, speed: f64, speedFactor: usize, along: f64, pull: f64, offset: f64, offsetFactor: usize,
  reach: f64, within: f64,
): void {
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    const d = readF32(distance, i)
    if (w == 0.0 || d >= within) continue
    const c = i * 3
    let nx = readF32(position, c) - readF32(point, c)
    let ny = readF32(position, c + 1) - readF32(point, c + 1)
    let nz = readF32(position, c + 2) - readF32(point, c + 2)
    const inside = nx * readF32(normal, c) + ny * readF32(normal, c + 1) + nz * readF32(normal, c + 2) < 0.0
    const size = squareRoot(nx * nx + ny * ny + nz * nz)
    if (size > 1.0e-6) {
      const turn = (inside ? -1.0 : 1.0) / size
      nx *= turn
      ny *= turn
      nz *= turn
    } else {
      nx = readF32(normal, c)
      ny = readF32(normal, c + 1)
      nz = readF32(normal, c + 2)
    }
    const off = offset * (offsetFactor != 0 ? readF32(offsetFactor, i) : 1.0)
    let p = (off - (inside ? -size : size)) / reach
    if (p > 1.0) p = 1.0
    if (p < -1.0) p = -1.0
    p *= pull
    let s = speed * (speedFactor != 0 ? readF32(speedFactor, i) : 1.0)
    // a negative speed runs the other way, not away from the surface
    const a = s < 0.0 ? -along : along
    if (s < 0.0) s = -s
    const x = readF32(way, c) * a + nx * p
    const y = readF32(way, c + 1) * a + ny * p
    const z = readF32(way, c + 2) * a + nz * p
    const length = squareRoot(x * x + y * y + z * z)
    let whole = along > 0.0 ? along : pull
    if (whole < length) whole = length
    const v = whole > 0.0 ? s / whole : 0.0
    writeF32(acceleration, c, readF32(acceleration, c) + w * (readF32(surface, c) + x * v))
    writeF32(acceleration, c + 1, readF32(acceleration, c + 1) + w * (readF32(surface, c + 1) + y * v))
    writeF32(acceleration, c + 2, readF32(acceleration, c + 2) + w * (readF32(surface, c + 2) + z * v))
    writeF32(damping, i, readF32(damping, i) + w)
  }
}
