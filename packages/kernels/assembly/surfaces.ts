/** Particles that stay on a surface and run over it. */
import { power } from './bodies'
import { readF32, readI32, squareRoot, writeF32 } from './machine'

/**
 * Of the surface nearest to each particle (`triangle`, `point` in the world at the end of the substep): the unit
 * normal of its triangle, and its velocity from where the same place was at the start. `from` and `to` are the
 * vertices, `triangles` 3 × u32.
 */
export function projectToSurface(
  start: i32, end: i32, triangle: usize, point: usize, from: usize, to: usize, triangles: usize, h: f64,
  normal: usize, surface: usize,
): void {
  for (let i = start; i < end; i++) {
    const t = readI32(triangle, i)
    const a = readI32(triangles, t * 3) * 3
    const b = readI32(triangles, t * 3 + 1) * 3
    const c = readI32(triangles, t * 3 + 2) * 3
    const ax = readF32(to, a)
    const ay = readF32(to, a + 1)
    const az = readF32(to, a + 2)
    const ux = readF32(to, b) - ax
    const uy = readF32(to, b + 1) - ay
    const uz = readF32(to, b + 2) - az
    const vx = readF32(to, c) - ax
    const vy = readF32(to, c + 1) - ay
    const vz = readF32(to, c + 2) - az
    const nx = uy * vz - uz * vy
    const ny = uz * vx - ux * vz
    const nz = ux * vy - uy * vx
    const squared = nx * nx + ny * ny + nz * nz
    const px = readF32(point, i * 3) - ax
    const py = readF32(point, i * 3 + 1) - ay
    const pz = readF32(point, i * 3 + 2) - az
    // p = u·s + v·t by areas over the whole: s = (p × v)·n/n², t = (u × p)·n/n²
    const inverse = squared > 0.0 ? 1.0 / squared : 0.0
    const s = ((py * vz - pz * vy) * nx + (pz * vx - px * vz) * ny + (px * vy - py * vx) * nz) * inverse
    const r = ((uy * pz - uz * py) * nx + (uz * px - ux * pz) * ny + (ux * py - uy * px) * nz) * inverse
    const length = squareRoot(squared)
    const unit = length > 0.0 ? 1.0 / length : 0.0
    writeF32(normal, i * 3, nx * unit)
    writeF32(normal, i * 3 + 1, ny * unit)
    writeF32(normal, i * 3 + 2, nz * unit)
    for (let axis = 0; axis < 3; axis++) {
      const before = readF32(from, a + axis) * (1.0 - s - r) + readF32(from, b + axis) * s + readF32(from, c + axis) * r
      const after = readF32(to, a + axis) * (1.0 - s - r) + readF32(to, b + axis) * s + readF32(to, c + axis) * r
      writeF32(surface, i * 3 + axis, (after - before) / h)
    }
  }
}

/**
 * Holds particles on the surface: x = p + n·offset, n the direction from the nearest point p to the particle (turned
 * outward), and takes what leads off the surface out of the velocity relative to it. The share k of the amount
 * is closed each 1/24 s, as in `ride`; `frames` is h·24. Beyond `within` none.
 */
export function holdToSurface(
  start: i32, end: i32, amount: usize, position: usize, velocity: usize,
  point: usize, distance: usize, normal: usize, surface: usize, offset: f64, offsetFactor: usize, within: f64, frames: f64,
): void {
  for (let i = start; i < end; i++) {
    let k = readF32(amount, i)
    const d = readF32(distance, i)
    if (k <= 0.0 || d >= within) continue
    if (k >= 1.0) k = 1.0
    else k = 1.0 - power(1.0 - k, frames)
    const c = i * 3
    let nx = readF32(position, c) - readF32(point, c)
    let ny = readF32(position, c + 1) - readF32(point, c + 1)
    let nz = readF32(position, c + 2) - readF32(point, c + 2)
    const side = nx * readF32(normal, c) + ny * readF32(normal, c + 1) + nz * readF32(normal, c + 2)
    const size = squareRoot(nx * nx + ny * ny + nz * nz)
    if (size > 1.0e-6) {
      const turn = (side < 0.0 ? -1.0 : 1.0) / size
      nx *= turn
      ny *= turn
      nz *= turn
    } else {
      nx = readF32(normal, c)
      ny = readF32(normal, c + 1)
      nz = readF32(normal, c + 2)
    }
    const off = offset * (offsetFactor != 0 ? readF32(offsetFactor, i) : 1.0)
    const across =
      (readF32(velocity, c) - readF32(surface, c)) * nx +
      (readF32(velocity, c + 1) - readF32(surface, c + 1)) * ny +
      (readF32(velocity, c + 2) - readF32(surface, c + 2)) * nz
    for (let axis = 0; axis < 3; axis++) {
      const n = axis == 0 ? nx : axis == 1 ? ny : nz
      const x = readF32(position, c + axis)
      writeF32(position, c + axis, x + (readF32(point, c + axis) + n * off - x) * k)
      writeF32(velocity, c + axis, readF32(velocity, c + axis) - across * n * k)
    }
  }
}

