/**
 * Particles against what they run into: planes and the triangles of meshes, which may move. A particle is a ball of its
 * radius and a gap, ρ. All in world metres; `u` is the velocity of the surface where it is touched.
 *
 * Within a substep a particle has velocity v and acceleration a, the mean of what all influences made of it. It moves
 * until it first touches something, exactly (sweep.ts). There, with n the direction off the surface and vₙ the speed of
 * approach, which follows from vₙ² = v₀² + 2·aₙ·way,
 *
 *   bounce    vₙ' = e·vₙ;  0 where it would come back within the substep: e·vₙ ≤ (|aₙ| + S)·h
 *   friction  the impulse is J = vₙ' + vₙ per mass; what slides along loses μ·J, all of it where that is ≤ μₛ·J
 *   rest      with vₙ' = 0 it is borne: a loses aₙ; the load is N = S − aₙ, and it holds fast where
 *             |vₜ + aₜ·T| ≤ μₛ·N·T, else a loses μ·N against its sliding (Coulomb)
 *
 * and it goes on for the rest of the substep, T. S is the stickiness, m/s²: a pull on the surface. Up to EVENTS
 * contacts a substep; what is left of the way then is not gone, so nothing ever passes.
 *
 * `colliders` points to records of 48 f64:
 *   0 shape (0 plane, 1 mesh)  1 amount (f32 per particle)  2 bounds  3 links  4 vertices  5 stack of its tree
 *   6 map of the world at the end into the tree's frame, 12   18 where a place goes in the substep: a map, 12
 *   30 or a shift per particle (3 × f32; 0: none)   31 side: 1 outside, −1 inside, 0 either
 *   32 bounce  33 μₛ  34 μ  35 S  36 deflection (radians)  37 gap  38 seed  39 plane: normal, 3, and 42 n·x on it
 *   43 speed at which it is pushed out, m/s   44–46 factors of bounce, friction, S (f32 per particle; 0: none)
 *   47 its field of distances (geometry/field.ts; 0: none), by which what is far off is passed over
 * Where a particle is as collider k sees it at the end of the substep stands in `seen` (3 f64 each, 16 per thread): it starts
 * where its place on the surface is carried to and makes for where the particle ends, so that nothing turns past it.
 * Bit k of `wrong` says that a particle is on the wrong side of collider k, which it then does not feel.
 */
import { maximum, readF32, readF64, readI32, squareRoot, truncate, writeF32, writeF64, writeI32 } from './machine'
import { philox, toUnit, word0, word1 } from './random'
import { sweepTime, sweepTree, sweepX, sweepY, sweepZ } from './sweep'
import { closestOnTriangle, nearestFrom, nearTriangle, nearX, nearY, nearZ } from './tree'
import { cosineOf, sineOf } from './trigonometry'

const RECORD: i32 = 48
const EVENTS: i32 = 10
const DEFLECT: i32 = 19

/** The particle at work: place, velocity, acceleration, what is left of the substep, and the way it has before it. */
let px: f64 = 0.0
let py: f64 = 0.0
let pz: f64 = 0.0
let vx: f64 = 0.0
let vy: f64 = 0.0
let vz: f64 = 0.0
let ax: f64 = 0.0
let ay: f64 = 0.0
let az: f64 = 0.0
let left: f64 = 0.0
let dx: f64 = 0.0
let dy: f64 = 0.0
let dz: f64 = 0.0
/** What a particle that is too near is moved off by. */
let outX: f64 = 0.0
let outY: f64 = 0.0
let outZ: f64 = 0.0

/** Velocity of the surface of a collider where the particle is. */
let ux: f64 = 0.0
let uy: f64 = 0.0
let uz: f64 = 0.0
/** Direction off the surface, and the distance of the place it was asked for (FAR: farther than asked). */
let nx: f64 = 0.0
let ny: f64 = 0.0
let nz: f64 = 0.0
let near: f64 = 0.0
const FAR: f64 = 1.0e30

