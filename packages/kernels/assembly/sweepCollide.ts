/**
 * Particles on their way against what they run into (colliders.ts).
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
 * Where a particle is as collider k sees it at the end of the substep stands in `seen` (seenPlace, collider.MOST per thread): it starts
 * where its place on the surface is carried to and makes for where the particle ends, so that nothing turns past it.
 */
import {
  clearEarliest, colliderAt, collides, earliest, earliestCollider, earliestX, earliestY, earliestZ, factor, FAR, keepEarliest, near,
  nearestOf, nx, ny, nz, setNormal, skinOf, surfaceVelocity, sweepOf, ux, uy, uz, widthOf,
} from './colliders'
import { deflect, outX, outY, outZ } from './deflect'
import { collider, F64, seenPlace } from './layouts'
import { maximum, readF32, readF64, readI32, squareRoot, writeF32, writeF64, writeI32 } from './machine'

const EVENTS: i32 = 10

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
/** The collider that the particle touches as the substep begins. */
let initialCollider: i32 = 0
/** What a particle that is too near is moved off by. */
let offX: f64 = 0.0
let offY: f64 = 0.0
let offZ: f64 = 0.0

function seenBy(seen: usize, k: i32, thread: i32): usize {
  return seen + <usize>((thread * collider.MOST + k) * seenPlace.SIZE * F64)
}

/** The contact before, in which it was borne: n, where it was, the velocity of that surface, and μ there; `held` 1: there is one. */
let held: i32 = 0
let heldX: f64 = 0.0
let heldY: f64 = 0.0
let heldZ: f64 = 0.0
let heldLevel: f64 = 0.0
let heldGrip: f64 = 0.0

/** Two surfaces are touched together where the way off the first is no more than this share of the radius. */
const TOGETHER: f64 = 0.05

/**
 * Between two surfaces, n₁ and n₂, of which the one would send it back into the other, it can only go along their edge c = n₁ × n₂:
 * in a sharp groove it else would slide from wall to wall, and sink. What that takes of its velocity v is −(j₁n₁ + j₂n₂), and friction takes up to
 * μ·(j₁ + j₂) of what goes along c; a likewise.
 */
function resolveWedge(grip: f64, rho: f64): void {
  if (heldX * px + heldY * py + heldZ * pz - heldLevel > TOGETHER * rho) return
  const back = heldX * (vx - ux + ax * left) + heldY * (vy - uy + ay * left) + heldZ * (vz - uz + az * left)
  if (back >= 0.0) return
  const k = heldX * nx + heldY * ny + heldZ * nz
  const square = 1.0 - k * k
  if (square < 1.0e-8) return
  const length = squareRoot(square)
  const cx = (heldY * nz - heldZ * ny) / length
  const cy = (heldZ * nx - heldX * nz) / length
  const cz = (heldX * ny - heldY * nx) / length
  const friction = grip < heldGrip ? grip : heldGrip
  const speed = cx * (vx - ux) + cy * (vy - uy) + cz * (vz - uz)
  const still = friction * takenBy(vx - ux, vy - uy, vz - uz, k, square)
  const slides = speed > still ? speed - still : speed < -still ? speed + still : 0.0
  const pull = cx * ax + cy * ay + cz * az
  const load = friction * takenBy(ax, ay, az, k, square)
  const rest = slides == 0.0 && pull <= load && pull >= -load
  const along = rest ? 0.0 : slides > 0.0 || (slides == 0.0 && pull > 0.0) ? pull - load : pull + load
  vx = ux + cx * slides
  vy = uy + cy * slides
  vz = uz + cz * slides
  ax = cx * along
  ay = cy * along
  az = cz * along
}
/** j₁ + j₂ for what of a vector is not along the edge. */
function takenBy(x: f64, y: f64, z: f64, k: f64, square: f64): f64 {
  const first = -(heldX * x + heldY * y + heldZ * z)
  const second = -(nx * x + ny * y + nz * z)
  const one = (first - k * second) / square
  const other = (second - k * first) / square
  return maximum(0.0, one) + maximum(0.0, other)
}

function hold(grip: f64): void {
  held = 1
  heldX = nx
  heldY = ny
  heldZ = nz
  heldLevel = nx * px + ny * py + nz * pz
  heldGrip = grip
}

