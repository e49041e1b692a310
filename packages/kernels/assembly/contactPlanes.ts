/** What constraints between particles ask of the surfaces around them (colliders.ts). */
import {
  clearEarliest, clearOf, colliderAt, collides, earliest, earliestCollider, earliestX, earliestY, earliestZ, FAR, keepEarliest, mapRow,
  near, nearestOf, nx, ny, nz, skinOf, surfaceVelocity, sweepOf, turnBack, ux, uy, uz, widthOf,
} from './colliders'
import { bits4, less4, splat4 } from './lanes'
import { collider, contactPlane, F64, treeStack } from './layouts'
import { readF32, readF64, readI32, squareRoot, truncate, writeF32, writeF64, writeI32 } from './machine'
import { pushChildren } from './sweep'
import { boxDistances, closestOnTriangle, countOf, firstOf, nearX, nearY, nearZ, roundingOf, withRoom } from './tree'

/** Plane n of particle i. */
export function planeAt(planes: usize, i: i32, n: i32): usize {
  return planes + <usize>((i * contactPlane.COUNT + n) * contactPlane.SIZE * F64)
}

/**
 * The planes on which a particle may be pressed in this substep, for the constraints: up to four, from every surface
 * nearer than ρ and `margin` (a share of the radius). `planes`: per particle 4 × 8 f64: n, n·x at contact, u, and the
 * collider (−1: no more).
 */
export function findContactPlanes(
  start: i32, end: i32, colliders: usize, colliderCount: i32, position: usize, radius: usize, sideFlags: usize,
  margin: f64, h: f64, planes: usize, thread: i32,
): void {
  for (let i = start; i < end; i++) {
    const x = readF32(position, i * 3)
    const y = readF32(position, i * 3 + 1)
    const z = readF32(position, i * 3 + 2)
    const skin = skinOf(x, y, z)
    let found = 0
    for (let k = 0; k < colliderCount && found < contactPlane.COUNT; k++) {
      const c = colliderAt(colliders, k)
      if (!collides(c, i, k, sideFlags)) continue
      const rho = widthOf(c, i, radius, skin)
      surfaceVelocity(c, i, x, y, z, h)
      found = planesOf(c, k, planeAt(planes, i, 0), found, x, y, z, rho, rho + margin * readF32(radius, i), thread)
    }
    for (let n = found; n < contactPlane.COUNT; n++) writeF64(planeAt(planes, i, n), contactPlane.collider, -1.0)
  }
}

function planesOf(
  c: usize, k: i32, planes: usize, known: i32, x: f64, y: f64, z: f64, rho: f64, reach: f64, thread: i32,
): i32 {
  if (readF64(c, collider.shape) == 0.0) {
    nearestOf(c, x, y, z, reach, thread)
    if (near == FAR) return known
    return addPlane(planes, known, known, x, y, z, near, rho, k)
  }
  const quads = <usize>readF64(c, collider.quads)
  const vertices = <usize>readF64(c, collider.vertices)
  const stack = <usize>readF64(c, collider.stack)
  const base = thread * treeStack.SIZE
  const tx = mapRow(c, collider.intoTree, x, y, z)
  const ty = mapRow(c, collider.intoTree + 4, x, y, z)
  const tz = mapRow(c, collider.intoTree + 8, x, y, z)
  if (clearOf(c, tx, ty, tz) >= reach) return known
  const px = splat4(tx)
  const py = splat4(ty)
  const pz = splat4(tz)
  const limit = splat4(withRoom(reach * reach, roundingOf(tx, ty, tz)))
  let found = known
  let depth = 1
  writeI32(stack, base, 0)
  while (depth > 0) {
    depth--
    const code = readI32(stack, base + depth)
    if (code >= 0) {
      const near4 = less4(boxDistances(quads, code, px, py, pz), limit)
      depth = pushChildren(quads, code, bits4(near4), stack, base, depth)
      continue
    }
    const first = firstOf(code)
    const end = first + countOf(code)
    for (let t = first; t < end; t++) {
      const squared = closestOnTriangle(vertices, t, tx, ty, tz)
      if (squared >= reach * reach || squared < 1.0e-18) continue
      const d = squareRoot(squared)
      turnBack(c, (tx - nearX) / d, (ty - nearY) / d, (tz - nearZ) / d)
      found = addPlane(planes, known, found, x, y, z, d, rho, k)
    }
  }
  return found
}

