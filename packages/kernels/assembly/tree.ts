/**
 * Queries against a flat bounding tree of triangles (built by core/geometry/tree.ts).
 *
 * Node n: bounds at 6·n (min, max; f32); links at 2·n (i32): an inner node has (left child, right
 * child), a leaf (−1 − first triangle, count). Triangles stand in leaf order, 9 f32 each.
 */
import { treeBounds, treeStack, treeTriangle } from './layouts'
import { readF32, readI32, squareRoot, writeF32, writeI32 } from './machine'

/** The place and the triangle that were found last. */
export let nearX: f64 = 0.0
export let nearY: f64 = 0.0
export let nearZ: f64 = 0.0
export let nearTriangle: i32 = -1

/**
 * Closest point of triangle t to p, into nearX, nearY, nearZ; returns the squared distance.
 * Source: Ericson, "Real-Time Collision Detection" (2005), §5.1.5: the Voronoi regions of the
 * vertices, edges and face in turn.
 */
export function closestOnTriangle(vertices: usize, t: i32, px: f64, py: f64, pz: f64): f64 {
  const o = t * treeTriangle.SIZE
  const ax = readF32(vertices, o + treeTriangle.ax)
  const ay = readF32(vertices, o + treeTriangle.ay)
  const az = readF32(vertices, o + treeTriangle.az)
  const abx = readF32(vertices, o + treeTriangle.bx) - ax
  const aby = readF32(vertices, o + treeTriangle.by) - ay
  const abz = readF32(vertices, o + treeTriangle.bz) - az
  const acx = readF32(vertices, o + treeTriangle.cx) - ax
  const acy = readF32(vertices, o + treeTriangle.cy) - ay
  const acz = readF32(vertices, o + treeTriangle.cz) - az
  const apx = px - ax
  const apy = py - ay
  const apz = pz - az
  const d1 = abx * apx + aby * apy + abz * apz
  const d2 = acx * apx + acy * apy + acz * apz
  const bb = abx * abx + aby * aby + abz * abz
  const bc = abx * acx + aby * acy + abz * acz
  const cc = acx * acx + acy * acy + acz * acz
  const d3 = d1 - bb
  const d4 = d2 - bc
  const d5 = d1 - bc
  const d6 = d2 - cc
  let v = 0.0
  let w = 0.0
  const vc = d1 * d4 - d3 * d2
  const vb = d5 * d2 - d1 * d6
  const va = d3 * d6 - d5 * d4
  if (d1 <= 0.0 && d2 <= 0.0) {
    v = 0.0
  } else if (d3 >= 0.0 && d4 <= d3) {
    v = 1.0
  } else if (vc <= 0.0 && d1 >= 0.0 && d3 <= 0.0) {
    v = d1 / (d1 - d3)
  } else if (d6 >= 0.0 && d5 <= d6) {
    w = 1.0
  } else if (vb <= 0.0 && d2 >= 0.0 && d6 <= 0.0) {
    w = d2 / (d2 - d6)
  } else if (va <= 0.0 && d4 - d3 >= 0.0 && d5 - d6 >= 0.0) {
    w = (d4 - d3) / (d4 - d3 + (d5 - d6))
    v = 1.0 - w
  } else {
    const scale = 1.0 / (va + vb + vc)
    v = vb * scale
    w = vc * scale
  }
  nearX = ax + abx * v + acx * w
  nearY = ay + aby * v + acy * w
  nearZ = az + abz * v + acz * w
  const dx = px - nearX
  const dy = py - nearY
  const dz = pz - nearZ
  return dx * dx + dy * dy + dz * dz
}

function outside(low: f64, high: f64, p: f64): f64 {
  return p < low ? low - p : p > high ? p - high : 0.0
}
function boxDistance(bounds: usize, node: i32, x: f64, y: f64, z: f64): f64 {
  const b = node * treeBounds.SIZE
  const dx = outside(readF32(bounds, b), readF32(bounds, b + 3), x)
  const dy = outside(readF32(bounds, b + 1), readF32(bounds, b + 4), y)
  const dz = outside(readF32(bounds, b + 2), readF32(bounds, b + 5), z)
  return dx * dx + dy * dy + dz * dz
}