function mapRow(c: usize, at: i32, x: f64, y: f64, z: f64): f64 {
  return readF64(c, at) * x + readF64(c, at + 1) * y + readF64(c, at + 2) * z + readF64(c, at + 3)
}
function turnRow(c: usize, at: i32, x: f64, y: f64, z: f64): f64 {
  return readF64(c, at) * x + readF64(c, at + 1) * y + readF64(c, at + 2) * z
}
function seenBy(seen: usize, k: i32, thread: i32): usize {
  return seen + <usize>((thread * 16 + k) * 24)
}
function factor(c: usize, at: i32, i: i32): f64 {
  const pointer = <usize>readF64(c, at)
  return pointer != 0 ? readF32(pointer, i) : 1.0
}
/** From the tree's frame into the world, for directions: the transposed turn. */
function turnBack(c: usize, x: f64, y: f64, z: f64): void {
  nx = readF64(c, 6) * x + readF64(c, 10) * y + readF64(c, 14) * z
  ny = readF64(c, 7) * x + readF64(c, 11) * y + readF64(c, 15) * z
  nz = readF64(c, 8) * x + readF64(c, 12) * y + readF64(c, 16) * z
}

export function colliderAt(colliders: usize, k: i32): usize {
  return colliders + <usize>(k * RECORD * 8)
}
export function feels(c: usize, i: i32, k: i32, wrong: usize): boolean {
  if (readF32(<usize>readF64(c, 1), i) == 0.0) return false
  return wrong == 0 || (readI32(wrong, i) & (1 << k)) == 0
}
/** Below f32's rounding of a place nothing can be told apart. */
export function skinOf(x: f64, y: f64, z: f64): f64 {
  return 1.0e-6 * maximum(1.0e-3, maximum(maximum(x < 0.0 ? -x : x, y < 0.0 ? -y : y), z < 0.0 ? -z : z))
}
export function widthOf(c: usize, i: i32, radius: usize, skin: f64): f64 {
  return maximum(readF32(radius, i) + readF64(c, 37), skin)
}

/** Metres from a place in the tree's frame to the surface, at the least. */
function clearOf(c: usize, x: f64, y: f64, z: f64): f64 {
  const field = <usize>readF64(c, 47)
  if (field == 0) return 0.0
  const size = readF64(field, 3)
  const i = (x - readF64(field, 0)) / size
  const k = (y - readF64(field, 1)) / size
  const n = (z - readF64(field, 2)) / size
  const across = readF64(field, 4)
  const up = readF64(field, 5)
  const slack = readF64(field, 8)
  if (!(i >= 0.0 && k >= 0.0 && n >= 0.0 && i < across && k < up && n < readF64(field, 6))) return readF64(field, 7) - slack
  const cell = truncate(i) + truncate(across) * (truncate(k) + truncate(up) * truncate(n))
  return readF32(field + 72, cell) - slack
}

/** Velocity of the surface at a place, m/s, for particle i. */
function surfaceVelocity(c: usize, i: i32, x: f64, y: f64, z: f64, h: f64): void {
  const shift = <usize>readF64(c, 30)
  if (shift != 0) {
    ux = readF32(shift, i * 3) / h
    uy = readF32(shift, i * 3 + 1) / h
    uz = readF32(shift, i * 3 + 2) / h
    return
  }
  ux = (mapRow(c, 18, x, y, z) - x) / h
  uy = (mapRow(c, 22, x, y, z) - y) / h
  uz = (mapRow(c, 26, x, y, z) - z) / h
}

