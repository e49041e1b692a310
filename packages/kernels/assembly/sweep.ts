/**
 * A ball on its way: when and where it first touches the triangles of a flat bounding tree (see tree.ts). Exact for
 * faces, edges and corners, so nothing passes however fast it goes or however thin the sheet.
 *
 * Source: Ericson, "Real-Time Collision Detection" (2005), §5.5.6 (moving sphere against triangle): the first moment at
 * which |c(t) − q| = ρ for a place q of the triangle. That place lies on the face, where the centre meets the plane moved
 * out by ρ; else on an edge, where it meets a cylinder about it; else on a corner, where it meets a ball about it.
 */
import { treeBounds, treeTriangle } from './layouts'
import { readF32, readI32, squareRoot, writeI32 } from './machine'

/** Share of the way (1: it touches nothing), and the unit direction from the place that is contactNormal to the centre. */
export let sweepTime: f64 = 1.0
export let sweepX: f64 = 0.0
export let sweepY: f64 = 0.0
export let sweepZ: f64 = 0.0

function met(t: f64, x: f64, y: f64, z: f64): void {
  const length = squareRoot(x * x + y * y + z * z)
  if (length == 0.0) return
  sweepTime = t
  sweepX = x / length
  sweepY = y / length
  sweepZ = z / length
}

/** Corner a: |m + t·d| = ρ with m = p − a. */
function sweepCorner(mx: f64, my: f64, mz: f64, dx: f64, dy: f64, dz: f64, dd: f64, rho: f64): void {
  const b = mx * dx + my * dy + mz * dz
  const c = mx * mx + my * my + mz * mz - rho * rho
  if (b >= 0.0 || c < 0.0) return
  const under = b * b - dd * c
  if (under < 0.0) return
  const t = (-b - squareRoot(under)) / dd
  if (t >= 0.0 && t < sweepTime) met(t, mx + t * dx, my + t * dy, mz + t * dz)
}

/** Edge from a along e: the distance of m + t·d from the line is ρ, between its ends. */
function sweepEdge(
  mx: f64, my: f64, mz: f64, ex: f64, ey: f64, ez: f64, dx: f64, dy: f64, dz: f64, dd: f64, rho: f64,
): void {
  const ee = ex * ex + ey * ey + ez * ez
  const me = mx * ex + my * ey + mz * ez
  const de = dx * ex + dy * ey + dz * ez
  const a = ee * dd - de * de
  if (a <= 1.0e-18 * ee * dd) return
  const b = ee * (mx * dx + my * dy + mz * dz) - de * me
  const c = ee * (mx * mx + my * my + mz * mz - rho * rho) - me * me
  if (b >= 0.0 || c < 0.0) return
  const under = b * b - a * c
  if (under < 0.0) return
  const t = (-b - squareRoot(under)) / a
  if (t < 0.0 || t >= sweepTime) return
  const s = (me + t * de) / ee
  if (s >= 0.0 && s <= 1.0) met(t, mx + t * dx - s * ex, my + t * dy - s * ey, mz + t * dz - s * ez)
}

function sweepTriangle(
  vertices: usize, triangle: i32, px: f64, py: f64, pz: f64, dx: f64, dy: f64, dz: f64, dd: f64, rho: f64,
): void {
  const o = triangle * treeTriangle.SIZE
  const mx = px - readF32(vertices, o + treeTriangle.ax)
  const my = py - readF32(vertices, o + treeTriangle.ay)
  const mz = pz - readF32(vertices, o + treeTriangle.az)
  const ux = readF32(vertices, o + treeTriangle.bx) - readF32(vertices, o + treeTriangle.ax)
  const uy = readF32(vertices, o + treeTriangle.by) - readF32(vertices, o + treeTriangle.ay)
  const uz = readF32(vertices, o + treeTriangle.bz) - readF32(vertices, o + treeTriangle.az)
  const vx = readF32(vertices, o + treeTriangle.cx) - readF32(vertices, o + treeTriangle.ax)
  const vy = readF32(vertices, o + treeTriangle.cy) - readF32(vertices, o + treeTriangle.ay)
  const vz = readF32(vertices, o + treeTriangle.cz) - readF32(vertices, o + treeTriangle.az)
  let nx = uy * vz - uz * vy
  let ny = uz * vx - ux * vz
  let nz = ux * vy - uy * vx
  const squared = nx * nx + ny * ny + nz * nz
  if (squared > 0.0) {
    // the normal on the side of the centre
    let length = squareRoot(squared)
    let height = (mx * nx + my * ny + mz * nz) / length
    if (height < 0.0) {
      length = -length
      height = -height
    }
    nx /= length
    ny /= length
    nz /= length
    const closing = nx * dx + ny * dy + nz * dz
    const gap = height - rho
    if (gap >= 0.0) {
      if (closing >= 0.0 || gap >= -closing * sweepTime) return
      const t = -gap / closing
      // the contactNormal place, from corner a, and its weights
      const qx = mx + t * dx - nx * rho
      const qy = my + t * dy - ny * rho
      const qz = mz + t * dz - nz * rho
      const uu = ux * ux + uy * uy + uz * uz
      const uv = ux * vx + uy * vy + uz * vz
      const vv = vx * vx + vy * vy + vz * vz
      const qu = qx * ux + qy * uy + qz * uz
      const qv = qx * vx + qy * vy + qz * vz
      const v = vv * qu - uv * qv
      const w = uu * qv - uv * qu
      if (v >= 0.0 && w >= 0.0 && v + w <= squared) {
        met(t, nx, ny, nz)
        return
      }
    }
  }
  sweepEdge(mx, my, mz, ux, uy, uz, dx, dy, dz, dd, rho)
  sweepEdge(mx, my, mz, vx, vy, vz, dx, dy, dz, dd, rho)
  sweepEdge(mx - ux, my - uy, mz - uz, vx - ux, vy - uy, vz - uz, dx, dy, dz, dd, rho)
  sweepCorner(mx, my, mz, dx, dy, dz, dd, rho)
  sweepCorner(mx - ux, my - uy, mz - uz, dx, dy, dz, dd, rho)
  sweepCorner(mx - vx, my - vy, mz - vz, dx, dy, dz, dd, rho)
}

