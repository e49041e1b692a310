/** What constraints between particles ask of the surfaces around them (colliders.ts). */
import {
  clearEarliest, clearOf, colliderAt, collides, earliest, earliestCollider, earliestX, earliestY, earliestZ, FAR, keepEarliest, mapRow,
  near, nearestOf, nx, ny, nz, skinOf, surfaceVelocity, sweepOf, turnBack, turnRow, ux, uy, uz, widthOf,
} from './colliders'
import { add4, atLeast4, bits4, dot4, less4, load4, maximum4, multiply4, splat4, subtract4, F4, I4 } from './lanes'
import { collider, contactPlane, F64, treeQuad, treeStack } from './layouts'
import { readF32, readF64, readI32, squareRoot, truncate, writeF32, writeF64, writeI32 } from './machine'
import {
  boxDistances, closestOnTriangle, cornerAx, cornerAy, cornerAz, cornerBx, cornerBy, cornerBz, cornerCx, cornerCy, cornerCz, countOf, firstOf,
  nearestFrom, nearTriangle, nearX, nearY, nearZ, pushNearest, readCorners, roundingOf, withRoom,
} from './tree'

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
  let hint = -1
  let hintOf = -1
  for (let i = start; i < end; i++) {
    const x = readF32(position, i * 3)
    const y = readF32(position, i * 3 + 1)
    const z = readF32(position, i * 3 + 2)
    const skin = skinOf(x, y, z)
    let found = 0
    for (let k = 0; k < colliderCount; k++) {
      const c = colliderAt(colliders, k)
      if (!collides(c, i, k, sideFlags)) continue
      const rho = widthOf(c, i, radius, skin)
      surfaceVelocity(c, i, x, y, z, h)
      found = planesOf(c, k, planeAt(planes, i, 0), found, x, y, z, rho, rho + margin * readF32(radius, i), hintOf == k ? hint : -1, thread)
      if (nearestFound < 0) continue
      // queries often stand side by side
      hint = nearestFound
      hintOf = k
    }
    for (let n = found; n < contactPlane.COUNT; n++) writeF64(planeAt(planes, i, n), contactPlane.collider, -1.0)
  }
}

/** The triangle nearest to the last particle, −1 where none is within reach. */
let nearestFound: i32 = -1

/** The nearest triangle, then those that are not behind the planes known by then: how finely a surface is made matters little. */
function planesOf(
  c: usize, k: i32, planes: usize, known: i32, x: f64, y: f64, z: f64, rho: f64, reach: f64, hint: i32, thread: i32,
): i32 {
  nearestFound = -1
  if (readF64(c, collider.shape) == 0.0) {
    nearestOf(c, x, y, z, reach, thread)
    return near == FAR ? known : addPlane(planes, known, x, y, z, near, rho, k)
  }
  const quads = <usize>readF64(c, collider.quads)
  const vertices = <usize>readF64(c, collider.vertices)
  const stack = <usize>readF64(c, collider.stack)
  const base = thread * treeStack.SIZE
  const tx = mapRow(c, collider.intoTree, x, y, z)
  const ty = mapRow(c, collider.intoTree + 4, x, y, z)
  const tz = mapRow(c, collider.intoTree + 8, x, y, z)
  let most = mostOf(planes, known, x, y, z, rho, reach)
  if (clearOf(c, tx, ty, tz) >= most) return known
  const nearest = squareRoot(nearestFrom(quads, vertices, stack, base, tx, ty, tz, most * most, hint))
  if (nearTriangle < 0) return known
  nearestFound = nearTriangle
  let found = known
  if (nearest >= LEAST) {
    turnBack(c, (tx - nearX) / nearest, (ty - nearY) / nearest, (tz - nearZ) / nearest)
    found = addPlane(planes, found, x, y, z, nearest, rho, k)
    most = mostOf(planes, found, x, y, z, rho, reach)
  }
  const px = splat4(tx)
  const py = splat4(ty)
  const pz = splat4(tz)
  const rounding = roundingOf(tx, ty, tz)
  let depth = 1
  writeI32(stack, base, 0)
  writeF32(stack, base + 1, 0.0)
  while (depth > 0) {
    depth--
    const limit = withRoom(most * most, rounding)
    const code = readI32(stack, base + 2 * depth)
    if (readF32(stack, base + 2 * depth + 1) >= limit) continue
    if (code >= 0) {
      const away = boxDistances(quads, code, px, py, pz)
      let open = bits4(less4(away, splat4(limit)))
      for (let n = 0; n < found && open != 0; n++) {
        if (isOf(planes, n, k)) open &= ~bits4(boxesBehind(quads, code, px, py, pz, c, planeAt(planes, 0, n), heightAbove(planes, n, x, y, z) + rho))
      }
      depth = pushNearest(quads, code, away, open, stack, base, depth)
      continue
    }
    const first = firstOf(code)
    readCorners(vertices, first, countOf(code), px, py, pz)
    let open = (1 << countOf(code)) - 1
    for (let n = 0; n < found && open != 0; n++) {
      if (isOf(planes, n, k)) open &= ~bits4(trianglesBehind(c, planeAt(planes, 0, n), heightAbove(planes, n, x, y, z) + rho))
    }
    for (let t = first; open != 0; t++, open >>= 1) {
      if ((open & 1) == 0 || t == nearestFound) continue
      const d = squareRoot(closestOnTriangle(vertices, t, tx, ty, tz))
      if (d >= most || d < LEAST) continue
      turnBack(c, (tx - nearX) / d, (ty - nearY) / d, (tz - nearZ) / d)
      found = addPlane(planes, found, x, y, z, d, rho, k)
      most = mostOf(planes, found, x, y, z, rho, reach)
    }
  }
  return found
}
/** From what is nearer, metres, no direction can be told. */
const LEAST: f64 = 1.0e-9