/** The nearest place of a collider within `reach` of a place: `near` and n. */
function nearestOf(c: usize, x: f64, y: f64, z: f64, reach: f64, thread: i32): void {
  near = FAR
  if (readF64(c, 0) == 0.0) {
    nx = readF64(c, 39)
    ny = readF64(c, 40)
    nz = readF64(c, 41)
    const height = nx * x + ny * y + nz * z - readF64(c, 42)
    if (height < reach) near = height
    return
  }
  const tx = mapRow(c, 6, x, y, z)
  const ty = mapRow(c, 10, x, y, z)
  const tz = mapRow(c, 14, x, y, z)
  if (clearOf(c, tx, ty, tz) >= reach) return
  const vertices = <usize>readF64(c, 4)
  const squared = nearestFrom(
    <usize>readF64(c, 2), <usize>readF64(c, 3), vertices, <usize>readF64(c, 5), thread * 64, tx, ty, tz, reach * reach,
  )
  if (nearTriangle < 0) return
  near = squareRoot(squared)
  if (near > 1.0e-3 * reach) {
    turnBack(c, (tx - nearX) / near, (ty - nearY) / near, (tz - nearZ) / near)
    return
  }
  // on the surface itself, where rounding has the say: off it along its normal, on the side that is right
  const o = nearTriangle * 9
  const ex = readF32(vertices, o + 3) - readF32(vertices, o)
  const ey = readF32(vertices, o + 4) - readF32(vertices, o + 1)
  const ez = readF32(vertices, o + 5) - readF32(vertices, o + 2)
  const fx = readF32(vertices, o + 6) - readF32(vertices, o)
  const fy = readF32(vertices, o + 7) - readF32(vertices, o + 1)
  const fz = readF32(vertices, o + 8) - readF32(vertices, o + 2)
  const cx = ey * fz - ez * fy
  const cy = ez * fx - ex * fz
  const cz = ex * fy - ey * fx
  const length = squareRoot(cx * cx + cy * cy + cz * cz)
  const side = readF64(c, 31)
  const dot = cx * (tx - nearX) + cy * (ty - nearY) + cz * (tz - nearZ)
  const way = side < 0.0 || (side == 0.0 && dot < 0.0) ? -length : length
  if (length > 0.0) turnBack(c, cx / way, cy / way, cz / way)
  else near = FAR
}

/** The first contact of a ball of radius ρ on its way from a place by (ex, ey, ez): share of the way, and n; 1 for none. */
function sweepOf(
  c: usize, x: f64, y: f64, z: f64, ex: f64, ey: f64, ez: f64, rho: f64, thread: i32,
): f64 {
  if (readF64(c, 0) == 0.0) {
    nx = readF64(c, 39)
    ny = readF64(c, 40)
    nz = readF64(c, 41)
    const gap = maximum(0.0, nx * x + ny * y + nz * z - readF64(c, 42) - rho)
    const closing = nx * ex + ny * ey + nz * ez
    return closing < 0.0 && gap < -closing ? -gap / closing : 1.0
  }
  const tx = mapRow(c, 6, x, y, z)
  const ty = mapRow(c, 10, x, y, z)
  const tz = mapRow(c, 14, x, y, z)
  if (clearOf(c, tx, ty, tz) >= rho + squareRoot(ex * ex + ey * ey + ez * ez)) return 1.0
  sweepTree(
    <usize>readF64(c, 2), <usize>readF64(c, 3), <usize>readF64(c, 4), <usize>readF64(c, 5), thread * 64, tx, ty, tz,
    turnRow(c, 6, ex, ey, ez), turnRow(c, 10, ex, ey, ez), turnRow(c, 14, ex, ey, ez), rho,
  )
  if (sweepTime < 1.0) turnBack(c, sweepX, sweepY, sweepZ)
  return sweepTime
}