/**
 * Planes of one collider that look the same way count once, the nearest. So do those whose foot, the place of the surface that is nearest, lies on or
 * behind a nearer one: who keeps off that one cannot touch there. Else each triangle of a level floor beside the nearest would be a slope. Of more
 * than four planes the nearest count.
 */
function addPlane(planes: usize, from: i32, found: i32, x: f64, y: f64, z: f64, distance: f64, rho: f64, k: i32): i32 {
  for (let n = from; n < found; n++) {
    const its = heightAbove(planes, n, x, y, z) + rho
    if (distance >= its && isHidden(cosineTo(planes, n), distance, its)) return found
  }
  let kept = from
  for (let n = from; n < found; n++) {
    const its = heightAbove(planes, n, x, y, z) + rho
    if (distance < its && isHidden(cosineTo(planes, n), its, distance)) continue
    if (kept < n) copyPlane(planes, n, kept)
    kept++
  }
  let at = kept
  if (at == contactPlane.COUNT) {
    at = farthestOf(planes, x, y, z)
    if (distance - rho >= heightAbove(planes, at, x, y, z)) return kept
  }
  const o = at * contactPlane.SIZE
  writeF64(planes, o + contactPlane.normalX, nx)
  writeF64(planes, o + contactPlane.normalY, ny)
  writeF64(planes, o + contactPlane.normalZ, nz)
  writeF64(planes, o + contactPlane.level, nx * x + ny * y + nz * z - distance + rho)
  writeF64(planes, o + contactPlane.velocityX, ux)
  writeF64(planes, o + contactPlane.velocityY, uy)
  writeF64(planes, o + contactPlane.velocityZ, uz)
  writeF64(planes, o + contactPlane.collider, <f64>k)
  return at == kept ? kept + 1 : kept
}
/** Whether the foot of one plane, `far` off, adds nothing to one that is `near`, with such a cosine between their normals. */
function isHidden(cosine: f64, far: f64, near: f64): bool {
  return cosine >= 0.9 || near - far * cosine <= 0.01 * near
}
function cosineTo(planes: usize, n: i32): f64 {
  const o = n * contactPlane.SIZE
  return nx * readF64(planes, o + contactPlane.normalX) + ny * readF64(planes, o + contactPlane.normalY) + nz * readF64(planes, o + contactPlane.normalZ)
}
function copyPlane(planes: usize, from: i32, to: i32): void {
  for (let f = 0; f < contactPlane.SIZE; f++) writeF64(planes, to * contactPlane.SIZE + f, readF64(planes, from * contactPlane.SIZE + f))
}
function heightAbove(planes: usize, n: i32, x: f64, y: f64, z: f64): f64 {
  const o = n * contactPlane.SIZE
  return (
    readF64(planes, o + contactPlane.normalX) * x + readF64(planes, o + contactPlane.normalY) * y + readF64(planes, o + contactPlane.normalZ) * z -
    readF64(planes, o + contactPlane.level)
  )
}
function farthestOf(planes: usize, x: f64, y: f64, z: f64): i32 {
  let at = 0
  for (let n = 1; n < contactPlane.COUNT; n++) if (heightAbove(planes, n, x, y, z) > heightAbove(planes, at, x, y, z)) at = n
  return at
}

/**
 * After constraints have moved particles from `from` (3 × f32), where they were free: nothing may have been pressed
 * through a surface. What would pass stops there and slides along; no velocity is left into it. `planes` and `margin` are
 * those of `findContactPlanes`.
 */