/** How far off a surface may be that counts: once four planes are known, no farther than the farthest of them. */
function mostOf(planes: usize, found: i32, x: f64, y: f64, z: f64, rho: f64, reach: f64): f64 {
  if (found < contactPlane.COUNT) return reach
  const farthest = heightAbove(planes, farthestOf(planes, x, y, z), x, y, z) + rho
  return farthest < reach ? farthest : reach
}

/** The normal of a plane in the tree's frame. */
let planeX: F4 = splat4(0.0)
let planeY: F4 = splat4(0.0)
let planeZ: F4 = splat4(0.0)
function readNormal(c: usize, plane: usize): void {
  const x = readF64(plane, contactPlane.normalX)
  const y = readF64(plane, contactPlane.normalY)
  const z = readF64(plane, contactPlane.normalZ)
  planeX = splat4(turnRow(c, collider.intoTree, x, y, z))
  planeY = splat4(turnRow(c, collider.intoTree + 4, x, y, z))
  planeZ = splat4(turnRow(c, collider.intoTree + 8, x, y, z))
}
/** Which boxes of a quad lie behind a plane that is `near` off, but for twice `SLOPE`. */
function boxesBehind(quads: usize, quad: i32, x: F4, y: F4, z: F4, c: usize, plane: usize, near: f64): I4 {
  readNormal(c, plane)
  const q = quad * treeQuad.SIZE
  // the corner that is nearest along n
  const ahead = add4(
    add4(
      maximum4(multiply4(planeX, subtract4(load4(quads, q + treeQuad.lowX), x)), multiply4(planeX, subtract4(load4(quads, q + treeQuad.highX), x))),
      maximum4(multiply4(planeY, subtract4(load4(quads, q + treeQuad.lowY), y)), multiply4(planeY, subtract4(load4(quads, q + treeQuad.highY), y))),
    ),
    maximum4(multiply4(planeZ, subtract4(load4(quads, q + treeQuad.lowZ), z)), multiply4(planeZ, subtract4(load4(quads, q + treeQuad.highZ), z))),
  )
  return atLeast4(splat4((2.0 * SLOPE - 1.0) * near), ahead)
}
/** The same of the triangles whose corners were read. */
function trianglesBehind(c: usize, plane: usize, near: f64): I4 {
  readNormal(c, plane)
  const a = dot4(cornerAx, cornerAy, cornerAz, planeX, planeY, planeZ)
  const b = dot4(cornerBx, cornerBy, cornerBz, planeX, planeY, planeZ)
  const ahead = maximum4(a, maximum4(b, dot4(cornerCx, cornerCy, cornerCz, planeX, planeY, planeZ)))
  return atLeast4(splat4((2.0 * SLOPE - 1.0) * near), ahead)
}

/**
 * Planes of one collider whose foot, the place of the surface that is nearest, lies on or behind a nearer one do not count: who keeps off that one cannot
 * touch there. Else each triangle of a level floor beside the nearest would be a slope. All others do, however alike: of the facets of a bowl the next
 * one stands in the way along the one before, and a liquid that took its particles for free of it would boil. Of more than four planes the nearest
 * count, of whatever collider.
 */
function addPlane(planes: usize, found: i32, x: f64, y: f64, z: f64, distance: f64, rho: f64, k: i32): i32 {
  for (let n = 0; n < found; n++) {
    if (!isOf(planes, n, k)) continue
    const its = heightAbove(planes, n, x, y, z) + rho
    if (distance >= its && isHidden(cosineTo(planes, n), distance, its)) return found
  }
  let kept = 0
  for (let n = 0; n < found; n++) {
    const its = heightAbove(planes, n, x, y, z) + rho
    if (isOf(planes, n, k) && distance < its && isHidden(cosineTo(planes, n), its, distance)) continue
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
function isOf(planes: usize, n: i32, k: i32): bool {
  return readF64(planes, n * contactPlane.SIZE + contactPlane.collider) == <f64>k
}
/** Whether the foot of one plane, `far` off, adds nothing to one that is `near`, with such a cosine between their normals. */
function isHidden(cosine: f64, far: f64, near: f64): bool {
  return near - far * cosine <= SLOPE * near
}
/** A foot that stands out of a plane by such a share of its distance is no slope of its own. */
const SLOPE: f64 = 0.01
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
