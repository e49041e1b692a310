/**
 * Making way by time to collision. Each sums over its neighbours and writes only to itself; A as in integrate.ts.
 * `amount` is an f32 per particle: weight(phase) × strength(t) × Π responses.
 */
import { exponentialDecay } from './integrate'
import { entriesOf, particleOf } from './cells'
import { entryAt, listNeighbours, listOf } from './neighbours'
import { gridEntry } from './layouts'
import { readF32, readF64, squareRoot, writeF32, writeF64 } from './machine'
import { add } from './swarm'

let pushX: f64 = 0.0
let pushY: f64 = 0.0
let pushZ: f64 = 0.0

/**
 * Push by time to collision, into pushX, pushY, pushZ: F = −∇ (k/τ²·e^(−τ/τ₀)), written out in
 * Karamouzas, Skinner, Guy, "Universal power law governing pedestrian interactions", Phys. Rev. Lett. 113,
 * 238701 (2014), supplemental material. With w = x_j − x_i, v = v_i − v_j, R the sum of the radii:
 *   a = v·v   b = w·v   c = w·w − R²   d = √(b² − a·c)   τ = (b − d)/a
 *   F = −k·e^(−τ/τ₀)/(a·τ²)·(2/τ + 1/τ₀)·(v − (b·v − a·w)/d)
 * Where they meet head-on it has no side: each bears to its own right by a hundredth of R, which is the
 * same turn for both. Overlapping ones reckon with the distance that they have.
 */
function pushApart(
  wx: f64, wy: f64, wz: f64, vx: f64, vy: f64, vz: f64, reach: f64, horizon: f64, flat: i32,
): void {
  pushX = 0.0
  pushY = 0.0
  pushZ = 0.0
  if (flat == 1) {
    wy = 0.0
    vy = 0.0
  }
  const a = vx * vx + vy * vy + vz * vz
  const b0 = wx * vx + wy * vy + wz * vz
  if (a < 1.0e-12 || b0 <= 0.0) return
  let squared = wx * wx + wy * wy + wz * wz
  // to the right of v: v × up, level; for motion straight up or down any level way
  let rx = -vz
  let rz = vx
  let level = squareRoot(rx * rx + rz * rz)
  if (level < 1.0e-6 * squareRoot(a)) {
    rx = 1.0
    rz = 0.0
    level = 1.0
  }
  const side = wx * rx + wz * rz
  const straight = squared * a - b0 * b0 < 1.0e-4 * reach * reach * a
  if (straight && (side < 1.0e-6 * level * reach && side > -1.0e-6 * level * reach)) {
    // the other one is then a little to the left
    wx -= (0.01 * reach * rx) / level
    wz -= (0.01 * reach * rz) / level
    squared = wx * wx + wy * wy + wz * wz
  }
  let sum = reach
  if (squared < 1.0001 * sum * sum) sum = 0.99 * squareRoot(squared)
  const b = wx * vx + wy * vy + wz * vz
  const c = squared - sum * sum
  const inner = b * b - a * c
  if (b <= 0.0 || inner <= 0.0) return
  const d = squareRoot(inner)
  // (b − d)/a without cancellation
  const t = c / (b + d)
  if (t > 8.0 * horizon) return
  const least = t < 1.0e-3 ? 1.0e-3 : t
  const size = (exponentialDecay(least / horizon) / (a * least * least)) * (2.0 / least + 1.0 / horizon)
  pushX = -size * (vx - (b * vx - a * wx) / d)
  pushY = -size * (vy - (b * vy - a * wy) / d)
  pushZ = -size * (vz - (b * vz - a * wz) / d)
}

/** The same for one pair, for tests: out gets 3 × f64. */
export function pushOf(pair: usize, reach: f64, horizon: f64, out: usize): void {
  pushApart(
    readF32(pair, 0), readF32(pair, 1), readF32(pair, 2), readF32(pair, 3), readF32(pair, 4), readF32(pair, 5),
    reach, horizon, 0,
  )
  writeF64(out, 0, pushX)
  writeF64(out, 1, pushY)
  writeF64(out, 2, pushZ)
}