/** A contact: changes v and a of the particle at work. `approach` is vₙ ≥ 0. */
function resolveImpact(c: usize, i: i32, id: i32, approach: f64, rho: f64, h: f64, turn: i32): void {
  const along = nx * (vx - ux) + ny * (vy - uy) + nz * (vz - uz)
  let tx = vx - ux - nx * along
  let ty = vy - uy - ny * along
  let tz = vz - uz - nz * along
  const grip = factor(c, collider.frictionFactor, i)
  const still = readF64(c, collider.staticFriction) * grip
  const sliding = readF64(c, collider.friction) * grip
  const sticky = readF64(c, collider.stickiness) * factor(c, collider.stickinessFactor, i)
  const pressed = nx * ax + ny * ay + nz * az
  let off = readF64(c, collider.bounce) * factor(c, collider.bounceFactor, i) * approach
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
  // at the very end of the substep there is no time left in which anything presses
  if (off == 0.0 && pressed < sticky && left > 0.0) {
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
  if (off == 0.0) {
    if (held == 1) resolveWedge(sliding, rho)
    hold(sliding)
    return
  }
  const wide = readF64(c, collider.deflection)
  if (wide <= 0.0) return
  deflect(vx - ux, vy - uy, vz - uz, id, turn, <i32>readF64(c, collider.seed), wide)
  vx = ux + outX
  vy = uy + outY
  vz = uz + outZ
}

function setWay(whole: f64): void {
  const share = whole > 0.0 ? left / whole : 0.0
  dx = vx * left + 0.5 * ax * left * left + offX * share
  dy = vy * left + 0.5 * ay * left * left + offY * share
  dz = vz * left + 0.5 * az * left * left + offZ * share
}

/**
 * Moves particles from `startPosition` (with the velocity `startVelocity`) to where they get in this substep, of h seconds, from
 * where `position` and `velocity` would be with nothing in the way; those that touch nothing are left as they are.
 * `travelled` may be 0. `contactNormal` (3 × f32, or 0) gets the last n, or zeros; where it is kept, `contactTime` (f32) the
 * time from the first contact to the end of the substep, and `contactCollider` (i32) its number. `turn` numbers the substep.
 */
export function sweepCollide(
  start: i32, end: i32, colliders: usize, colliderCount: i32,
  position: usize, startPosition: usize, velocity: usize, startVelocity: usize, age: usize, radius: usize, id: usize,
  travelled: usize, sideFlags: usize, contactNormal: usize,
  contactTime: usize, contactCollider: usize, seen: usize, h: f64, turn: i32, thread: i32,
): void {
  for (let i = start; i < end; i++) {
    if (contactNormal != 0) for (let axis = 0; axis < 3; axis++) writeF32(contactNormal, i * 3 + axis, 0.0)
    const grown = readF32(age, i)
    const whole = grown < h ? grown : h
    if (whole < h * 1.0e-6) continue
    loadParticle(i, position, startPosition, velocity, startVelocity, whole)
    held = 0
    const free = squareRoot(dx * dx + dy * dy + dz * dz)
    const skin = skinOf(px, py, pz)
    let contacts = resolveInitialContact(i, readI32(id, i), colliders, colliderCount, radius, sideFlags, seen, skin, h, turn, thread)
    if (contacts > 0) {
      setWay(whole)
      writeContact(contactNormal, contactTime, contactCollider, i, whole, initialCollider)
    }
    let event = 0
    let last = 0
    for (; event < EVENTS; event++) {
      findEarliestContact(i, colliders, colliderCount, radius, sideFlags, seen, skin, thread)
      if (earliestCollider < 0) break
      contacts++
      last = earliestCollider
      const c = colliderAt(colliders, last)
      setNormal(earliestX, earliestY, earliestZ)
      surfaceVelocity(c, i, px, py, pz, h)
      const approach = advanceToContact(seen, colliderCount, thread)
      resolveImpact(c, i, readI32(id, i), approach, widthOf(c, i, radius, skin), h, turn * 16 + event)
      // the collider's own contact is the first unless it touched something as the substep began
      if (contacts == 1) writeContact(contactNormal, contactTime, contactCollider, i, left, last)
      else writeNormal(contactNormal, i)
      setWay(whole)
    }
    if (contacts == 0) continue
    if (event < EVENTS) advanceFreely()
    else stopAt(seenBy(seen, last, thread))
    writeVector(position, i, px, py, pz)
    writeVector(velocity, i, vx, vy, vz)
    if (travelled == 0) continue
    const mx = px - readF32(startPosition, i * 3)
    const my = py - readF32(startPosition, i * 3 + 1)
    const mz = pz - readF32(startPosition, i * 3 + 2)
    writeF32(travelled, i, maximum(0.0, readF32(travelled, i) + squareRoot(mx * mx + my * my + mz * mz) - free))
  }
}

/** Takes up particle i, with `whole` seconds before it. */
function loadParticle(i: i32, position: usize, startPosition: usize, velocity: usize, startVelocity: usize, whole: f64): void {
  px = readF32(startPosition, i * 3)
  py = readF32(startPosition, i * 3 + 1)
  pz = readF32(startPosition, i * 3 + 2)
  vx = readF32(startVelocity, i * 3)
  vy = readF32(startVelocity, i * 3 + 1)
  vz = readF32(startVelocity, i * 3 + 2)
  ax = (readF32(velocity, i * 3) - vx) / whole
  ay = (readF32(velocity, i * 3 + 1) - vy) / whole
  az = (readF32(velocity, i * 3 + 2) - vz) / whole
  dx = readF32(position, i * 3) - px
  dy = readF32(position, i * 3 + 1) - py
  dz = readF32(position, i * 3 + 2) - pz
  left = whole
}

/** The earliest contact on the way before the particle, as each collider sees it. */
function findEarliestContact(
  i: i32, colliders: usize, colliderCount: i32, radius: usize, sideFlags: usize, seen: usize, skin: f64, thread: i32,
): void {
  clearEarliest()
  for (let k = 0; k < colliderCount; k++) {
    const c = colliderAt(colliders, k)
    if (!collides(c, i, k, sideFlags)) continue
    const y = seenBy(seen, k, thread)
    const yx = readF64(y, seenPlace.x)
    const yy = readF64(y, seenPlace.y)
    const yz = readF64(y, seenPlace.z)
    let rho = widthOf(c, i, radius, skin)
    if (readF64(c, collider.shape) != 0.0) {
      nearestOf(c, yx, yy, yz, rho, thread)
      // who is in already goes no deeper than rounding lets it
      if (near < FAR && near - 0.1 * skin < rho) rho = maximum(near - 0.1 * skin, near * 0.999)
    }
    keepEarliest(k, sweepOf(c, yx, yy, yz, px + dx - yx, py + dy - yy, pz + dz - yz, rho, thread))
  }
}

/** Brings the particle to its earliest contact, and to the moment of it. Returns the speed of approach, vₙ ≥ 0. */
function advanceToContact(seen: usize, colliderCount: i32, thread: i32): f64 {
  // speed and moment of the contact, with the way and the acceleration along n
  const begun = nx * (vx - ux) + ny * (vy - uy) + nz * (vz - uz)
  const pull = nx * ax + ny * ay + nz * az
  const way = earliest * (nx * (dx - ux * left) + ny * (dy - uy * left) + nz * (dz - uz * left))
  const approach = squareRoot(maximum(0.0, begun * begun + 2.0 * pull * way))
  let after = earliest * left
  if (pull * left > 1.0e-6 * approach || pull * left < -1.0e-6 * approach) after = (-approach - begun) / pull
  after = after < 0.0 ? 0.0 : after > left ? left : after
  for (let k = 0; k < colliderCount; k++) {
    const y = seenBy(seen, k, thread)
    writeF64(y, seenPlace.x, readF64(y, seenPlace.x) + earliest * (px + dx - readF64(y, seenPlace.x)))
    writeF64(y, seenPlace.y, readF64(y, seenPlace.y) + earliest * (py + dy - readF64(y, seenPlace.y)))
    writeF64(y, seenPlace.z, readF64(y, seenPlace.z) + earliest * (pz + dz - readF64(y, seenPlace.z)))
  }
  // in the world the surface has yet to go on
  const rest = left - after
  const y = seenBy(seen, earliestCollider, thread)
  px = readF64(y, seenPlace.x) - ux * rest
  py = readF64(y, seenPlace.y) - uy * rest
  pz = readF64(y, seenPlace.z) - uz * rest
  vx += ax * after
  vy += ay * after
  vz += az * after
  left = rest > 0.0 ? rest : 1.0e-12
  return approach
}

/** Nothing more in the way: to the end of the substep. */
function advanceFreely(): void {
  px += dx
  py += dy
  pz += dz
  vx += ax * left
  vy += ay * left
  vz += az * left
}

/** Caught between so many surfaces that the substep was not long enough: it stays with the last one it touched. */
function stopAt(y: usize): void {
  px = readF64(y, seenPlace.x)
  py = readF64(y, seenPlace.y)
  pz = readF64(y, seenPlace.z)
  const along = nx * (vx - ux) + ny * (vy - uy) + nz * (vz - uz)
  if (along >= 0.0) return
  vx -= nx * along
  vy -= ny * along
  vz -= nz * along
}

function writeVector(column: usize, i: i32, x: f64, y: f64, z: f64): void {
  writeF32(column, i * 3, x)
  writeF32(column, i * 3 + 1, y)
  writeF32(column, i * 3 + 2, z)
}
function writeNormal(contactNormal: usize, i: i32): void {
  if (contactNormal != 0) writeVector(contactNormal, i, nx, ny, nz)
}
/** Where it is kept: n, the seconds from the contact to the end of the substep, and the number of the collider. */
function writeContact(contactNormal: usize, contactTime: usize, contactCollider: usize, i: i32, time: f64, k: i32): void {
  if (contactNormal == 0) return
  writeNormal(contactNormal, i)
  writeF32(contactTime, i, time)
  writeI32(contactCollider, i, k)
}

/** What the particle touches already as the substep begins: it rests there, bounces, or is moved off gently. */
function resolveInitialContact(
  i: i32, id: i32, colliders: usize, colliderCount: i32, radius: usize, sideFlags: usize, seen: usize,
  skin: f64, h: f64, turn: i32, thread: i32,
): i32 {
  let contacts = 0
  offX = 0.0
  offY = 0.0
  offZ = 0.0
  for (let k = 0; k < colliderCount; k++) {
    const c = colliderAt(colliders, k)
    surfaceVelocity(c, i, px, py, pz, h)
    const yx = px + ux * left
    const yy = py + uy * left
    const yz = pz + uz * left
    const y = seenBy(seen, k, thread)
    writeF64(y, seenPlace.x, yx)
    writeF64(y, seenPlace.y, yy)
    writeF64(y, seenPlace.z, yz)
    if (!collides(c, i, k, sideFlags)) continue
    const rho = widthOf(c, i, radius, skin)
    const reach = rho + skin + 1.0e-4 * rho
    nearestOf(c, yx, yy, yz, reach, thread)
    if (near == FAR) continue
    if (near >= 0.0 && near <= 1.0e-3 * reach) {
      // on the surface itself it begins a hair off it, or rounding would say on which side
      writeF64(y, seenPlace.x, yx + nx * 1.0e-3 * reach)
      writeF64(y, seenPlace.y, yy + ny * 1.0e-3 * reach)
      writeF64(y, seenPlace.z, yz + nz * 1.0e-3 * reach)
    }
    const deep = rho - near
    if (deep > 0.0) {
      const push = readF64(c, collider.pushOut) * left
      const by = deep < push ? deep : push
      offX += nx * by
      offY += ny * by
      offZ += nz * by
      initialCollider = k
      contacts++
    }
    const speed = nx * (vx - ux) + ny * (vy - uy) + nz * (vz - uz)
    const pull = nx * ax + ny * ay + nz * az
    // it leaves
    if (speed + pull * left >= readF64(c, collider.stickiness) * factor(c, collider.stickinessFactor, i) * left && speed >= 0.0) continue
    resolveImpact(c, i, id, speed < 0.0 ? -speed : 0.0, rho, h, turn * 16 + 15)
    initialCollider = k
    contacts++
  }
  return contacts
}
