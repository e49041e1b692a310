/**
 * Viscosity of liquids. Tables as in fluid.ts; velocities are rows x y z and mass (kg) in the order of cells, with a row of zeros behind the last.
 *
 * It is (Weiler, Koschier, Brand, Bender, "A physically consistent implicit viscosity solver for SPH fluids", 2018), solved at the end of
 * the substep, so that it is stable however thick a liquid is:
 *   mᵢvᵢ − h·Σⱼ 10·μᵢⱼ·sᵢ³·sⱼ³·(vᵢⱼ·xᵢⱼ)/(xᵢⱼ² + 0.01H²)·∇W + h·μᵢ·sᵢ³·Σₖ ω(d)/d·(vᵢ − uₖ)ₜ = mᵢvᵢ⁰
 * μᵢⱼ is the harmonic mean. The last sum is the drag of walls, at a distance d with velocity u: of a flow that is even there all layers together
 * bear μ·v/d, as ω = 2(1 − d/H)/H comes to 1 from the wall on.
 */
import { bodyRow, contactPlane, fluidWall, MOST_FLUID_NEIGHBOURS } from './layouts'
import { LEAST, slotsAt, sum4 } from './fluidKernel'
import { wallAt } from './fluid'
import {
  add4, column0, column1, column2, column3, divide4, dot4, gather4, load4, loadI4, multiply4, row4, splat4, splatAt4, store4, subtract4, withLane,
} from './lanes'
import { readF32, readI32, writeF32, writeF64 } from './machine'

/** Velocities of bodies into rows, and their mass. */
export function gatherSpeeds(start: i32, end: i32, bodies: usize, speeds: usize, inverse: usize, rows: usize): void {
  for (let e = start; e < end; e++) {
    const w = readF32(inverse, e)
    store4(rows, e * 4, withLane(load4(speeds, readI32(bodies, e) * bodyRow.SIZE), 3, w > 0.0 ? 1.0 / w : 0.0))
  }
}
export function scatterSpeeds(start: i32, end: i32, bodies: usize, rows: usize, inverse: usize, speeds: usize): void {
  for (let e = start; e < end; e++) {
    if (readF32(inverse, e) == 0.0) continue
    const k = readI32(bodies, e) * bodyRow.SIZE
    store4(speeds, k, withLane(load4(rows, e * 4), 3, readF32(speeds, k + bodyRow.inverseMass)))
  }
}

/** How strongly the walls near an entry hold it, sᵢ³·μᵢ·ω(d)/d of one of them; 0 where it is out of reach. */
function holdOf(record: usize, k: i32, body: i32, moved: usize, support: f64, mass: f64): f64 {
  const o = k * fluidWall.SIZE
  const share = readF32(record, o + fluidWall.share)
  let d = readF32(record, o + fluidWall.height)
  for (let axis = 0; axis < 3; axis++) d += readF32(record, o + axis) * readF32(moved, body * bodyRow.SIZE + axis)
  if (d >= support) return 0.0
  // nearer than an eighth of the support it is held no harder
  const far = d < 0.125 * support ? 0.125 * support : d
  return ((share * mass * 2.0) / support) * (1.0 - (d < 0.0 ? 0.0 : d) / support) / far
}

/**
 * The left side of the equation for rows of velocities, with walls that stand still. `viscosities` and `clings` (Pa·s, f32) are of entries, among themselves and on walls; `weights` (f32; 0: not
 * wanted) become 1 over what is on the diagonal, for conditioning.
 */