/** A += k·ΣF over the neighbours within `reach`, at most `limit` (m/s²). `size` multiplies the radii. */
export function avoid(
  start: i32, end: i32, amount: usize, cells: usize, own: i32, position: usize, velocity: usize, radius: usize,
  acceleration: usize, reach: f64, most: i32, size: f64, horizon: f64, limit: f64, flat: i32, thread: i32,
): void {
  const entries = entriesOf(cells)
  const list = listOf(cells, thread)
  const places = own == 1 ? entries : position
  for (let turn = start; turn < end; turn++) {
    const i = own == 1 ? particleOf(cells, turn) : turn
    const k = readF32(amount, i)
    if (k == 0.0) continue
    const at = own == 1 ? turn * gridEntry.SIZE : i * 3
    const x = readF32(places, at)
    const y = readF32(places, at + 1)
    const z = readF32(places, at + 2)
    const found = listNeighbours(cells, own == 1 ? i : -1, x, y, z, reach, most, thread)
    let fx = 0.0
    let fy = 0.0
    let fz = 0.0
    for (let n = 0; n < found; n++) {
      const e = entryAt(list, n) * gridEntry.SIZE
      pushApart(
        readF32(entries, e) - x, readF32(entries, e + gridEntry.y) - y, readF32(entries, e + gridEntry.z) - z,
        readF32(velocity, i * 3) - readF32(entries, e + gridEntry.velocityX),
        readF32(velocity, i * 3 + 1) - readF32(entries, e + gridEntry.velocityY),
        readF32(velocity, i * 3 + 2) - readF32(entries, e + gridEntry.velocityZ),
        size * (readF32(radius, i) + readF32(entries, e + gridEntry.radius)), horizon, flat,
      )
      fx += pushX
      fy += pushY
      fz += pushZ
    }
    addLimited(acceleration, i, k * fx, k * fy, k * fz, limit)
  }
}

function addLimited(acceleration: usize, i: i32, x: f64, y: f64, z: f64, limit: f64): void {
  const length = squareRoot(x * x + y * y + z * z)
  const scale = length > limit ? limit / length : 1.0
  add(acceleration, i, x * scale, y * scale, z * scale)
}

let sideX: f64 = 0.0
let sideY: f64 = 0.0
let sideZ: f64 = 0.0

/**
 * Unit vector along a surface with the normal n, into sideX, sideY, sideZ: where the velocity v drifts, and to the
 * right of who faces the surface where it hardly does. 0 where it makes straight down for a floor.
 */
function sideOf(nx: f64, ny: f64, nz: f64, vx: f64, vy: f64, vz: f64): void {
  const closing = -(nx * vx + ny * vy + nz * vz)
  sideX = vx + closing * nx + 0.2 * closing * nz
  sideY = vy + closing * ny
  sideZ = vz + closing * nz - 0.2 * closing * nx
  const long = squareRoot(sideX * sideX + sideY * sideY + sideZ * sideZ)
  if (long == 0.0) return
  sideX /= long
  sideY /= long
  sideZ /= long
}

/**
 * The same against the nearest point of a mesh that moves with `surface` (3 × f32 each); beyond `reach` none.
 * The nearest point goes along with who walks past, so by the law alone whoever makes straight for a wall stops
 * there for ever. So half as much as the push goes sideways, where it drifts already, else to its own right;
 * common practice, no source. Tried without: 8 of 340 stood behind a round tower for 20 s.
 */