/**
 * Moves particles along with the surface they stand on. Their velocity holds what the surface gave them,
 * `surfaceVelocity`; when it moves otherwise now, with s, they do too: x += (s − carried)·h, v += s − carried.
 */
export function carryAlong(
  start: i32, end: i32, amount: usize, position: usize, velocity: usize, surfaceVelocity: usize,
  distance: usize, surface: usize, within: f64, h: f64,
): void {
  for (let i = start; i < end; i++) {
    let k = readF32(amount, i)
    if (k <= 0.0) continue
    if (k > 1.0) k = 1.0
    const held = readF32(distance, i) < within
    for (let axis = 0; axis < 3; axis++) {
      const c = i * 3 + axis
      const had = readF32(surfaceVelocity, c)
      const gains = held ? (readF32(surface, c) - had) * k : 0.0
      writeF32(surfaceVelocity, c, held ? had + gains : 0.0)
      writeF32(position, c, readF32(position, c) + gains * h)
      writeF32(velocity, c, readF32(velocity, c) + gains)
    }
  }
}

/**
 * Directions on the surface at each particle's nearest triangle: along U (mode 0) or V (1) of the texture
 * coordinates (6 × f32 a triangle), or the direction d (2) or that of each (3, `given`, 3 × f32) laid onto it. Unit length, or 0 where there is none.
 *
 * With the edges e, f of the triangle and their (u, v): ∂P/∂u = (e·v_f − f·v_e)/(u_e·v_f − u_f·v_e).
 */
export function surfaceWays(
  start: i32, end: i32, triangle: usize, normal: usize, vertices: usize, triangles: usize, uvs: usize,
  given: usize, mode: i32, dx: f64, dy: f64, dz: f64, sign: f64, out: usize,
): void {
  for (let i = start; i < end; i++) {
    const t = readI32(triangle, i)
    let x = dx
    let y = dy
    let z = dz
    if (mode == 3) {
      x = readF32(given, i * 3)
      y = readF32(given, i * 3 + 1)
      z = readF32(given, i * 3 + 2)
    }
    if (mode < 2) {
      const a = readI32(triangles, t * 3) * 3
      const b = readI32(triangles, t * 3 + 1) * 3
      const c = readI32(triangles, t * 3 + 2) * 3
      const ue = readF32(uvs, t * 6 + 2) - readF32(uvs, t * 6)
      const ve = readF32(uvs, t * 6 + 3) - readF32(uvs, t * 6 + 1)
      const uf = readF32(uvs, t * 6 + 4) - readF32(uvs, t * 6)
      const vf = readF32(uvs, t * 6 + 5) - readF32(uvs, t * 6 + 1)
      const turn = ue * vf - uf * ve < 0.0 ? -1.0 : 1.0
      const e = turn * (mode == 0 ? vf : -uf)
      const f = turn * (mode == 0 ? -ve : ue)
      x = (readF32(vertices, b) - readF32(vertices, a)) * e + (readF32(vertices, c) - readF32(vertices, a)) * f
      y = (readF32(vertices, b + 1) - readF32(vertices, a + 1)) * e + (readF32(vertices, c + 1) - readF32(vertices, a + 1)) * f
      z = (readF32(vertices, b + 2) - readF32(vertices, a + 2)) * e + (readF32(vertices, c + 2) - readF32(vertices, a + 2)) * f
    }
    const nx = readF32(normal, i * 3)
    const ny = readF32(normal, i * 3 + 1)
    const nz = readF32(normal, i * 3 + 2)
    const off = x * nx + y * ny + z * nz
    x -= off * nx
    y -= off * ny
    z -= off * nz
    const length = squareRoot(x * x + y * y + z * z)
    const unit = length > 1.0e-12 ? sign / length : 0.0
    writeF32(out, i * 3, x * unit)
    writeF32(out, i * 3 + 1, y * unit)
    writeF32(out, i * 3 + 2, z * unit)
  }
}

/**
 * March: dv/dt = w·(u + way·s − v) along the surface, u being its own velocity. Where a mask m (f32, with values at
 * a step along the way, `ahead`, and to the right of it, `aside`) keeps them out, the way turns along the mask's
 * edge the more the higher the value ahead, wholly from ½ on, and inside they walk down the gradient. `avoided`
 * 0: none. `step` is the length of those steps, m.
 */
