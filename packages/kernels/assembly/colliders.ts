/**
 * What particles run into: planes and the triangles of meshes, which may move. A particle is a ball of its radius and a
 * gap, ρ. All in world metres; `u` is the velocity of the surface where it is touched.
 *
 * `colliders` points to records of `collider` (layouts.ts).
 * Bit k of `sideFlags` says that a particle is on the wrong side of collider k, which it then does not feel.
 */
import { boundAt } from './distanceField'
import { collider, F64, treeStack, treeTriangle } from './layouts'
import { maximum, readF32, readF64, readI32, squareRoot } from './machine'
import { sweepTime, sweepTree, sweepX, sweepY, sweepZ } from './sweep'
import { nearestFrom, nearTriangle, nearX, nearY, nearZ } from './tree'

/** Velocity of the surface of a collider where the particle is. */
export let ux: f64 = 0.0
export let uy: f64 = 0.0
export let uz: f64 = 0.0
/** Direction off the surface, and the distance of the place it was asked for (FAR: farther than asked). */
export let nx: f64 = 0.0
export let ny: f64 = 0.0
export let nz: f64 = 0.0
export let near: f64 = 0.0
export const FAR: f64 = 1.0e30

export function mapRow(c: usize, at: i32, x: f64, y: f64, z: f64): f64 {
  return readF64(c, at) * x + readF64(c, at + 1) * y + readF64(c, at + 2) * z + readF64(c, at + 3)
}
/** Into the tree's frame, for directions. */
export function turnRow(c: usize, at: i32, x: f64, y: f64, z: f64): f64 {
  return readF64(c, at) * x + readF64(c, at + 1) * y + readF64(c, at + 2) * z
}
export function factor(c: usize, at: i32, i: i32): f64 {
  const pointer = <usize>readF64(c, at)
  return pointer != 0 ? readF32(pointer, i) : 1.0
}
/** From the tree's frame into the world, for directions: the transposed turn. */
export function turnBack(c: usize, x: f64, y: f64, z: f64): void {
  nx = readF64(c, collider.intoTree) * x + readF64(c, collider.intoTree + 4) * y + readF64(c, collider.intoTree + 8) * z
  ny = readF64(c, collider.intoTree + 1) * x + readF64(c, collider.intoTree + 5) * y + readF64(c, collider.intoTree + 9) * z
  nz = readF64(c, collider.intoTree + 2) * x + readF64(c, collider.intoTree + 6) * y + readF64(c, collider.intoTree + 10) * z
}

/** Looks along another direction off the surface, one that was kept. */
export function setNormal(x: f64, y: f64, z: f64): void {
  nx = x
  ny = y
  nz = z
}

export function colliderAt(colliders: usize, k: i32): usize {
  return colliders + <usize>(k * collider.SIZE * F64)
}
export function collides(c: usize, i: i32, k: i32, sideFlags: usize): boolean {
  if (readF32(<usize>readF64(c, collider.amount), i) == 0.0) return false
  return sideFlags == 0 || (readI32(sideFlags, i) & (1 << k)) == 0
}
/** Below f32's rounding of a place nothing can be told apart. */
export function skinOf(x: f64, y: f64, z: f64): f64 {
  return 1.0e-6 * maximum(1.0e-3, maximum(maximum(x < 0.0 ? -x : x, y < 0.0 ? -y : y), z < 0.0 ? -z : z))
}
export function widthOf(c: usize, i: i32, radius: usize, skin: f64): f64 {
  return maximum(readF32(radius, i) + readF64(c, collider.offset), skin)
}

/** Metres from a place in the tree's frame to the surface, at the least. */
export function clearOf(c: usize, x: f64, y: f64, z: f64): f64 {
  const field = <usize>readF64(c, collider.field)
  if (field == 0) return 0.0
  const bound = boundAt(field, x, y, z)
  return bound < 0.0 ? -bound : bound
}

/** Velocity of the surface at a place, m/s, for particle i. */
export function surfaceVelocity(c: usize, i: i32, x: f64, y: f64, z: f64, h: f64): void {
  const shift = <usize>readF64(c, collider.shift)
  if (shift != 0) {
    ux = readF32(shift, i * 3) / h
    uy = readF32(shift, i * 3 + 1) / h
    uz = readF32(shift, i * 3 + 2) / h
    return
  }
  ux = (mapRow(c, collider.carry, x, y, z) - x) / h
  uy = (mapRow(c, collider.carry + 4, x, y, z) - y) / h
  uz = (mapRow(c, collider.carry + 8, x, y, z) - z) / h
}

