/**
 * Queries against a flat bounding tree of triangles (built by core/geometry/tree.ts). Four boxes are looked at at once:
 * a node holds those of its four children (treeQuad). Triangles stand in the order of the leaves (treeTriangle).
 *
 * Boxes are compared in f32 with room for its rounding, so none is passed by that holds what is looked for; triangles are
 * measured in f64, for contacts rest on it.
 */
import { treeDipole, treeQuad, treeStack, treeTriangle } from './layouts'
import {
  add4, bits4, column0, column1, column2, column3, divide4, dot4, lane4, less4, load4, maximum4, multiply4, select4, splat4,
  squareRoot4, subtract4, where4, F4,
} from './lanes'
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

/** Squared distances from a place to the boxes of the children of a quad. */
export function boxDistances(quads: usize, quad: i32, x: F4, y: F4, z: F4): F4 {
  const q = quad * treeQuad.SIZE
  const none = splat4(0.0)
  const dx = maximum4(maximum4(subtract4(load4(quads, q + treeQuad.lowX), x), subtract4(x, load4(quads, q + treeQuad.highX))), none)
  const dy = maximum4(maximum4(subtract4(load4(quads, q + treeQuad.lowY), y), subtract4(y, load4(quads, q + treeQuad.highY))), none)
  const dz = maximum4(maximum4(subtract4(load4(quads, q + treeQuad.lowZ), z), subtract4(z, load4(quads, q + treeQuad.highZ))), none)
  return add4(add4(multiply4(dx, dx), multiply4(dy, dy)), multiply4(dz, dz))
}
export function childOf(quads: usize, quad: i32, lane: i32): i32 {
  return readI32(quads, quad * treeQuad.SIZE + treeQuad.child + lane)
}
/** The first triangle of a leaf, and how many it has. */
export function firstOf(leaf: i32): i32 {
  return (-1 - leaf) >> 3
}
export function countOf(leaf: i32): i32 {
  return (-1 - leaf) & 7
}

/**
 * Puts the children of a quad whose bits are set on a stack of `depth` pairs, child and squared distance, the nearest last, so that it is looked at next.
 * Returns how deep the stack is then.
 */
export function pushNearest(quads: usize, quad: i32, away: F4, children: i32, stack: usize, base: i32, depth: i32): i32 {
  const top = base + 2 * depth
  let nearest = -1
  let least = 0.0
  let pushed = depth
  for (let lane = 0, waiting = children; waiting != 0; lane++, waiting >>= 1) {
    if ((waiting & 1) == 0) continue
    const squared = lane4(away, lane)
    const at = base + 2 * pushed
    writeI32(stack, at, childOf(quads, quad, lane))
    writeF32(stack, at + 1, squared)
    pushed++
    if (nearest >= 0 && squared >= least) continue
    nearest = at
    least = squared
  }
  const last = base + 2 * (pushed - 1)
  if (last <= top || nearest == last) return pushed
  const kept = readI32(stack, last)
  const keptAway = readF32(stack, last + 1)
  writeI32(stack, last, readI32(stack, nearest))
  writeF32(stack, last + 1, least)
  writeI32(stack, nearest, kept)
  writeF32(stack, nearest + 1, keptAway)
  return pushed
}

/** What f32 may round off a place: it lies that much nearer, or farther. */
export function roundingOf(x: f64, y: f64, z: f64): f64 {
  return 2.0e-7 * ((x < 0.0 ? -x : x) + (y < 0.0 ? -y : y) + (z < 0.0 ? -z : z))
}
/** The square of a distance as boxes are compared with it. */
export function withRoom(squared: f64, rounding: f64): f64 {
  if (squared > 1.0e36) return 1.0e36
  const far = squareRoot(squared) + rounding
  return far * far * 1.000001
}

/**
 * Squared distance from a place to the nearest triangle, where that is below `most` (m²), else `most`; the place on it
 * into nearX, nearY, nearZ and its number in leaf order into nearTriangle (−1: none). Of triangles that are equally near
 * it is the first, so that nothing depends on the way through the tree. `base` is where this thread's part of `stack`
 * begins; `hint` a triangle that may be near (−1: none is known).
 */