/** A contact: changes v and a of the particle at work. `approach` is vₙ ≥ 0. */
function strike(c: usize, i: i32, id: i32, approach: f64, h: f64, turn: i32): void {
  const along = nx * (vx - ux) + ny * (vy - uy) + nz * (vz - uz)
  let tx = vx - ux - nx * along
  let ty = vy - uy - ny * along
  let tz = vz - uz - nz * along
  const grip = factor(c, 45, i)
  const still = readF64(c, 33) * grip
  const sliding = readF64(c, 34) * grip
  const sticky = readF64(c, 35) * factor(c, 46, i)
  const pressed = nx * ax + ny * ay + nz * az
  let off = readF64(c, 32) * factor(c, 44, i) * approach
  if (off <= ((pressed < 0.0 ? -pressed : pressed) + sticky) * h) off = 0.0
  let speed = squareRoot(tx * tx + ty * ty + tz * tz)
  const impulse = off + approach
  if (speed > 0.0 && impulse > 0.0) {
    const loss = speed <= still * impulse ? speed : sliding * impulse < speed ? sliding * impulse : speed
    const stays = 1.0 - loss / speed
    tx *= stays
    ty *= stays
    tz *= stays
    speed *= stays
  }
  if (off == 0.0 && pressed < sticky) {
    const load = sticky - pressed
    ax -= nx * pressed
    ay -= ny * pressed
    az -= nz * pressed
    const wx = tx + ax * left
    const wy = ty + ay * left
    const wz = tz + az * left
    const wanted = squareRoot(wx * wx + wy * wy + wz * wz)
    if (wanted <= still * load * left * 1.0000001) {
      ax = -tx / left
      ay = -ty / left
      az = -tz / left
    } else {
      const long = speed > 1.0e-9 ? speed : wanted
      const gx = (speed > 1.0e-9 ? tx : wx) / long
      const gy = (speed > 1.0e-9 ? ty : wy) / long
      const gz = (speed > 1.0e-9 ? tz : wz) / long
      // it may come to a stop, but friction does not turn it round
      const driven = gx * ax + gy * ay + gz * az
      const most = (speed + driven * left) / left
      const brake = sliding * load < most ? sliding * load : maximum(most, 0.0)
      ax -= gx * brake
      ay -= gy * brake
      az -= gz * brake
    }
  }
  vx = ux + tx + nx * off
  vy = uy + ty + ny * off
  vz = uz + tz + nz * off
  const wide = readF64(c, 36)
  if (off > 0.0 && wide > 0.0) deflect(id, turn, <i32>readF64(c, 38), wide)
}

/** Turns what bounces off by an angle up to `wide` about its way, even over the cap; never back into the surface. */
function deflect(id: i32, turn: i32, seed: i32, wide: f64): void {
  const rx = vx - ux
  const ry = vy - uy
  const rz = vz - uz
  const speed = squareRoot(rx * rx + ry * ry + rz * rz)
  philox(id, DEFLECT, turn, 0, seed, 0)
  const cap = toUnit(word0) * (1.0 - cosineOf(wide))
  const height = 1.0 - cap
  const side = squareRoot(maximum(0.0, 1.0 - height * height)) * speed
  const about = 6.283185307179586 * toUnit(word1)
  // two directions across the way
  let sx = ry * nz - rz * ny
  let sy = rz * nx - rx * nz
  let sz = rx * ny - ry * nx
  let long = squareRoot(sx * sx + sy * sy + sz * sz)
  if (long < 1.0e-9 * speed) {
    sx = ny - nz
    sy = nz - nx
    sz = nx - ny
    const dot = (sx * rx + sy * ry + sz * rz) / (speed * speed)
    sx -= dot * rx
    sy -= dot * ry
    sz -= dot * rz
    long = squareRoot(sx * sx + sy * sy + sz * sz)
    if (long == 0.0) return
  }
  sx /= long
  sy /= long
  sz /= long
  const qx = (ry * sz - rz * sy) / speed
  const qy = (rz * sx - rx * sz) / speed
  const qz = (rx * sy - ry * sx) / speed
  const c = cosineOf(about) * side
  const s = sineOf(about) * side
  let ox = rx * height + sx * c + qx * s
  let oy = ry * height + sy * c + qy * s
  let oz = rz * height + sz * c + qz * s
  const off = ox * nx + oy * ny + oz * nz
  if (off < 0.0) {
    ox -= 2.0 * off * nx
    oy -= 2.0 * off * ny
    oz -= 2.0 * off * nz
  }
  vx = ux + ox
  vy = uy + oy
  vz = uz + oz
}

