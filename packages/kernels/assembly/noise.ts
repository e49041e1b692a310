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
 * The vectors stand in a table of 256 × 3 f64 that the caller turns once per substep.
 * Tried: cubic lattice, three gradients a corner (72 impulses, 8 corners): a whole bake of turbulent dust
 * took 2.3 times as long. Not tried: 4D noise for the change over time, which visits more corners.
 */
import { addWrapping, atLeast, floor, maximum, multiplyLow, readF64, shiftRight, squareRoot, truncate } from './machine'

/** Curl and noise of the last call of `simplexCurl`. */
export let curlX: f64 = 0.0
export let curlY: f64 = 0.0
export let curlZ: f64 = 0.0
export let noise: f64 = 0.0

const PRIME_X: i32 = 0x2c1b3c6d
const PRIME_Y: i32 = 0x297a2d39
const PRIME_Z: i32 = 0x1b56c4e9
const SKEW: f64 = 0.3333333333333333
const UNSKEW: f64 = 0.16666666666666666

/** 1 from three on, 0 below; for 0 … 5. */
function third(a: i32): i32 {
  return (a * 11) >> 5
}

/** Sets curlX, curlY, curlZ and noise at (x, y, z), in lattice units. */
export function simplexCurl(table: usize, x: f64, y: f64, z: f64): void {
  const skew = (x + y + z) * SKEW
  const fx = floor(x + skew)
  const fy = floor(y + skew)
  const fz = floor(z + skew)
  const back = (fx + fy + fz) * UNSKEW
  const x0 = x - fx + back
  const y0 = y - fy + back
  const z0 = z - fz + back
  const hx = multiplyLow(truncate(fx), PRIME_X)
  const hy = multiplyLow(truncate(fy), PRIME_Y)
  const hz = multiplyLow(truncate(fz), PRIME_Z)
  // the walk through the simplex goes along the largest coordinate first
  const rankX = atLeast(x0, y0) + atLeast(x0, z0)
  const rankY = 1 - atLeast(x0, y0) + atLeast(y0, z0)
  const rankZ = 2 - atLeast(x0, z0) - atLeast(y0, z0)
  let ux = 0.0
  let uy = 0.0
  let uz = 0.0
  let n = 0.0
  // no branches: on scattered particles none could be predicted (a third of the time, measured)
  for (let c = 0; c < 4; c++) {
    const ix = third(rankX + c)
    const iy = third(rankY + c)
    const iz = third(rankZ + c)
    const shift = <f64>c * UNSKEW
    const dx = x0 - <f64>ix + shift
    const dy = y0 - <f64>iy + shift
    const dz = z0 - <f64>iz + shift
    const squared = dx * dx + dy * dy + dz * dz
    const t = maximum(0.5 - squared, 0.0)
    let h = addWrapping(hx, PRIME_X & -ix) ^ addWrapping(hy, PRIME_Y & -iy) ^ addWrapping(hz, PRIME_Z & -iz)
    h = multiplyLow(h ^ shiftRight(h, 15), 0x2c1b3c6d)
    h = multiplyLow(h ^ shiftRight(h, 13), 0x297a2d39)
    const entry = ((h ^ shiftRight(h, 16)) & 255) * 3
    const qx = readF64(table, entry)
    const qy = readF64(table, entry + 1)
    const qz = readF64(table, entry + 2)
    const t3 = t * t * t
    const dot = dx * qx + dy * qy + dz * qz
    const alongQ = t3 * (2.0 * t - 8.0 * squared)
    const alongD = 8.0 * t3 * dot
    ux += alongQ * qx + alongD * dx
    uy += alongQ * qy + alongD * dy
    uz += alongQ * qz + alongD * dz
    n += t3 * t * dot
  }
  curlX = ux
  curlY = uy
  curlZ = uz
  noise = n
}

/** Place in a table of the vector that belongs to a cell. */
function entryOf(x: i32, y: i32, z: i32): i32 {
  let h = multiplyLow(x, PRIME_X) ^ multiplyLow(y, PRIME_Y) ^ multiplyLow(z, PRIME_Z)
  h = multiplyLow(h ^ shiftRight(h, 15), 0x2c1b3c6d)
  h = multiplyLow(h ^ shiftRight(h, 13), 0x297a2d39)
  return ((h ^ shiftRight(h, 16)) & 255) * 3
}

/**
 * Cellular noise: distance to the nearest of the points scattered one in each unit cell, 0 … 1 (beyond 1
 * cut). Source: Worley, "A cellular texture basis function" (1996). The scatter takes the vectors of the
 * table, so it moves as they turn.
 */
export function cellular(table: usize, x: f64, y: f64, z: f64): f64 {
  const cx = floor(x)
  const cy = floor(y)
  const cz = floor(z)
  let best = 1.0
  for (let i = -1; i <= 1; i++) {
    for (let j = -1; j <= 1; j++) {
      for (let k = -1; k <= 1; k++) {
        const entry = entryOf(truncate(cx) + i, truncate(cy) + j, truncate(cz) + k)
        // the vectors are unit: halved, they keep each point within its cell
        const dx = cx + <f64>i + 0.5 + 0.5 * readF64(table, entry) - x
        const dy = cy + <f64>j + 0.5 + 0.5 * readF64(table, entry + 1) - y
        const dz = cz + <f64>k + 0.5 + 0.5 * readF64(table, entry + 2) - z
        const squared = dx * dx + dy * dy + dz * dz
        if (squared < best) best = squared
      }
    }
  }
  return squareRoot(best)
}

/**
 * Curl of a cellular potential, into curlX, curlY, curlZ: a whirl about each of the points scattered one in each
 * unit cell, P = Σ (1 − r²)³·n over the points nearer than 1, each with an axis n of its own, so
 *   curl P = Σ −6·(1 − r²)²·(x − c) × n
 * Sources: the points of Worley (1996), the curl of Bridson et al. (2007). `axes` is a second table.
 */
export function cellularCurlAt(table: usize, axes: usize, x: f64, y: f64, z: f64): void {
  const cx = floor(x)
  const cy = floor(y)
  const cz = floor(z)
  curlX = 0.0
  curlY = 0.0
  curlZ = 0.0
  for (let i = -1; i <= 1; i++) {
    for (let j = -1; j <= 1; j++) {
      for (let k = -1; k <= 1; k++) {
        const entry = entryOf(truncate(cx) + i, truncate(cy) + j, truncate(cz) + k)
        const dx = x - cx - <f64>i - 0.5 - 0.5 * readF64(table, entry)
        const dy = y - cy - <f64>j - 0.5 - 0.5 * readF64(table, entry + 1)
        const dz = z - cz - <f64>k - 0.5 - 0.5 * readF64(table, entry + 2)
        const t = 1.0 - dx * dx - dy * dy - dz * dz
        if (t <= 0.0) continue
        const gain = -6.0 * t * t
        const nx = readF64(axes, entry)
        const ny = readF64(axes, entry + 1)
        const nz = readF64(axes, entry + 2)
        curlX += gain * (dy * nz - dz * ny)
        curlY += gain * (dz * nx - dx * nz)
        curlZ += gain * (dx * ny - dy * nx)
      }
    }
  }
}