export function avoidSurface(
  start: i32, end: i32, amount: usize, position: usize, velocity: usize, radius: usize, acceleration: usize,
  point: usize, surface: usize, distance: usize, reach: f64, size: f64, horizon: f64, limit: f64, flat: i32,
): void {
  for (let i = start; i < end; i++) {
    const k = readF32(amount, i)
    const away = readF32(distance, i)
    if (k == 0.0 || away >= reach) continue
    const wx = readF32(point, i * 3) - readF32(position, i * 3)
    const wy = flat == 1 ? 0.0 : readF32(point, i * 3 + 1) - readF32(position, i * 3 + 1)
    const wz = readF32(point, i * 3 + 2) - readF32(position, i * 3 + 2)
    const vx = readF32(velocity, i * 3) - readF32(surface, i * 3)
    const vy = flat == 1 ? 0.0 : readF32(velocity, i * 3 + 1) - readF32(surface, i * 3 + 1)
    const vz = readF32(velocity, i * 3 + 2) - readF32(surface, i * 3 + 2)
    pushApart(wx, wy, wz, vx, vy, vz, size * readF32(radius, i), horizon, flat)
    const w = squareRoot(wx * wx + wy * wy + wz * wz)
    const closing = w > 0.0 ? (wx * vx + wy * vy + wz * vz) / w : 0.0
    if (closing > 0.0) {
      const aside = 0.5 * squareRoot(pushX * pushX + pushY * pushY + pushZ * pushZ)
      sideOf(-wx / w, -wy / w, -wz / w, vx, vy, vz)
      pushX += aside * sideX
      pushY += aside * sideY
      pushZ += aside * sideZ
    }
    addLimited(acceleration, i, k * pushX, k * pushY, k * pushZ, limit)
  }
}

/**
 * Overlapping ones step aside: each by half the depth, averaged over all that it overlaps (Jacobi), times
 * `firm` (0–1) and its own share of the amount. Source: Macklin, Müller, Chentanez, Kim, "Unified particle
 * physics" (2014), §3.3 (averaging). What brings them closer is taken out of the velocity. Writes to `shift`
 * and `change` (3 × f32) so that all see the same state; `applyShift` then moves them.
 */
export function stepAside(
  start: i32, end: i32, amount: usize, cells: usize, own: i32, position: usize, velocity: usize, radius: usize,
  widest: f64, size: f64, firm: f64, flat: i32, shift: usize, change: usize, thread: i32,
): void {
  const entries = entriesOf(cells)
  const list = listOf(cells, thread)
  for (let turn = start; turn < end; turn++) {
    const i = own == 1 ? particleOf(cells, turn) : turn
    let sx = 0.0
    let sy = 0.0
    let sz = 0.0
    let cx = 0.0
    let cy = 0.0
    let cz = 0.0
    let contactNormal = 0.0
    const w = readF32(amount, i)
    if (w > 0.0) {
      const x = readF32(position, i * 3)
      const y = readF32(position, i * 3 + 1)
      const z = readF32(position, i * 3 + 2)
      const r = readF32(radius, i)
      const found = listNeighbours(cells, own == 1 ? i : -1, x, y, z, size * (r + widest), 64, thread)
      for (let n = 0; n < found; n++) {
        const entry = entryAt(list, n)
        const e = entry * gridEntry.SIZE
        let dx = x - readF32(entries, e)
        let dy = flat == 1 ? 0.0 : y - readF32(entries, e + gridEntry.y)
        let dz = z - readF32(entries, e + gridEntry.z)
        let d = squareRoot(dx * dx + dy * dy + dz * dz)
        const depth = size * (r + readF32(entries, e + gridEntry.radius)) - d
        if (depth <= 0.0) continue
        if (d < 1.0e-9) {
          // at the same place the lower number goes one way, the higher the other
          dx = i < particleOf(cells, entry) ? 1.0 : -1.0
          dy = 0.0
          dz = 0.0
          d = 1.0
        }
        const nx = dx / d
        const ny = dy / d
        const nz = dz / d
        sx += nx * 0.5 * depth
        sy += ny * 0.5 * depth
        sz += nz * 0.5 * depth
        const closing =
          (readF32(velocity, i * 3) - readF32(entries, e + gridEntry.velocityX)) * nx +
          (readF32(velocity, i * 3 + 1) - readF32(entries, e + gridEntry.velocityY)) * ny +
          (readF32(velocity, i * 3 + 2) - readF32(entries, e + gridEntry.velocityZ)) * nz
        if (closing < 0.0) {
          cx -= 0.5 * closing * nx
          cy -= 0.5 * closing * ny
          cz -= 0.5 * closing * nz
        }
        contactNormal += 1.0
      }
    }
    const share = contactNormal > 0.0 ? (firm * (w > 1.0 ? 1.0 : w)) / (contactNormal > 2.0 ? contactNormal * 0.5 : 1.0) : 0.0
    writeF32(shift, i * 3, sx * share)
    writeF32(shift, i * 3 + 1, sy * share)
    writeF32(shift, i * 3 + 2, sz * share)
    writeF32(change, i * 3, cx * share)
    writeF32(change, i * 3 + 1, cy * share)
    writeF32(change, i * 3 + 2, cz * share)
  }
}

