/**
 * A ball on its way: when and where it first touches the triangles of a flat bounding tree (see tree.ts). Exact for
 * faces, edges and corners, so nothing passes however fast it goes or however thin the sheet.
 *
 * Source: Ericson, "Real-Time Collision Detection" (2005), §5.5.6 (moving sphere against triangle): the first moment at
 * which |c(t) − q| = ρ for a place q of the triangle. That place lies on the face, where the centre meets the plane moved
 * out by ρ; else on an edge, where it meets a cylinder about it; else on a corner, where it meets a ball about it.
 */
import { treeQuad, treeStack, treeTriangle } from './layouts'
import { and4, atLeast4, bits4, load4, splat4 } from './lanes'
import { readF32, readI32, squareRoot, writeI32 } from './machine'
import { childOf, countOf, firstOf } from './tree'

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

/**
 * Children of a quad whose boxes the way from p along d, up to the earliest contact so far and ρ wide, comes near: a bit
 * for each. What f32 rounds off is added to ρ.
 */
function nearBoxes(quads: usize, quad: i32, px: f64, py: f64, pz: f64, dx: f64, dy: f64, dz: f64, rho: f64): i32 {
  const q = quad * treeQuad.SIZE
  const room = rho + 2.0e-7 * (absolute(px) + absolute(py) + absolute(pz) + absolute(dx) + absolute(dy) + absolute(dz))
  const x = and4(
    atLeast4(load4(quads, q + treeQuad.highX), splat4(lesser(px, px + dx * sweepTime) - room)),
    atLeast4(splat4(greater(px, px + dx * sweepTime) + room), load4(quads, q + treeQuad.lowX)),
  )
  const y = and4(
    atLeast4(load4(quads, q + treeQuad.highY), splat4(lesser(py, py + dy * sweepTime) - room)),
    atLeast4(splat4(greater(py, py + dy * sweepTime) + room), load4(quads, q + treeQuad.lowY)),
  )
  const z = and4(
    atLeast4(load4(quads, q + treeQuad.highZ), splat4(lesser(pz, pz + dz * sweepTime) - room)),
    atLeast4(splat4(greater(pz, pz + dz * sweepTime) + room), load4(quads, q + treeQuad.lowZ)),
  )
  return bits4(and4(and4(x, y), z))
}
function absolute(a: f64): f64 {
  return a < 0.0 ? -a : a
}
function lesser(a: f64, b: f64): f64 {
  return a < b ? a : b
}
function greater(a: f64, b: f64): f64 {
  return a > b ? a : b
}
/** Puts the named children of a quad on a stack of `depth`, the first one last. Returns its new depth. */
export function pushChildren(quads: usize, quad: i32, named: i32, stack: usize, base: i32, depth: i32): i32 {
  for (let lane = 3; lane >= 0; lane--) {
    if (((named >> lane) & 1) == 0) continue
    writeI32(stack, base + depth, childOf(quads, quad, lane))
    depth++
  }
  return depth
}

/**
 * The first contact of a ball of radius `rho` that moves from p by d: into sweepTime and sweepX, sweepY, sweepZ. Only
 * what it touches newly counts: the ball must be free at p.
 */
export function sweepTree(
  quads: usize, vertices: usize, stack: usize, base: i32,
  px: f64, py: f64, pz: f64, dx: f64, dy: f64, dz: f64, rho: f64,
): void {
  sweepTime = 1.0
  const dd = dx * dx + dy * dy + dz * dz
  if (dd == 0.0) return
  let depth = 1
  writeI32(stack, base, 0)
  while (depth > 0) {
    depth--
    const code = readI32(stack, base + depth)
    if (code >= 0) {
      depth = pushChildren(quads, code, nearBoxes(quads, code, px, py, pz, dx, dy, dz, rho), stack, base, depth)
      continue
    }
    const first = firstOf(code)
    const end = first + countOf(code)
    for (let t = first; t < end; t++) sweepTriangle(vertices, t, px, py, pz, dx, dy, dz, dd, rho)
  }
}