function setWay(whole: f64): void {
  const share = whole > 0.0 ? left / whole : 0.0
  dx = vx * left + 0.5 * ax * left * left + outX * share
  dy = vy * left + 0.5 * ay * left * left + outY * share
  dz = vz * left + 0.5 * az * left * left + outZ * share
}

/**
 * Moves particles from `previous` (with the velocity `before`) to where they get in this substep, of h seconds, from
 * where `position` and `velocity` would be with nothing in the way; those that touch nothing are left as they are.
 * `travelled` may be 0. `touched` (3 × f32, or 0) gets the last n, or zeros; `turn` numbers the substep.
 */
export function meet(
  start: i32, end: i32, colliders: usize, howMany: i32,
  position: usize, previous: usize, velocity: usize, before: usize, age: usize, radius: usize, id: usize,
  travelled: usize, wrong: usize, touched: usize, seen: usize, h: f64, turn: i32, thread: i32,
): void {
  for (let i = start; i < end; i++) {
    if (touched != 0) for (let axis = 0; axis < 3; axis++) writeF32(touched, i * 3 + axis, 0.0)
    const grown = readF32(age, i)
    const whole = grown < h ? grown : h
    if (whole < h * 1.0e-6) continue
    px = readF32(previous, i * 3)
    py = readF32(previous, i * 3 + 1)
    pz = readF32(previous, i * 3 + 2)
    vx = readF32(before, i * 3)
    vy = readF32(before, i * 3 + 1)
    vz = readF32(before, i * 3 + 2)
    ax = (readF32(velocity, i * 3) - vx) / whole
    ay = (readF32(velocity, i * 3 + 1) - vy) / whole
    az = (readF32(velocity, i * 3 + 2) - vz) / whole
    dx = readF32(position, i * 3) - px
    dy = readF32(position, i * 3 + 1) - py
    dz = readF32(position, i * 3 + 2) - pz
    left = whole
    const free = squareRoot(dx * dx + dy * dy + dz * dz)
    const skin = skinOf(px, py, pz)
    let contacts = touchStart(i, readI32(id, i), colliders, howMany, radius, wrong, seen, skin, h, turn, thread)
    if (contacts > 0) {
      setWay(whole)
      if (touched != 0) writeNormal(touched, i)
    }
    let event = 0
    let last = 0
    for (; event < EVENTS; event++) {
      let first = 1.0
      let who = -1
      let wx = 0.0
      let wy = 0.0
      let wz = 0.0
      for (let k = 0; k < howMany; k++) {
        const c = colliderAt(colliders, k)
        if (!feels(c, i, k, wrong)) continue
        const y = seenBy(seen, k, thread)
        const yx = readF64(y, 0)
        const yy = readF64(y, 1)
        const yz = readF64(y, 2)
        const ex = px + dx - yx
        const ey = py + dy - yy
        const ez = pz + dz - yz
        let rho = widthOf(c, i, radius, skin)
        if (readF64(c, 0) != 0.0) {
          nearestOf(c, yx, yy, yz, rho, thread)
          if (near < FAR && near * 0.999 < rho) rho = near * 0.999
        }
        const t = sweepOf(c, yx, yy, yz, ex, ey, ez, rho, thread)
        if (t < first) {
          first = t
          who = k
          wx = nx
          wy = ny
          wz = nz
        }
      }
      if (who < 0) break
      contacts++
      const c = colliderAt(colliders, who)
      nx = wx
      ny = wy
      nz = wz
      surfaceVelocity(c, i, px, py, pz, h)
      // speed and moment of the contact, with the way and the acceleration along n
      const begun = nx * (vx - ux) + ny * (vy - uy) + nz * (vz - uz)
      const pull = nx * ax + ny * ay + nz * az
      const way = first * (nx * (dx - ux * left) + ny * (dy - uy * left) + nz * (dz - uz * left))
      const approach = squareRoot(maximum(0.0, begun * begun + 2.0 * pull * way))
      let after = first * left
      if (pull * left > 1.0e-6 * approach || pull * left < -1.0e-6 * approach) after = (-approach - begun) / pull
      after = after < 0.0 ? 0.0 : after > left ? left : after
      for (let k = 0; k < howMany; k++) {
        const y = seenBy(seen, k, thread)
        writeF64(y, 0, readF64(y, 0) + first * (px + dx - readF64(y, 0)))
        writeF64(y, 1, readF64(y, 1) + first * (py + dy - readF64(y, 1)))
        writeF64(y, 2, readF64(y, 2) + first * (pz + dz - readF64(y, 2)))
      }
      // in the world the surface has yet to go on
      const rest = left - after
      const y = seenBy(seen, who, thread)
      px = readF64(y, 0) - ux * rest
      py = readF64(y, 1) - uy * rest
      pz = readF64(y, 2) - uz * rest
      last = who
      vx += ax * after
      vy += ay * after
      vz += az * after
      left = rest
      if (left <= 0.0) left = 1.0e-12
      strike(c, i, readI32(id, i), approach, h, turn * 16 + event)
      if (touched != 0) writeNormal(touched, i)
      setWay(whole)
    }
    if (contacts == 0) continue
    if (event < EVENTS) {
      px += dx
      py += dy
      pz += dz
      vx += ax * left
      vy += ay * left
      vz += az * left
    } else stopAt(seenBy(seen, last, thread))
    writePlace(position, i)
    writeF32(velocity, i * 3, vx)
    writeF32(velocity, i * 3 + 1, vy)
    writeF32(velocity, i * 3 + 2, vz)
    if (travelled != 0) {
      const mx = px - readF32(previous, i * 3)
      const my = py - readF32(previous, i * 3 + 1)
      const mz = pz - readF32(previous, i * 3 + 2)
      writeF32(travelled, i, maximum(0.0, readF32(travelled, i) + squareRoot(mx * mx + my * my + mz * mz) - free))
    }
  }
}