export function march(
  start: i32, end: i32, amount: usize, way: usize, normal: usize, surface: usize, distance: usize, within: f64,
  acceleration: usize, damping: usize, speed: f64, speedFactor: usize,
  avoided: usize, ahead: usize, aside: usize, step: f64,
): void {
  for (let i = start; i < end; i++) {
    const w = readF32(amount, i)
    if (w == 0.0 || readF32(distance, i) >= within) continue
    const c = i * 3
    let x = readF32(way, c)
    let y = readF32(way, c + 1)
    let z = readF32(way, c + 2)
    if (avoided != 0) {
      const m = readF32(avoided, i)
      const next = readF32(ahead, i)
      let along = (next - m) / step
      let across = (readF32(aside, i) - m) / step
      const size = squareRoot(along * along + across * across)
      if (size > 1.0e-6) {
        along /= size
        across /= size
        // to the right is way × normal
        const rx = y * readF32(normal, c + 2) - z * readF32(normal, c + 1)
        const ry = z * readF32(normal, c) - x * readF32(normal, c + 2)
        const rz = x * readF32(normal, c + 1) - y * readF32(normal, c)
        // along the edge, by the lesser turn; who goes straight at it bears right
        const turn = across > 0.02 ? -1.0 : 1.0
        const value = m > next ? m : next
        const blocked = along <= 0.0 ? 0.0 : value > 0.5 ? 1.0 : value * 2.0
        const out = m > 0.5 ? m * 2.0 - 1.0 : 0.0
        const onward = 1.0 - blocked - blocked * turn * across - out * along
        const sideways = blocked * turn * along - out * across
        const fx = x * onward + rx * sideways
        const fy = y * onward + ry * sideways
        const fz = z * onward + rz * sideways
        const length = squareRoot(fx * fx + fy * fy + fz * fz)
        if (length > 1.0e-6) {
          x = fx / length
          y = fy / length
          z = fz / length
        }
      }
    }
    const s = speed * (speedFactor != 0 ? readF32(speedFactor, i) : 1.0)
    writeF32(acceleration, c, readF32(acceleration, c) + w * (readF32(surface, c) + x * s))
    writeF32(acceleration, c + 1, readF32(acceleration, c + 1) + w * (readF32(surface, c + 1) + y * s))
    writeF32(acceleration, c + 2, readF32(acceleration, c + 2) + w * (readF32(surface, c + 2) + z * s))
    writeF32(damping, i, readF32(damping, i) + w)
  }
}

/** The place a step along `way` (3 × f32), and one to the right of it on the surface, for masks to be asked at. */
export function stepsAlong(
  start: i32, end: i32, position: usize, way: usize, normal: usize, step: f64, ahead: usize, aside: usize,
): void {
  for (let i = start; i < end; i++) {
    const c = i * 3
    const x = readF32(way, c)
    const y = readF32(way, c + 1)
    const z = readF32(way, c + 2)
    const nx = readF32(normal, c)
    const ny = readF32(normal, c + 1)
    const nz = readF32(normal, c + 2)
    writeF32(ahead, c, readF32(position, c) + x * step)
    writeF32(ahead, c + 1, readF32(position, c + 1) + y * step)
    writeF32(ahead, c + 2, readF32(position, c + 2) + z * step)
    writeF32(aside, c, readF32(position, c) + (y * nz - z * ny) * step)
    writeF32(aside, c + 1, readF32(position, c + 1) + (z * nx - x * nz) * step)
    writeF32(aside, c + 2, readF32(position, c + 2) + (x * ny - y * nx) * step)
  }
}

/** Weights of the second and third corner (2 × f32) of points on triangles: least squares of p − a = s·u + t·v. */
export function weightsOnTriangles(
  start: i32, end: i32, triangle: usize, point: usize, positions: usize, triangles: usize, out: usize,
): void {
  for (let i = start; i < end; i++) {
    const t = readI32(triangle, i) * 3
    const a = readI32(triangles, t) * 3
    const b = readI32(triangles, t + 1) * 3
    const c = readI32(triangles, t + 2) * 3
    let uu: f64 = 0.0
    let uv: f64 = 0.0
    let vv: f64 = 0.0
    let uw: f64 = 0.0
    let vw: f64 = 0.0
    for (let axis = 0; axis < 3; axis++) {
      const u = readF32(positions, b + axis) - readF32(positions, a + axis)
      const v = readF32(positions, c + axis) - readF32(positions, a + axis)
      const w = readF32(point, i * 3 + axis) - readF32(positions, a + axis)
      uu += u * u
      uv += u * v
      vv += v * v
      uw += u * w
      vw += v * w
    }
    const whole = uu * vv - uv * uv
    writeF32(out, i * 2, whole > 0.0 ? (vv * uw - uv * vw) / whole : 0.0)
    writeF32(out, i * 2 + 1, whole > 0.0 ? (uu * vw - uv * uw) / whole : 0.0)
  }
}
