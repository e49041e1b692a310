/** Straight lines through the triangles of a flat bounding tree (see tree.ts): whether they pass through any, and which they meet first. */
import { treeQuad, treeStack, treeTriangle } from './layouts'
import { add4, and4, atLeast4, bits4, load4, maximum4, minimum4, multiply4, splat4, subtract4, F4 } from './lanes'
import { readF32, readI32, writeF32, writeI32 } from './machine'
import { pushChildren } from './sweep'
import { countOf, firstOf } from './tree'

/** A line as boxes are asked for it: where it starts, 1 over its way along each axis, as far as what it has met, and what f32 rounds off. */
let fromX: F4 = splat4(0.0)
let fromY: F4 = splat4(0.0)
let fromZ: F4 = splat4(0.0)
let perX: F4 = splat4(0.0)
let perY: F4 = splat4(0.0)
let perZ: F4 = splat4(0.0)
let room: F4 = splat4(0.0)
let latest: f64 = 1.0

function absolute(a: f64): f64 {
  return a < 0.0 ? -a : a
}
/** 1 over a part of a way; of one that is as good as none a large number: in f32, with places in kilometres, still finite. */
function per(d: f64): f64 {
  if (absolute(d) > 1.0e-25) return 1.0 / d
  return d < 0.0 ? -1.0e25 : 1.0e25
}
function setOut(px: f64, py: f64, pz: f64, dx: f64, dy: f64, dz: f64): void {
  fromX = splat4(px)
  fromY = splat4(py)
  fromZ = splat4(pz)
  perX = splat4(per(dx))
  perY = splat4(per(dy))
  perZ = splat4(per(dz))
  room = splat4(4.0e-7 * (absolute(px) + absolute(py) + absolute(pz) + absolute(dx) + absolute(dy) + absolute(dz)))
  latest = 1.0
}

/**
 * Children of a quad whose boxes the line passes through before what it has met so far: a bit for each.
 * Source: Kay, Kajiya, "Ray tracing complex scenes" (1986): it is between the two planes of every axis at once.
 */
function boxesOnWay(quads: usize, quad: i32): i32 {
  const q = quad * treeQuad.SIZE
  const lowX = multiply4(subtract4(subtract4(load4(quads, q + treeQuad.lowX), room), fromX), perX)
  const highX = multiply4(subtract4(add4(load4(quads, q + treeQuad.highX), room), fromX), perX)
  const lowY = multiply4(subtract4(subtract4(load4(quads, q + treeQuad.lowY), room), fromY), perY)
  const highY = multiply4(subtract4(add4(load4(quads, q + treeQuad.highY), room), fromY), perY)
  const lowZ = multiply4(subtract4(subtract4(load4(quads, q + treeQuad.lowZ), room), fromZ), perZ)
  const highZ = multiply4(subtract4(add4(load4(quads, q + treeQuad.highZ), room), fromZ), perZ)
  const first = maximum4(maximum4(minimum4(lowX, highX), minimum4(lowY, highY)), minimum4(lowZ, highZ))
  const last = minimum4(minimum4(maximum4(lowX, highX), maximum4(lowY, highY)), maximum4(lowZ, highZ))
  const within = and4(atLeast4(last, maximum4(first, splat4(0.0))), atLeast4(splat4(latest), first))
  return bits4(within)
}

/** A share of the way at which nothing is met. */
const NOWHERE: f64 = 2.0

/** At what share of the way from p by d it passes through a triangle, from either side. Source: Möller, Trumbore (1997). */
function pierceTime(vertices: usize, triangle: i32, px: f64, py: f64, pz: f64, dx: f64, dy: f64, dz: f64): f64 {
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
  if (det == 0.0) return NOWHERE
  const sx = px - ax
  const sy = py - ay
  const sz = pz - az
  const b = (sx * hx + sy * hy + sz * hz) / det
  if (b < 0.0 || b > 1.0) return NOWHERE
  const qx = sy * uz - sz * uy
  const qy = sz * ux - sx * uz
  const qz = sx * uy - sy * ux
  const c = (dx * qx + dy * qy + dz * qz) / det
  if (c < 0.0 || b + c > 1.0) return NOWHERE
  const t = (vx * qx + vy * qy + vz * qz) / det
  return t >= 0.0 && t <= 1.0 ? t : NOWHERE
}

/** The triangle that was met, in leaf order; −1: none. */
let found: i32 = -1

/**
 * The share of the way from p by d at which it first meets a triangle, of those that are met at once the first, and the triangle into `found`; where
 * `any` will do, that of the first one that comes up.
 */
function firstMet(
  quads: usize, vertices: usize, stack: usize, base: i32,
  px: f64, py: f64, pz: f64, dx: f64, dy: f64, dz: f64, any: bool,
): f64 {
  let best = NOWHERE
  found = -1
  // boxes are looked at as far as the earliest so far
  setOut(px, py, pz, dx, dy, dz)
  let depth = 1
  writeI32(stack, base, 0)
  while (depth > 0) {
    depth--
    const code = readI32(stack, base + depth)
    if (code >= 0) {
      depth = pushChildren(quads, code, boxesOnWay(quads, code), stack, base, depth)
      continue
    }
    const first = firstOf(code)
    const end = first + countOf(code)
    for (let t = first; t < end; t++) {
      const time = pierceTime(vertices, t, px, py, pz, dx, dy, dz)
      if (time > best || (time == best && (found < 0 || t >= found))) continue
      best = time
      found = t
      latest = time
      if (any) return best
    }
  }
  return best
}

/** Whether the straight line from p by d passes through a triangle. */
export function piercesTree(
  quads: usize, vertices: usize, stack: usize, base: i32,
  px: f64, py: f64, pz: f64, dx: f64, dy: f64, dz: f64,
): boolean {
  return firstMet(quads, vertices, stack, base, px, py, pz, dx, dy, dz, true) <= 1.0
}

/**
 * Where rays (places and ways, 3 × f32 each) first meet a triangle: the share of the way, 2 where they meet none, and the triangle in leaf order
 * (−1). Of triangles that are met at once it is the first. `stack` is scratch of treeStack.SIZE i32 per thread.
 */
export function castRays(
  start: i32, end: i32, origins: usize, ways: usize,
  quads: usize, vertices: usize, stack: usize, outShare: usize, outTriangle: usize, thread: i32,
): void {
  const base = thread * treeStack.SIZE
  for (let i = start; i < end; i++) {
    const px = readF32(origins, i * 3)
    const py = readF32(origins, i * 3 + 1)
    const pz = readF32(origins, i * 3 + 2)
    const dx = readF32(ways, i * 3)
    const dy = readF32(ways, i * 3 + 1)
    const dz = readF32(ways, i * 3 + 2)
    writeF32(outShare, i, firstMet(quads, vertices, stack, base, px, py, pz, dx, dy, dz, false))
    writeI32(outTriangle, i, found)
  }
}
