/**
 * Swirls: the curl of noise on the simplex lattice, and that noise itself.
 *
 * Every lattice point c has a random unit vector q. With d = x − c and t = ½ − d·d (where positive)
 *
 *   ψ(x) = Σ_c t⁴·(q × d)            the vector potential
 *   u    = ∇ × ψ = Σ_c 2t⁴·q + ∇(t⁴) × (q × d),   ∇(t⁴) = −8t³·d
 *        = Σ_c (2t⁴ − 8t³·d·d)·q + 8t³·(d·q)·d     by d × (q × d) = q·(d·d) − d·(d·q)
 *   n    = Σ_c t⁴·(d·q)              scalar gradient noise, for nothing more
 *
 * u has no divergence because ψ is three times differentiable and the derivatives here are exact.
 * Sources: Bridson, Houriham, Nordenstam, "Curl-noise for procedural fluid flow" (2007); Perlin,
 * "Noise hardware" (2001) for the simplex lattice; Perlin, Neyret, "Flow noise" (2001) for turning
 * the vectors to let the field change over time.
 *
 * The vectors stand in a table of 256 rows of 4 f32 (the last of no use) that the caller turns once per substep.
 * Four points are treated at a time (lanes.ts). Tried, per point of three octaves: one by one in f64 464 ns; four f32
 * with a loop over the corners 97; written out 72; a smaller table by swizzle, fewer rounds of the hash: no gain. Cubic
 * lattice, three gradients a corner (72 impulses, 8 corners): a whole bake of turbulent dust took 2.3 times as long.
 * Not tried: 4D noise for the change over time, which visits more corners.
 */
import {
  add4, addI4, and4, any4, atLeast4, column0, column1, column2, floor4, less4, maximum4, minimum4, multiply4,
  multiplyI4, or4, row4, shiftRight4, splat4, splatI4, squareRoot4, subtract4, toI4, where4, xor4,
  F4, I4,
} from './lanes'

/** Curl and noise of the last call of `simplexCurl` or `cellularCurlAt`. */
export let curlX: F4 = splat4(0.0)
export let curlY: F4 = splat4(0.0)
export let curlZ: F4 = splat4(0.0)
export let noise: F4 = splat4(0.0)

const PRIME_X: i32 = 0x2c1b3c6d
const PRIME_Y: i32 = 0x297a2d39
const PRIME_Z: i32 = 0x1b56c4e9
const SKEW: f64 = 0.3333333333333333
const UNSKEW: f64 = 0.16666666666666666

/**
 * Rows of a table from the coordinates of lattice points, each times its prime. They are added: joined by "exclusive or", as many do, a third
 * of the points (i, j, k) and (i, −j, −k) had the same row, for −b = b ^ 111…110 where b is odd, and fields were like their own image.
 */
function rowsOf(x: I4, y: I4, z: I4): I4 {
  let h = addI4(addI4(x, y), z)
  h = multiplyI4(xor4(h, shiftRight4(h, 15)), splatI4(0x2c1b3c6d))
  h = multiplyI4(xor4(h, shiftRight4(h, 13)), splatI4(0x297a2d39))
  return and4(xor4(h, shiftRight4(h, 16)), splatI4(255))
}

/** Adds what a lattice point gives: d from it to the point in question, and the row of its vector. */
function addCorner(table: usize, dx: F4, dy: F4, dz: F4, row: I4): void {
  const q0 = row4(table, row, 0)
  const q1 = row4(table, row, 1)
  const q2 = row4(table, row, 2)
  const q3 = row4(table, row, 3)
  const qx = column0(q0, q1, q2, q3)
  const qy = column1(q0, q1, q2, q3)
  const qz = column2(q0, q1, q2, q3)
  const squared = add4(add4(multiply4(dx, dx), multiply4(dy, dy)), multiply4(dz, dz))
  const t = maximum4(subtract4(splat4(0.5), squared), splat4(0.0))
  const t3 = multiply4(multiply4(t, t), t)
  const dot = add4(add4(multiply4(dx, qx), multiply4(dy, qy)), multiply4(dz, qz))
  const alongQ = multiply4(t3, subtract4(add4(t, t), multiply4(splat4(8.0), squared)))
  const alongD = multiply4(multiply4(splat4(8.0), t3), dot)
  curlX = add4(curlX, add4(multiply4(alongQ, qx), multiply4(alongD, dx)))
  curlY = add4(curlY, add4(multiply4(alongQ, qy), multiply4(alongD, dy)))
  curlZ = add4(curlZ, add4(multiply4(alongQ, qz), multiply4(alongD, dz)))
  noise = add4(noise, multiply4(multiply4(t3, t), dot))
}