/** Caught between so many surfaces that the substep was not long enough: it stays with the last one it touched. */
function stopAt(y: usize): void {
  px = readF64(y, 0)
  py = readF64(y, 1)
  pz = readF64(y, 2)
  const along = nx * (vx - ux) + ny * (vy - uy) + nz * (vz - uz)
  if (along >= 0.0) return
  vx -= nx * along
  vy -= ny * along
  vz -= nz * along
}

function writeNormal(touched: usize, i: i32): void {
  writeF32(touched, i * 3, nx)
  writeF32(touched, i * 3 + 1, ny)
  writeF32(touched, i * 3 + 2, nz)
}
function writePlace(position: usize, i: i32): void {
  writeF32(position, i * 3, px)
  writeF32(position, i * 3 + 1, py)
  writeF32(position, i * 3 + 2, pz)
}

/** What the particle touches already as the substep begins: it rests there, bounces, or is moved off gently. */
function touchStart(
  i: i32, id: i32, colliders: usize, howMany: i32, radius: usize, wrong: usize, seen: usize,
  skin: f64, h: f64, turn: i32, thread: i32,
): i32 {
  let contacts = 0
  outX = 0.0
  outY = 0.0
  outZ = 0.0
  for (let k = 0; k < howMany; k++) {
    const c = colliderAt(colliders, k)
    surfaceVelocity(c, i, px, py, pz, h)
    const yx = px + ux * left
    const yy = py + uy * left
    const yz = pz + uz * left
    const y = seenBy(seen, k, thread)
    writeF64(y, 0, yx)
    writeF64(y, 1, yy)
    writeF64(y, 2, yz)
    if (!feels(c, i, k, wrong)) continue
    const rho = widthOf(c, i, radius, skin)
    const reach = rho + skin + 1.0e-4 * rho
    nearestOf(c, yx, yy, yz, reach, thread)
    if (near == FAR) continue
    if (near >= 0.0 && near <= 1.0e-3 * reach) {
      // on the surface itself it begins a hair off it, or rounding would say on which side
      writeF64(y, 0, yx + nx * 1.0e-3 * reach)
      writeF64(y, 1, yy + ny * 1.0e-3 * reach)
      writeF64(y, 2, yz + nz * 1.0e-3 * reach)
    }
    const deep = rho - near
    if (deep > 0.0) {
      const push = readF64(c, 43) * left
      const by = deep < push ? deep : push
      outX += nx * by
      outY += ny * by
      outZ += nz * by
      contacts++
    }
    const speed = nx * (vx - ux) + ny * (vy - uy) + nz * (vz - uz)
    const pull = nx * ax + ny * ay + nz * az
    // it leaves
    if (speed + pull * left >= readF64(c, 35) * factor(c, 46, i) * left && speed >= 0.0) continue
    strike(c, i, id, speed < 0.0 ? -speed : 0.0, h, turn * 16 + 15)
    contacts++
  }
  return contacts
}