/**
 * Squared distance from a place to the nearest triangle, where that is below `most` (m²), else `most`; the place on it
 * into nearX, nearY, nearZ and its number in leaf order into nearTriangle (−1: none). `base` is where this thread's
 * part of `stack` begins.
 */
export function nearestFrom(
  bounds: usize, links: usize, vertices: usize, stack: usize, base: i32, x: f64, y: f64, z: f64, most: f64,
): f64 {
  let best = most
  let found = -1
  let bx = 0.0
  let by = 0.0
  let bz = 0.0
  let depth = 1
  writeI32(stack, base, 0)
  while (depth > 0) {
    depth--
    const node = readI32(stack, base + depth)
    if (boxDistance(bounds, node, x, y, z) >= best) continue
    const left = readI32(links, node * 2)
    const right = readI32(links, node * 2 + 1)
    if (left < 0) {
      const first = -1 - left
      for (let t = first; t < first + right; t++) {
        const d = closestOnTriangle(vertices, t, x, y, z)
        if (d < best) {
          best = d
          found = t
          bx = nearX
          by = nearY
          bz = nearZ
        }
      }
    } else {
      const dl = boxDistance(bounds, left, x, y, z)
      const dr = boxDistance(bounds, right, x, y, z)
      // the nearer child is popped first
      writeI32(stack, base + depth, dl < dr ? right : left)
      writeI32(stack, base + depth + 1, dl < dr ? left : right)
      depth += 2
    }
  }
  nearX = bx
  nearY = by
  nearZ = bz
  nearTriangle = found
  return best
}

/** Distance of what is farther than it was looked for, metres. */
const BEYOND: f64 = 1.0e30

/**
 * Closest surface point of each query (3 × f32): the point, the distance in metres and the triangle
 * (in leaf order). Beyond `limit` (metres) the surface is not looked for: the distance is BEYOND then, the triangle −1
 * and the point the query. (Were it the limit, rounded to f32, half of what is out of reach would seem to be in it.)
 * `stack` is scratch of treeStack.SIZE i32 per thread.
 */
export function closestPoints(
  start: i32, end: i32, queries: usize,
  bounds: usize, links: usize, vertices: usize, stack: usize,
  outPoint: usize, outDistance: usize, outTriangle: usize, limit: f64, thread: i32,
): void {
  const base = thread * treeStack.SIZE
  for (let i = start; i < end; i++) {
    const x = readF32(queries, i * 3)
    const y = readF32(queries, i * 3 + 1)
    const z = readF32(queries, i * 3 + 2)
    const squared = nearestFrom(bounds, links, vertices, stack, base, x, y, z, limit * limit)
    const found = nearTriangle >= 0
    writeF32(outPoint, i * 3, found ? nearX : x)
    writeF32(outPoint, i * 3 + 1, found ? nearY : y)
    writeF32(outPoint, i * 3 + 2, found ? nearZ : z)
    writeF32(outDistance, i, found ? squareRoot(squared) : BEYOND)
    writeI32(outTriangle, i, nearTriangle)
  }
}

/** Our own arc tangent of y/x, from −π to π, to 1e-11: three halvings of the angle, then the series. */
function angle(y: f64, x: f64): f64 {
  let s = y < 0.0 ? -y : y
  let c = x
  let scale = 1.0
  // tan(θ/2) = s / (c + r); each halving keeps θ ≥ 0 and brings it below π/8 after three
  for (let n = 0; n < 3; n++) {
    const r = squareRoot(s * s + c * c)
    if (r == 0.0) return 0.0
    c = c + r
    scale *= 2.0
    if (c <= 0.0) {
      s = 1.0
      c = 0.0
    }
  }
  const t = s / c
  const t2 = t * t
  let term = t
  let sum = t
  for (let n = 1; n < 12; n++) {
    term *= -t2
    sum += term / <f64>(2 * n + 1)
  }
  const result = sum * scale
  return y < 0.0 ? -result : result
}