export function preventTunnelling(
  start: i32, end: i32, colliders: usize, colliderCount: i32,
  position: usize, from: usize, velocity: usize, radius: usize, sideFlags: usize, margin: f64, planes: usize, h: f64, thread: i32,
): void {
  for (let i = start; i < end; i++) {
    let px = readF32(from, i * 3)
    let py = readF32(from, i * 3 + 1)
    let pz = readF32(from, i * 3 + 2)
    let dx = readF32(position, i * 3) - px
    let dy = readF32(position, i * 3 + 1) - py
    let dz = readF32(position, i * 3 + 2) - pz
    if (dx == 0.0 && dy == 0.0 && dz == 0.0) continue
    if (isClear(planes, i, colliders, px, py, pz, squareRoot(dx * dx + dy * dy + dz * dz), radius, margin)) continue
    const skin = skinOf(px, py, pz)
    let hits = 0
    for (; hits < 5; hits++) {
      findTunnel(i, colliders, colliderCount, px, py, pz, dx, dy, dz, radius, sideFlags, skin, thread)
      if (earliestCollider < 0) break
      px += dx * earliest
      py += dy * earliest
      pz += dz * earliest
      const over = (1.0 - earliest) * (dx * earliestX + dy * earliestY + dz * earliestZ)
      dx = dx * (1.0 - earliest) - earliestX * over
      dy = dy * (1.0 - earliest) - earliestY * over
      dz = dz * (1.0 - earliest) - earliestZ * over
      surfaceVelocity(colliderAt(colliders, earliestCollider), i, px, py, pz, h)
      removeApproach(velocity, i)
    }
    if (hits == 0) continue
    if (hits < 5) {
      px += dx
      py += dy
      pz += dz
    }
    writeF32(position, i * 3, px)
    writeF32(position, i * 3 + 1, py)
    writeF32(position, i * 3 + 2, pz)
  }
}

/** Whether the planes of a particle, and that there are no others, tell that it cannot have passed a surface on a way so long. */
function isClear(
  planes: usize, i: i32, colliders: usize, x: f64, y: f64, z: f64, way: f64, radius: usize, margin: f64,
): bool {
  if (way >= margin * readF32(radius, i)) return false
  for (let n = 0; n < contactPlane.COUNT; n++) {
    const plane = planeAt(planes, i, n)
    const k = truncate(readF64(plane, contactPlane.collider))
    if (k < 0) return true
    const height =
      readF64(plane, contactPlane.normalX) * x + readF64(plane, contactPlane.normalY) * y + readF64(plane, contactPlane.normalZ) * z -
      readF64(plane, contactPlane.level)
    if (height + (1.0 - GUARDED) * widthOf(colliderAt(colliders, k), i, radius, 0.0) <= way) return false
  }
  // there may be more than it holds
  return false
}

/** Constraints may leave a little overlap, which the next substep mends: only so much of a radius is guarded. */
const GUARDED: f64 = 0.35

/** The earliest place at which the middle of a particle on its way from p by d would pass a surface. */
function findTunnel(
  i: i32, colliders: usize, colliderCount: i32, px: f64, py: f64, pz: f64, dx: f64, dy: f64, dz: f64,
  radius: usize, sideFlags: usize, skin: f64, thread: i32,
): void {
  clearEarliest()
  for (let k = 0; k < colliderCount; k++) {
    const c = colliderAt(colliders, k)
    if (!collides(c, i, k, sideFlags)) continue
    let rho = GUARDED * widthOf(c, i, radius, skin)
    if (rho < skin) rho = skin
    nearestOf(c, px, py, pz, rho, thread)
    if (near < FAR && near > 0.0 && near * 0.999 < rho) rho = near * 0.999
    keepEarliest(k, sweepOf(c, px, py, pz, dx, dy, dz, rho, thread))
  }
}

/** Takes from a velocity (3 × f32) what goes into the surface of the earliest contact. */
function removeApproach(velocity: usize, i: i32): void {
  const along =
    earliestX * (readF32(velocity, i * 3) - ux) +
    earliestY * (readF32(velocity, i * 3 + 1) - uy) +
    earliestZ * (readF32(velocity, i * 3 + 2) - uz)
  if (along >= 0.0) return
  writeF32(velocity, i * 3, readF32(velocity, i * 3) - earliestX * along)
  writeF32(velocity, i * 3 + 1, readF32(velocity, i * 3 + 1) - earliestY * along)
  writeF32(velocity, i * 3 + 2, readF32(velocity, i * 3 + 2) - earliestZ * along)
}