/**
 * The planes on which a particle may be pressed in this substep, for the constraints: up to four, from every surface
 * nearer than ρ and `margin` (a share of the radius). `planes`: per particle 4 × 8 f64: n, n·x at contact, u, and the
 * collider (−1: no more).
 */
export function planesNear(
  start: i32, end: i32, colliders: usize, howMany: i32, position: usize, radius: usize, wrong: usize,
  margin: f64, h: f64, planes: usize, thread: i32,
): void {
  for (let i = start; i < end; i++) {
    const x = readF32(position, i * 3)
    const y = readF32(position, i * 3 + 1)
    const z = readF32(position, i * 3 + 2)
    const skin = skinOf(x, y, z)
    let found = 0
    for (let k = 0; k < howMany && found < 4; k++) {
      const c = colliderAt(colliders, k)
      if (!feels(c, i, k, wrong)) continue
      const rho = widthOf(c, i, radius, skin)
      surfaceVelocity(c, i, x, y, z, h)
      found = planesOf(c, k, planes + <usize>(i * 256), found, x, y, z, rho, rho + margin * readF32(radius, i), thread)
    }
    for (let n = found; n < 4; n++) writeF64(planes + <usize>(i * 256), n * 8 + 7, -1.0)
  }
}

function planesOf(
  c: usize, k: i32, planes: usize, known: i32, x: f64, y: f64, z: f64, rho: f64, reach: f64, thread: i32,
): i32 {
  if (readF64(c, 0) == 0.0) {
    nearestOf(c, x, y, z, reach, thread)
    if (near == FAR) return known
    return addPlane(planes, known, known, x, y, z, near, rho, k)
  }
  const bounds = <usize>readF64(c, 2)
  const links = <usize>readF64(c, 3)
  const vertices = <usize>readF64(c, 4)
  const stack = <usize>readF64(c, 5)
  const base = thread * 64
  const tx = mapRow(c, 6, x, y, z)
  const ty = mapRow(c, 10, x, y, z)
  const tz = mapRow(c, 14, x, y, z)
  let found = known
  let depth = 1
  writeI32(stack, base, 0)
  while (depth > 0) {
    depth--
    const node = readI32(stack, base + depth)
    const at = node * 6
    if (tx < readF32(bounds, at) - reach || tx > readF32(bounds, at + 3) + reach) continue
    if (ty < readF32(bounds, at + 1) - reach || ty > readF32(bounds, at + 4) + reach) continue
    if (tz < readF32(bounds, at + 2) - reach || tz > readF32(bounds, at + 5) + reach) continue
    const child = readI32(links, node * 2)
    const right = readI32(links, node * 2 + 1)
    if (child >= 0) {
      writeI32(stack, base + depth, right)
      writeI32(stack, base + depth + 1, child)
      depth += 2
      continue
    }
    const first = -1 - child
    for (let t = first; t < first + right; t++) {
      const squared = closestOnTriangle(vertices, t, tx, ty, tz)
      if (squared >= reach * reach || squared < 1.0e-18) continue
      const d = squareRoot(squared)
      turnBack(c, (tx - nearX) / d, (ty - nearY) / d, (tz - nearZ) / d)
      found = addPlane(planes, known, found, x, y, z, d, rho, k)
    }
  }
  return found
}