/**
 * Solid angle of triangle t seen from p, signed.
 * Source: Van Oosterom, Strackee, "The solid angle of a plane triangle" (1983):
 * tan(Ω/2) = a·(b×c) / (|a||b||c| + (a·b)|c| + (b·c)|a| + (c·a)|b|).
 */
function solidAngle(vertices: usize, t: i32, px: f64, py: f64, pz: f64): f64 {
  const o = t * treeTriangle.SIZE
  const ax = readF32(vertices, o + treeTriangle.ax) - px
  const ay = readF32(vertices, o + treeTriangle.ay) - py
  const az = readF32(vertices, o + treeTriangle.az) - pz
  const bx = readF32(vertices, o + treeTriangle.bx) - px
  const by = readF32(vertices, o + treeTriangle.by) - py
  const bz = readF32(vertices, o + treeTriangle.bz) - pz
  const cx = readF32(vertices, o + treeTriangle.cx) - px
  const cy = readF32(vertices, o + treeTriangle.cy) - py
  const cz = readF32(vertices, o + treeTriangle.cz) - pz
  const la = squareRoot(ax * ax + ay * ay + az * az)
  const lb = squareRoot(bx * bx + by * by + bz * bz)
  const lc = squareRoot(cx * cx + cy * cy + cz * cz)
  const triple = ax * (by * cz - bz * cy) + ay * (bz * cx - bx * cz) + az * (bx * cy - by * cx)
  const below = la * lb * lc +
    (ax * bx + ay * by + az * bz) * lc + (bx * cx + by * cy + bz * cz) * la + (cx * ax + cy * ay + cz * az) * lb
  return 2.0 * angle(triple, below)
}

/**
 * Generalised winding number of each query: near 1 inside, near 0 outside, also for scans with
 * holes. Far clusters of triangles count as one dipole when the distance exceeds twice their radius.
 * Source: Barill, Dickson, Schmidt, Levin, Jacobson, "Fast winding numbers for soups and clouds"
 * (2018), first order. `dipoles`: 7 f32 per node: centre, radius, area-weighted normal.
 */
export function windingNumbers(
  start: i32, end: i32, queries: usize,
  links: usize, vertices: usize, dipoles: usize, stack: usize, out: usize, thread: i32,
): void {
  const base = thread * treeStack.SIZE
  for (let i = start; i < end; i++) {
    const x = readF32(queries, i * 3)
    const y = readF32(queries, i * 3 + 1)
    const z = readF32(queries, i * 3 + 2)
    let sum = 0.0
    let depth = 1
    writeI32(stack, base, 0)
    while (depth > 0) {
      depth--
      const node = readI32(stack, base + depth)
      const d = node * 7
      const dx = readF32(dipoles, d) - x
      const dy = readF32(dipoles, d + 1) - y
      const dz = readF32(dipoles, d + 2) - z
      const reach = 2.0 * readF32(dipoles, d + 3)
      const squared = dx * dx + dy * dy + dz * dz
      if (squared > reach * reach) {
        const dot = dx * readF32(dipoles, d + 4) + dy * readF32(dipoles, d + 5) + dz * readF32(dipoles, d + 6)
        sum += dot / (squared * squareRoot(squared))
        continue
      }
      const left = readI32(links, node * 2)
      const right = readI32(links, node * 2 + 1)
      if (left < 0) {
        const first = -1 - left
        for (let t = first; t < first + right; t++) sum += solidAngle(vertices, t, x, y, z)
      } else {
        writeI32(stack, base + depth, right)
        writeI32(stack, base + depth + 1, left)
        depth += 2
      }
    }
    writeF32(out, i, sum * 0.07957747154594767)
  }
}