export function nearestFrom(
  quads: usize, vertices: usize, stack: usize, base: i32, x: f64, y: f64, z: f64, most: f64, hint: i32,
): f64 {
  let best = most
  let found = -1
  let bx = 0.0
  let by = 0.0
  let bz = 0.0
  if (hint >= 0) {
    const d = closestOnTriangle(vertices, hint, x, y, z)
    if (d < best) {
      best = d
      found = hint
      bx = nearX
      by = nearY
      bz = nearZ
    }
  }
  const px = splat4(x)
  const py = splat4(y)
  const pz = splat4(z)
  const rounding = roundingOf(x, y, z)
  let limit = withRoom(best, rounding)
  let depth = 1
  writeI32(stack, base, 0)
  writeF32(stack, base + 1, 0.0)
  while (depth > 0) {
    depth--
    const code = readI32(stack, base + 2 * depth)
    if (readF32(stack, base + 2 * depth + 1) > limit) continue
    if (code < 0) {
      const first = firstOf(code)
      const end = first + countOf(code)
      for (let t = first; t < end; t++) {
        const d = closestOnTriangle(vertices, t, x, y, z)
        if (d > best || (d == best && (found < 0 || t >= found))) continue
        best = d
        found = t
        bx = nearX
        by = nearY
        bz = nearZ
      }
      limit = withRoom(best, rounding)
      continue
    }
    const away = boxDistances(quads, code, px, py, pz)
    depth = pushNearest(quads, code, away, bits4(less4(away, splat4(limit))), stack, base, depth)
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
  quads: usize, vertices: usize, stack: usize,
  outPoint: usize, outDistance: usize, outTriangle: usize, limit: f64, thread: i32,
): void {
  const base = thread * treeStack.SIZE
  let hint = -1
  for (let i = start; i < end; i++) {
    const x = readF32(queries, i * 3)
    const y = readF32(queries, i * 3 + 1)
    const z = readF32(queries, i * 3 + 2)
    const squared = nearestFrom(quads, vertices, stack, base, x, y, z, limit * limit, hint)
    const found = nearTriangle >= 0
    // queries often stand side by side
    hint = nearTriangle
    writeF32(outPoint, i * 3, found ? nearX : x)
    writeF32(outPoint, i * 3 + 1, found ? nearY : y)
    writeF32(outPoint, i * 3 + 2, found ? nearZ : z)
    writeF32(outDistance, i, found ? squareRoot(squared) : BEYOND)
    writeI32(outTriangle, i, nearTriangle)
  }
}

/** Arc tangents of y/x, from −π to π, to f32: three halvings of the angle, then the series. */
function angle4(y: F4, x: F4): F4 {
  const zero = splat4(0.0)
  const one = splat4(1.0)
  let s = maximum4(y, subtract4(zero, y))
  let c = x
  // tan(θ/2) = s / (c + r); each halving keeps θ ≥ 0 and brings it below π/8 after three
  for (let n = 0; n < 3; n++) {
    const r = squareRoot4(add4(multiply4(s, s), multiply4(c, c)))
    c = add4(c, r)
    const turned = less4(zero, c)
    // straight about, or no angle at all
    const opposite = where4(less4(zero, r), one)
    s = select4(turned, s, opposite)
    c = select4(turned, c, select4(less4(zero, opposite), zero, one))
  }
  const t = divide4(s, c)
  const t2 = multiply4(t, t)
  let sum = splat4(1.0 / 9.0)
  sum = subtract4(splat4(1.0 / 7.0), multiply4(t2, sum))
  sum = subtract4(splat4(1.0 / 5.0), multiply4(t2, sum))
  sum = subtract4(splat4(1.0 / 3.0), multiply4(t2, sum))
  sum = subtract4(one, multiply4(t2, sum))
  const result = multiply4(multiply4(splat4(8.0), t), sum)
  return select4(less4(y, zero), subtract4(zero, result), result)
}

/** Corners of up to four triangles, from p; where there are fewer the last stands for the others. */
export let cornerAx: F4 = splat4(0.0)
export let cornerAy: F4 = splat4(0.0)
export let cornerAz: F4 = splat4(0.0)
export let cornerBx: F4 = splat4(0.0)
export let cornerBy: F4 = splat4(0.0)
export let cornerBz: F4 = splat4(0.0)
export let cornerCx: F4 = splat4(0.0)
export let cornerCy: F4 = splat4(0.0)
export let cornerCz: F4 = splat4(0.0)
export function readCorners(vertices: usize, first: i32, count: i32, px: F4, py: F4, pz: F4): void {
  const o = first * treeTriangle.SIZE
  const last = (count - 1) * treeTriangle.SIZE
  const o1 = o + (last < treeTriangle.SIZE ? last : treeTriangle.SIZE)
  const o2 = o + (last < 2 * treeTriangle.SIZE ? last : 2 * treeTriangle.SIZE)
  const o3 = o + last
  // ax ay az bx, by bz cx cy, and from cz on
  const p0 = load4(vertices, o)
  const p1 = load4(vertices, o1)
  const p2 = load4(vertices, o2)
  const p3 = load4(vertices, o3)
  const q0 = load4(vertices, o + treeTriangle.by)
  const q1 = load4(vertices, o1 + treeTriangle.by)
  const q2 = load4(vertices, o2 + treeTriangle.by)
  const q3 = load4(vertices, o3 + treeTriangle.by)
  cornerAx = subtract4(column0(p0, p1, p2, p3), px)
  cornerAy = subtract4(column1(p0, p1, p2, p3), py)
  cornerAz = subtract4(column2(p0, p1, p2, p3), pz)
  cornerBx = subtract4(column3(p0, p1, p2, p3), px)
  cornerBy = subtract4(column0(q0, q1, q2, q3), py)
  cornerBz = subtract4(column1(q0, q1, q2, q3), pz)
  cornerCx = subtract4(column2(q0, q1, q2, q3), px)
  cornerCy = subtract4(column3(q0, q1, q2, q3), py)
  cornerCz = subtract4(
    column0(
      load4(vertices, o + treeTriangle.cz), load4(vertices, o1 + treeTriangle.cz),
      load4(vertices, o2 + treeTriangle.cz), load4(vertices, o3 + treeTriangle.cz),
    ),
    pz,
  )
}

/**
 * Sum of the solid angles of the triangles of a leaf as seen from p, signed, over 2.
 * Source: Van Oosterom, Strackee, "The solid angle of a plane triangle" (1983):
 * tan(Ω/2) = a·(b×c) / (|a||b||c| + (a·b)|c| + (b·c)|a| + (c·a)|b|).
 */
function halfSolidAngles(vertices: usize, first: i32, count: i32, px: F4, py: F4, pz: F4): f64 {
  readCorners(vertices, first, count, px, py, pz)
  const ax = cornerAx
  const ay = cornerAy
  const az = cornerAz
  const bx = cornerBx
  const by = cornerBy
  const bz = cornerBz
  const cx = cornerCx
  const cy = cornerCy
  const cz = cornerCz
  const la = squareRoot4(dot4(ax, ay, az, ax, ay, az))
  const lb = squareRoot4(dot4(bx, by, bz, bx, by, bz))
  const lc = squareRoot4(dot4(cx, cy, cz, cx, cy, cz))
  const nx = subtract4(multiply4(by, cz), multiply4(bz, cy))
  const ny = subtract4(multiply4(bz, cx), multiply4(bx, cz))
  const nz = subtract4(multiply4(bx, cy), multiply4(by, cx))
  const below = add4(
    add4(multiply4(multiply4(la, lb), lc), multiply4(dot4(ax, ay, az, bx, by, bz), lc)),
    add4(multiply4(dot4(bx, by, bz, cx, cy, cz), la), multiply4(dot4(cx, cy, cz, ax, ay, az), lb)),
  )
  const angles = angle4(dot4(ax, ay, az, nx, ny, nz), below)
  let sum = lane4(angles, 0)
  if (count > 1) sum += lane4(angles, 1)
  if (count > 2) sum += lane4(angles, 2)
  if (count > 3) sum += lane4(angles, 3)
  return sum
}

/**
 * Generalised winding number of each query: near 1 inside, near 0 outside, also for scans with
 * holes. Far clusters of triangles count as one dipole when the distance exceeds twice their radius.
 * Source: Barill, Dickson, Schmidt, Levin, Jacobson, "Fast winding numbers for soups and clouds"
 * (2018), first order. `dipoles`: treeDipole per quad.
 */
export function windingNumbers(
  start: i32, end: i32, queries: usize,
  quads: usize, vertices: usize, dipoles: usize, stack: usize, out: usize, thread: i32,
): void {
  const base = thread * treeStack.SIZE
  for (let i = start; i < end; i++) {
    const w = windingAt(quads, vertices, dipoles, stack, base, readF32(queries, i * 3), readF32(queries, i * 3 + 1), readF32(queries, i * 3 + 2))
    writeF32(out, i, w)
  }
}

export function windingAt(quads: usize, vertices: usize, dipoles: usize, stack: usize, base: i32, px: f64, py: f64, pz: f64): f64 {
  const x = splat4(px)
  const y = splat4(py)
  const z = splat4(pz)
  let sum = 0.0
  let depth = 1
  writeI32(stack, base, 0)
  while (depth > 0) {
    depth--
    const code = readI32(stack, base + depth)
    if (code < 0) {
      sum += 2.0 * halfSolidAngles(vertices, firstOf(code), countOf(code), x, y, z)
      continue
    }
    const d = code * treeDipole.SIZE
    const dx = subtract4(load4(dipoles, d + treeDipole.x), x)
    const dy = subtract4(load4(dipoles, d + treeDipole.y), y)
    const dz = subtract4(load4(dipoles, d + treeDipole.z), z)
    const reach = multiply4(splat4(2.0), load4(dipoles, d + treeDipole.radius))
    const squared = dot4(dx, dy, dz, dx, dy, dz)
    const far = less4(multiply4(reach, reach), squared)
    const along = dot4(
      dx, dy, dz,
      load4(dipoles, d + treeDipole.normalX), load4(dipoles, d + treeDipole.normalY), load4(dipoles, d + treeDipole.normalZ),
    )
    const seen = where4(far, divide4(along, multiply4(squared, squareRoot4(squared))))
    sum += lane4(seen, 0) + lane4(seen, 1) + (lane4(seen, 2) + lane4(seen, 3))
    const close = 15 & ~bits4(far)
    for (let lane = 0; lane < 4; lane++) {
      if (((close >> lane) & 1) == 0) continue
      const child = childOf(quads, code, lane)
      if (child < 0 && countOf(child) == 0) continue
      writeI32(stack, base + depth, child)
      depth++
    }
  }
  return sum * 0.07957747154594767
}