/** Of planes of one collider that look the same way the nearest counts; of more than four the nearest. */
function addPlane(planes: usize, from: i32, found: i32, x: f64, y: f64, z: f64, distance: f64, rho: f64, k: i32): i32 {
  const level = nx * x + ny * y + nz * z - distance + rho
  let at = found
  for (let n = from; n < found; n++) {
    const o = n * 8
    if (nx * readF64(planes, o) + ny * readF64(planes, o + 1) + nz * readF64(planes, o + 2) < 0.9) continue
    const its = readF64(planes, o) * x + readF64(planes, o + 1) * y + readF64(planes, o + 2) * z - readF64(planes, o + 3)
    if (distance - rho >= its) return found
    at = n
    break
  }
  if (at >= 4) return found
  const o = at * 8
  writeF64(planes, o, nx)
  writeF64(planes, o + 1, ny)
  writeF64(planes, o + 2, nz)
  writeF64(planes, o + 3, level)
  writeF64(planes, o + 4, ux)
  writeF64(planes, o + 5, uy)
  writeF64(planes, o + 6, uz)
  writeF64(planes, o + 7, <f64>k)
  return at == found ? found + 1 : found
}

/**
 * After constraints have moved particles from `from` (3 × f32), where they were free: nothing may have been pressed
 * through a surface. What would pass stops there and slides along; no velocity is left into it.
 */
export function guard(
  start: i32, end: i32, colliders: usize, howMany: i32,
  position: usize, from: usize, velocity: usize, radius: usize, wrong: usize, h: f64, thread: i32,
): void {
  for (let i = start; i < end; i++) {
    px = readF32(from, i * 3)
    py = readF32(from, i * 3 + 1)
    pz = readF32(from, i * 3 + 2)
    dx = readF32(position, i * 3) - px
    dy = readF32(position, i * 3 + 1) - py
    dz = readF32(position, i * 3 + 2) - pz
    if (dx == 0.0 && dy == 0.0 && dz == 0.0) continue
    const skin = skinOf(px, py, pz)
    let hits = 0
    for (; hits < 5; hits++) {
      let first = 1.0
      let who = -1
      let wx = 0.0
      let wy = 0.0
      let wz = 0.0
      for (let k = 0; k < howMany; k++) {
        const c = colliderAt(colliders, k)
        if (!feels(c, i, k, wrong)) continue
        // only its middle third is guarded: constraints may leave a little overlap, which the next substep mends
        let rho = 0.35 * widthOf(c, i, radius, skin)
        if (rho < skin) rho = skin
        nearestOf(c, px, py, pz, rho, thread)
        if (near < FAR && near > 0.0 && near * 0.999 < rho) rho = near * 0.999
        const t = sweepOf(c, px, py, pz, dx, dy, dz, rho, thread)
        if (t < first) {
          first = t
          who = k
          wx = nx
          wy = ny
          wz = nz
        }
      }
      if (who < 0) break
      px += dx * first
      py += dy * first
      pz += dz * first
      const over = (1.0 - first) * (dx * wx + dy * wy + dz * wz)
      dx = dx * (1.0 - first) - wx * over
      dy = dy * (1.0 - first) - wy * over
      dz = dz * (1.0 - first) - wz * over
      surfaceVelocity(colliderAt(colliders, who), i, px, py, pz, h)
      const along =
        wx * (readF32(velocity, i * 3) - ux) + wy * (readF32(velocity, i * 3 + 1) - uy) + wz * (readF32(velocity, i * 3 + 2) - uz)
      if (along < 0.0) {
        writeF32(velocity, i * 3, readF32(velocity, i * 3) - wx * along)
        writeF32(velocity, i * 3 + 1, readF32(velocity, i * 3 + 1) - wy * along)
        writeF32(velocity, i * 3 + 2, readF32(velocity, i * 3 + 2) - wz * along)
      }
    }
    if (hits == 0) continue
    if (hits < 5) {
      px += dx
      py += dy
      pz += dz
    }
    writePlace(position, i)
  }
}