/** Sets curlX, curlY, curlZ and noise at four places (x, y, z), in lattice units. */
export function simplexCurl(table: usize, x: F4, y: F4, z: F4): void {
  const skew = multiply4(add4(add4(x, y), z), splat4(SKEW))
  const fx = floor4(add4(x, skew))
  const fy = floor4(add4(y, skew))
  const fz = floor4(add4(z, skew))
  const back = multiply4(add4(add4(fx, fy), fz), splat4(UNSKEW))
  const x0 = add4(subtract4(x, fx), back)
  const y0 = add4(subtract4(y, fy), back)
  const z0 = add4(subtract4(z, fz), back)
  const px = splatI4(PRIME_X)
  const py = splatI4(PRIME_Y)
  const pz = splatI4(PRIME_Z)
  const hx = multiplyI4(toI4(fx), px)
  const hy = multiplyI4(toI4(fy), py)
  const hz = multiplyI4(toI4(fz), pz)
  // the walk through the simplex goes along the largest coordinate first, then along the second
  const xy = atLeast4(x0, y0)
  const xz = atLeast4(x0, z0)
  const yz = atLeast4(y0, z0)
  const largestX = and4(xy, xz)
  const largestY = and4(xor4(xy, splatI4(-1)), yz)
  const largestZ = xor4(or4(xz, yz), splatI4(-1))
  const notLeastX = or4(xy, xz)
  const notLeastY = or4(xor4(xy, splatI4(-1)), yz)
  const notLeastZ = xor4(and4(xz, yz), splatI4(-1))
  const unit = splat4(1.0)
  const once = splat4(UNSKEW)
  const twice = splat4(2.0 * UNSKEW)
  const thrice = splat4(3.0 * UNSKEW - 1.0)
  curlX = splat4(0.0)
  curlY = splat4(0.0)
  curlZ = splat4(0.0)
  noise = splat4(0.0)
  addCorner(table, x0, y0, z0, rowsOf(hx, hy, hz))
  addCorner(
    table,
    add4(subtract4(x0, where4(largestX, unit)), once),
    add4(subtract4(y0, where4(largestY, unit)), once),
    add4(subtract4(z0, where4(largestZ, unit)), once),
    rowsOf(addI4(hx, and4(largestX, px)), addI4(hy, and4(largestY, py)), addI4(hz, and4(largestZ, pz))),
  )
  addCorner(
    table,
    add4(subtract4(x0, where4(notLeastX, unit)), twice),
    add4(subtract4(y0, where4(notLeastY, unit)), twice),
    add4(subtract4(z0, where4(notLeastZ, unit)), twice),
    rowsOf(addI4(hx, and4(notLeastX, px)), addI4(hy, and4(notLeastY, py)), addI4(hz, and4(notLeastZ, pz))),
  )
  addCorner(
    table,
    add4(x0, thrice),
    add4(y0, thrice),
    add4(z0, thrice),
    rowsOf(addI4(hx, px), addI4(hy, py), addI4(hz, pz)),
  )
}

/** From four places to the point scattered in the cell (cx, cy, cz) + (i, j, k), and the row of its vector. */
let dx: F4 = splat4(0.0)
let dy: F4 = splat4(0.0)
let dz: F4 = splat4(0.0)
let squared: F4 = splat4(0.0)
let cellRow: I4 = splatI4(0)