/** Does the way from p along d, up to the earliest contact so far and ρ wide, miss the box of a node on an axis? */
function misses(bounds: usize, at: i32, p: f64, d: f64, rho: f64): boolean {
  const q = p + d * sweepTime
  const low = (q < p ? q : p) - rho
  const high = (q > p ? q : p) + rho
  return low > readF32(bounds, at + treeBounds.highX) || high < readF32(bounds, at)
}

/**
 * The first contact of a ball of radius `rho` that moves from p by d: into sweepTime and sweepX, sweepY, sweepZ. Only
 * what it touches newly counts: the ball must be free at p.
 */
export function sweepTree(
  bounds: usize, links: usize, vertices: usize, stack: usize, base: i32,
  px: f64, py: f64, pz: f64, dx: f64, dy: f64, dz: f64, rho: f64,
): void {
  sweepTime = 1.0
  const dd = dx * dx + dy * dy + dz * dz
  if (dd == 0.0) return
  let depth = 1
  writeI32(stack, base, 0)
  while (depth > 0) {
    depth--
    const node = readI32(stack, base + depth)
    const at = node * treeBounds.SIZE
    if (misses(bounds, at, px, dx, rho) || misses(bounds, at + treeBounds.lowY, py, dy, rho) || misses(bounds, at + treeBounds.lowZ, pz, dz, rho)) continue
    const left = readI32(links, node * 2)
    const right = readI32(links, node * 2 + 1)
    if (left < 0) {
      const first = -1 - left
      for (let t = first; t < first + right; t++) sweepTriangle(vertices, t, px, py, pz, dx, dy, dz, dd, rho)
    } else {
      writeI32(stack, base + depth, right)
      writeI32(stack, base + depth + 1, left)
      depth += 2
    }
  }
}

/** Whether the straight line from p by d passes through a triangle. Source: Möller, Trumbore (1997), both sides. */
export function piercesTree(
  bounds: usize, links: usize, vertices: usize, stack: usize, base: i32,
  px: f64, py: f64, pz: f64, dx: f64, dy: f64, dz: f64,
): boolean {
  sweepTime = 1.0
  let depth = 1
  writeI32(stack, base, 0)
  while (depth > 0) {
    depth--
    const node = readI32(stack, base + depth)
    const at = node * treeBounds.SIZE
    if (misses(bounds, at, px, dx, 0.0) || misses(bounds, at + treeBounds.lowY, py, dy, 0.0) || misses(bounds, at + treeBounds.lowZ, pz, dz, 0.0)) continue
    const left = readI32(links, node * 2)
    const right = readI32(links, node * 2 + 1)
    if (left < 0) {
      const first = -1 - left
      for (let t = first; t < first + right; t++) {
        if (pierces(vertices, t, px, py, pz, dx, dy, dz)) return true
      }
    } else {
      writeI32(stack, base + depth, right)
      writeI32(stack, base + depth + 1, left)
      depth += 2
    }
  }
  return false
}

function pierces(vertices: usize, triangle: i32, px: f64, py: f64, pz: f64, dx: f64, dy: f64, dz: f64): boolean {
  const o = triangle * treeTriangle.SIZE
  const ax = readF32(vertices, o + treeTriangle.ax)
  const ay = readF32(vertices, o + treeTriangle.ay)
  const az = readF32(vertices, o + treeTriangle.az)
  const ux = readF32(vertices, o + treeTriangle.bx) - ax
  const uy = readF32(vertices, o + treeTriangle.by) - ay
  const uz = readF32(vertices, o + treeTriangle.bz) - az
  const vx = readF32(vertices, o + treeTriangle.cx) - ax
  const vy = readF32(vertices, o + treeTriangle.cy) - ay
  const vz = readF32(vertices, o + treeTriangle.cz) - az
  const hx = dy * vz - dz * vy
  const hy = dz * vx - dx * vz
  const hz = dx * vy - dy * vx
  const det = ux * hx + uy * hy + uz * hz
  if (det == 0.0) return false
  const sx = px - ax
  const sy = py - ay
  const sz = pz - az
  const b = (sx * hx + sy * hy + sz * hz) / det
  if (b < 0.0 || b > 1.0) return false
  const qx = sy * uz - sz * uy
  const qy = sz * ux - sx * uz
  const qz = sx * uy - sy * ux
  const c = (dx * qx + dy * qy + dz * qz) / det
  if (c < 0.0 || b + c > 1.0) return false
  const t = (vx * qx + vy * qy + vz * qz) / det
  return t >= 0.0 && t <= 1.0
}