/** The nearest place of a collider within `reach` of a place: `near` and n. */
export function nearestOf(c: usize, x: f64, y: f64, z: f64, reach: f64, thread: i32): void {
  near = FAR
  if (readF64(c, collider.shape) == 0.0) {
    nx = readF64(c, collider.normalX)
    ny = readF64(c, collider.normalY)
    nz = readF64(c, collider.normalZ)
    const height = nx * x + ny * y + nz * z - readF64(c, collider.level)
    if (height < reach) near = height
    return
  }
  const tx = mapRow(c, collider.intoTree, x, y, z)
  const ty = mapRow(c, collider.intoTree + 4, x, y, z)
  const tz = mapRow(c, collider.intoTree + 8, x, y, z)
  if (clearOf(c, tx, ty, tz) >= reach) return
  const vertices = <usize>readF64(c, collider.vertices)
  const squared = nearestFrom(
    <usize>readF64(c, collider.quads), vertices, <usize>readF64(c, collider.stack), thread * treeStack.SIZE, tx, ty, tz, reach * reach, -1,
  )
  if (nearTriangle < 0) return
  near = squareRoot(squared)
  if (near > 1.0e-3 * reach) {
    turnBack(c, (tx - nearX) / near, (ty - nearY) / near, (tz - nearZ) / near)
    return
  }
  // on the surface itself, where rounding has the say: off it along its normal, on the side that is right
  const o = nearTriangle * treeTriangle.SIZE
  const ex = readF32(vertices, o + treeTriangle.bx) - readF32(vertices, o + treeTriangle.ax)
  const ey = readF32(vertices, o + treeTriangle.by) - readF32(vertices, o + treeTriangle.ay)
  const ez = readF32(vertices, o + treeTriangle.bz) - readF32(vertices, o + treeTriangle.az)
  const fx = readF32(vertices, o + treeTriangle.cx) - readF32(vertices, o + treeTriangle.ax)
  const fy = readF32(vertices, o + treeTriangle.cy) - readF32(vertices, o + treeTriangle.ay)
  const fz = readF32(vertices, o + treeTriangle.cz) - readF32(vertices, o + treeTriangle.az)
  const cx = ey * fz - ez * fy
  const cy = ez * fx - ex * fz
  const cz = ex * fy - ey * fx
  const length = squareRoot(cx * cx + cy * cy + cz * cz)
  const side = readF64(c, collider.side)
  const dot = cx * (tx - nearX) + cy * (ty - nearY) + cz * (tz - nearZ)
  const way = side < 0.0 || (side == 0.0 && dot < 0.0) ? -length : length
  if (length > 0.0) turnBack(c, cx / way, cy / way, cz / way)
  else near = FAR
}

/** The first contact of a ball of radius ρ on its way from a place by (ex, ey, ez): share of the way, and n; 1 for none. */
export function sweepOf(
  c: usize, x: f64, y: f64, z: f64, ex: f64, ey: f64, ez: f64, rho: f64, thread: i32,
): f64 {
  if (readF64(c, collider.shape) == 0.0) {
    nx = readF64(c, collider.normalX)
    ny = readF64(c, collider.normalY)
    nz = readF64(c, collider.normalZ)
    const gap = maximum(0.0, nx * x + ny * y + nz * z - readF64(c, collider.level) - rho)
    const closing = nx * ex + ny * ey + nz * ez
    return closing < 0.0 && gap < -closing ? -gap / closing : 1.0
  }
  const tx = mapRow(c, collider.intoTree, x, y, z)
  const ty = mapRow(c, collider.intoTree + 4, x, y, z)
  const tz = mapRow(c, collider.intoTree + 8, x, y, z)
  if (clearOf(c, tx, ty, tz) >= rho + squareRoot(ex * ex + ey * ey + ez * ez)) return 1.0
  sweepTree(
    <usize>readF64(c, collider.quads), <usize>readF64(c, collider.vertices), <usize>readF64(c, collider.stack), thread * treeStack.SIZE, tx, ty, tz,
    turnRow(c, collider.intoTree, ex, ey, ez), turnRow(c, collider.intoTree + 4, ex, ey, ez), turnRow(c, collider.intoTree + 8, ex, ey, ez), rho,
  )
  if (sweepTime < 1.0) turnBack(c, sweepX, sweepY, sweepZ)
  return sweepTime
}

/** Of all colliders the one that a particle on its way touches first: share of the way, number (−1: none), and n. */
export let earliest: f64 = 1.0
export let earliestCollider: i32 = -1
export let earliestX: f64 = 0.0
export let earliestY: f64 = 0.0
export let earliestZ: f64 = 0.0
export function clearEarliest(): void {
  earliest = 1.0
  earliestCollider = -1
}
/** Keeps what `sweepOf` found of collider k, `share`, where nothing is touched earlier. */
export function keepEarliest(k: i32, share: f64): void {
  if (share >= earliest) return
  earliest = share
  earliestCollider = k
  earliestX = nx
  earliestY = ny
  earliestZ = nz
}