/** (ux, uy, uz): the places within their own cells, 0 to 1. The vectors are unit: halved, they keep each point in its cell. */
function lookAtCell(table: usize, ux: F4, uy: F4, uz: F4, cx: I4, cy: I4, cz: I4, i: i32, j: i32, k: i32): void {
  cellRow = rowsOf(
    multiplyI4(addI4(cx, splatI4(i)), splatI4(PRIME_X)),
    multiplyI4(addI4(cy, splatI4(j)), splatI4(PRIME_Y)),
    multiplyI4(addI4(cz, splatI4(k)), splatI4(PRIME_Z)),
  )
  const q0 = row4(table, cellRow, 0)
  const q1 = row4(table, cellRow, 1)
  const q2 = row4(table, cellRow, 2)
  const q3 = row4(table, cellRow, 3)
  const half = splat4(0.5)
  dx = subtract4(subtract4(ux, splat4(<f64>i + 0.5)), multiply4(half, column0(q0, q1, q2, q3)))
  dy = subtract4(subtract4(uy, splat4(<f64>j + 0.5)), multiply4(half, column1(q0, q1, q2, q3)))
  dz = subtract4(subtract4(uz, splat4(<f64>k + 0.5)), multiply4(half, column2(q0, q1, q2, q3)))
  squared = add4(add4(multiply4(dx, dx), multiply4(dy, dy)), multiply4(dz, dz))
}

/**
 * Cellular noise: distance to the nearest of the points scattered one in each unit cell, 0 … 1 (beyond 1
 * cut). Source: Worley, "A cellular texture basis function" (1996). The scatter takes the vectors of the
 * table, so it moves as they turn.
 */
export function cellular(table: usize, x: F4, y: F4, z: F4): F4 {
  const fx = floor4(x)
  const fy = floor4(y)
  const fz = floor4(z)
  let best = splat4(1.0)
  for (let i = -1; i <= 1; i++) {
    for (let j = -1; j <= 1; j++) {
      for (let k = -1; k <= 1; k++) {
        lookAtCell(table, subtract4(x, fx), subtract4(y, fy), subtract4(z, fz), toI4(fx), toI4(fy), toI4(fz), i, j, k)
        best = minimum4(best, squared)
      }
    }
  }
  return squareRoot4(best)
}

/**
 * Curl of a cellular potential, into curlX, curlY, curlZ: a whirl about each of the points scattered one in each
 * unit cell, P = Σ (1 − r²)³·n over the points nearer than 1, each with an axis n of its own, so
 *   curl P = Σ −6·(1 − r²)²·(x − c) × n
 * Sources: the points of Worley (1996), the curl of Bridson et al. (2007). `axes` is a second table.
 */
export function cellularCurlAt(table: usize, axes: usize, x: F4, y: F4, z: F4): void {
  const fx = floor4(x)
  const fy = floor4(y)
  const fz = floor4(z)
  curlX = splat4(0.0)
  curlY = splat4(0.0)
  curlZ = splat4(0.0)
  for (let i = -1; i <= 1; i++) {
    for (let j = -1; j <= 1; j++) {
      for (let k = -1; k <= 1; k++) {
        lookAtCell(table, subtract4(x, fx), subtract4(y, fy), subtract4(z, fz), toI4(fx), toI4(fy), toI4(fz), i, j, k)
        const t = subtract4(splat4(1.0), squared)
        const near = less4(splat4(0.0), t)
        if (!any4(near)) continue
        const gain = where4(near, multiply4(splat4(-6.0), multiply4(t, t)))
        const n0 = row4(axes, cellRow, 0)
        const n1 = row4(axes, cellRow, 1)
        const n2 = row4(axes, cellRow, 2)
        const n3 = row4(axes, cellRow, 3)
        const nx = column0(n0, n1, n2, n3)
        const ny = column1(n0, n1, n2, n3)
        const nz = column2(n0, n1, n2, n3)
        curlX = add4(curlX, multiply4(gain, subtract4(multiply4(dy, nz), multiply4(dz, ny))))
        curlY = add4(curlY, multiply4(gain, subtract4(multiply4(dz, nx), multiply4(dx, nz))))
        curlZ = add4(curlZ, multiply4(gain, subtract4(multiply4(dx, ny), multiply4(dy, nx))))
      }
    }
  }
}