export function applyShift(start: i32, end: i32, position: usize, velocity: usize, shift: usize, change: usize): void {
  for (let k = start * 3; k < end * 3; k++) {
    writeF32(position, k, readF32(position, k) + readF32(shift, k))
    writeF32(velocity, k, readF32(velocity, k) + readF32(change, k))
  }
}

/**
 * Who touches a surface after all is moved off it by `firm` of the way and keeps no velocity into it: half of that
 * turns aside. The nearest point, its normal (outward) and velocity as `projectToSurface` gives them; who is less than a radius
 * inside comes out.
 */
export function stepOff(
  start: i32, end: i32, amount: usize, position: usize, velocity: usize, radius: usize,
  point: usize, distance: usize, normal: usize, surface: usize, firm: f64, flat: i32,
): void {
  for (let i = start; i < end; i++) {
    const r = readF32(radius, i)
    // out of reach there is no nearest point
    if (readF32(amount, i) == 0.0 || readF32(distance, i) >= r) continue
    let dx = readF32(position, i * 3) - readF32(point, i * 3)
    let dy = readF32(position, i * 3 + 1) - readF32(point, i * 3 + 1)
    let dz = readF32(position, i * 3 + 2) - readF32(point, i * 3 + 2)
    const d = squareRoot(dx * dx + dy * dy + dz * dz)
    if (d >= r) continue
    const nx = readF32(normal, i * 3)
    const ny = readF32(normal, i * 3 + 1)
    const nz = readF32(normal, i * 3 + 2)
    const outside = d > 0.0 && dx * nx + dy * ny + dz * nz >= 0.0
    dx = outside ? dx / d : nx
    dy = flat == 1 ? 0.0 : outside ? dy / d : ny
    dz = outside ? dz / d : nz
    const long = squareRoot(dx * dx + dy * dy + dz * dz)
    if (long < 0.01) continue
    dx /= long
    dy /= long
    dz /= long
    const way = firm * (outside ? r - d : r + d)
    add(position, i, dx * way, dy * way, dz * way)
    const vx = readF32(velocity, i * 3) - readF32(surface, i * 3)
    const vy = readF32(velocity, i * 3 + 1) - readF32(surface, i * 3 + 1)
    const vz = readF32(velocity, i * 3 + 2) - readF32(surface, i * 3 + 2)
    const closing = -firm * (dx * vx + dy * vy + dz * vz)
    if (closing <= 0.0) continue
    sideOf(dx, dy, dz, vx, flat == 1 ? 0.0 : vy, vz)
    const aside = 0.5 * closing
    add(velocity, i, dx * closing + sideX * aside, dy * closing + sideY * aside, dz * closing + sideZ * aside)
  }
}