export function applyViscosity(
  start: i32, end: i32, places: usize, bodies: usize, moved: usize, inverse: usize, counts: usize, slots: usize, wallOf: usize, walls: usize,
  gradients: usize, viscosities: usize, clings: usize, h: f64, rows: usize, out: usize, weights: usize,
): void {
  for (let e = start; e < end; e++) {
    const w = readF32(inverse, e)
    if (w == 0.0) {
      store4(out, e * 4, splat4(0.0))
      if (weights != 0) writeF32(weights, e, 0.0)
      continue
    }
    const x = splatAt4(places, e * 4)
    const y = splatAt4(places, e * 4 + 1)
    const z = splatAt4(places, e * 4 + 2)
    const s = splatAt4(places, e * 4 + 3)
    const vx = splatAt4(rows, e * 4)
    const vy = splatAt4(rows, e * 4 + 1)
    const vz = splatAt4(rows, e * 4 + 2)
    const mu = splatAt4(viscosities, e)
    let fx = splat4(0.0)
    let fy = fx
    let fz = fx
    let held4 = fx
    const own = slotsAt(slots, e)
    for (let k = 0; k < readI32(counts, e); k++) {
      const index = loadI4(own, k * 4)
      const a = row4(places, index, 0)
      const b = row4(places, index, 1)
      const c = row4(places, index, 2)
      const d = row4(places, index, 3)
      const ax = subtract4(x, column0(a, b, c, d))
      const ay = subtract4(y, column1(a, b, c, d))
      const az = subtract4(z, column2(a, b, c, d))
      const support = add4(s, column3(a, b, c, d))
      const p = row4(rows, index, 0)
      const q = row4(rows, index, 1)
      const r = row4(rows, index, 2)
      const t = row4(rows, index, 3)
      const along = dot4(
        subtract4(vx, column0(p, q, r, t)), subtract4(vy, column1(p, q, r, t)), subtract4(vz, column2(p, q, r, t)), ax, ay, az,
      )
      const other = gather4(viscosities, index)
      const mean = divide4(multiply4(splat4(2.0), multiply4(mu, other)), add4(add4(mu, other), splat4(LEAST)))
      const squared = dot4(ax, ay, az, ax, ay, az)
      const g = divide4(
        multiply4(multiply4(splat4(-10.0), mean), load4(gradients, e * MOST_FLUID_NEIGHBOURS + k * 4)),
        add4(squared, multiply4(splat4(0.01), multiply4(support, support))),
      )
      const f = multiply4(g, along)
      fx = add4(fx, multiply4(f, ax))
      fy = add4(fy, multiply4(f, ay))
      fz = add4(fz, multiply4(f, az))
      held4 = add4(held4, multiply4(g, squared))
    }
    const spacing = readF32(places, e * 4 + 3)
    const cell = spacing * spacing * spacing
    const mass = 1.0 / w
    let ox = sum4(fx)
    let oy = sum4(fy)
    let oz = sum4(fz)
    let held = sum4(held4) / 3.0
    const n = readI32(wallOf, readI32(bodies, e))
    for (let k = 0; n >= 0 && k < contactPlane.COUNT; k++) {
      const record = wallAt(walls, n)
      if (readF32(record, k * fluidWall.SIZE + fluidWall.share) == 0.0) break
      const hold = holdOf(record, k, readI32(bodies, e), moved, 2.0 * spacing, readF32(clings, e))
      const nx = readF32(record, k * fluidWall.SIZE)
      const ny = readF32(record, k * fluidWall.SIZE + 1)
      const nz = readF32(record, k * fluidWall.SIZE + 2)
      const into = nx * readF32(rows, e * 4) + ny * readF32(rows, e * 4 + 1) + nz * readF32(rows, e * 4 + 2)
      ox += hold * (readF32(rows, e * 4) - into * nx)
      oy += hold * (readF32(rows, e * 4 + 1) - into * ny)
      oz += hold * (readF32(rows, e * 4 + 2) - into * nz)
      held += hold
    }
    writeF32(out, e * 4, mass * readF32(rows, e * 4) + h * cell * ox)
    writeF32(out, e * 4 + 1, mass * readF32(rows, e * 4 + 1) + h * cell * oy)
    writeF32(out, e * 4 + 2, mass * readF32(rows, e * 4 + 2) + h * cell * oz)
    writeF32(out, e * 4 + 3, 0.0)
    if (weights != 0) writeF32(weights, e, 1.0 / (mass + h * cell * held))
  }
}

/** The right side: momentum, and what moving walls carry along. */
export function startViscosity(
  start: i32, end: i32, places: usize, bodies: usize, moved: usize, inverse: usize, wallOf: usize, walls: usize, clings: usize, h: f64,
  rows: usize, out: usize,
): void {
  for (let e = start; e < end; e++) {
    const w = readF32(inverse, e)
    const mass = w > 0.0 ? 1.0 / w : 0.0
    const spacing = readF32(places, e * 4 + 3)
    const n = w > 0.0 ? readI32(wallOf, readI32(bodies, e)) : -1
    for (let axis = 0; axis < 3; axis++) {
      let carried = 0.0
      for (let k = 0; n >= 0 && k < contactPlane.COUNT; k++) {
        const record = wallAt(walls, n)
        const o = k * fluidWall.SIZE
        if (readF32(record, o + fluidWall.share) == 0.0) break
        let into = 0.0
        for (let a = 0; a < 3; a++) into += readF32(record, o + a) * readF32(record, o + fluidWall.velocityX + a)
        carried +=
          holdOf(record, k, readI32(bodies, e), moved, 2.0 * spacing, readF32(clings, e)) *
          (readF32(record, o + fluidWall.velocityX + axis) - into * readF32(record, o + axis))
      }
      writeF32(out, e * 4 + axis, mass * readF32(rows, e * 4 + axis) + h * spacing * spacing * spacing * carried)
    }
    writeF32(out, e * 4 + 3, 0.0)
  }
}

/** Rows that a sum is taken over at a time: sums do not depend on the number of threads. */
const PART: i32 = 1024

/** Σ weight·a·b of the rows of each part (f64): x y z; `weights` (f32 a row, 0: all 1). */
export function sumRows(start: i32, end: i32, count: i32, a: usize, b: usize, weights: usize, out: usize): void {
  for (let part = start; part < end; part++) {
    let sum = 0.0
    const to = (part + 1) * PART < count ? (part + 1) * PART : count
    for (let e = part * PART; e < to; e++) {
      const w = weights == 0 ? 1.0 : readF32(weights, e)
      let own = 0.0
      for (let axis = 0; axis < 3; axis++) own += readF32(a, e * 4 + axis) * readF32(b, e * 4 + axis)
      sum += w * own
    }
    writeF64(out, part, sum)
  }
}
/** to = a + factor·w·b, row by row (`weights`: f32 a row, 0: all 1). */
export function mixRows(start: i32, end: i32, a: usize, b: usize, factor: f64, weights: usize, to: usize): void {
  for (let e = start; e < end; e++) {
    const w = weights == 0 ? splat4(factor) : multiply4(splat4(factor), splatAt4(weights, e))
    store4(to, e * 4, add4(load4(a, e * 4), multiply4(w, load4(b, e * 4))))
  }
}
