/**
 * Swirls of liquids, that are lost among particles, given back: vorticity confinement (Fedkiw, Stam, Jensen, "Visual simulation of smoke", 2001; on particles
 * as in Macklin, Müller, "Position based fluids", 2013), scaled so that its strength ε is the same for all sizes:
 *   ω = Σⱼ sⱼ³·∇W × (vⱼ − vᵢ),   N = ∇|ω| / |∇|ω||,   dv/dt = ε·s·|ω|·(N × ω)
 * Tables as in fluid.ts; `slopes` has sⱼ³·∇W.
 */
import { slotsAt, sum4 } from './fluidKernel'
import {
  add4, column0, column1, column2, column3, load4, loadI4, multiply4, row4, splat4, splatAt4, subtract4,
} from './lanes'
import { MOST_FLUID_NEIGHBOURS } from './layouts'
import { readF32, readI32, squareRoot, writeF32 } from './machine'

/** Curls of the velocities in `rows` as rows, and how strong they are. */
export function curlFluid(start: i32, end: i32, counts: usize, slots: usize, slopes: usize, rows: usize, curls: usize): void {
  for (let e = start; e < end; e++) {
    const vx = splatAt4(rows, e * 4)
    const vy = splatAt4(rows, e * 4 + 1)
    const vz = splatAt4(rows, e * 4 + 2)
    const list = slotsAt(slots, e)
    let cx = splat4(0.0)
    let cy = cx
    let cz = cx
    for (let k = 0; k < readI32(counts, e); k++) {
      const index = loadI4(list, k * 4)
      const a = row4(rows, index, 0)
      const b = row4(rows, index, 1)
      const c = row4(rows, index, 2)
      const d = row4(rows, index, 3)
      const ux = subtract4(column0(a, b, c, d), vx)
      const uy = subtract4(column1(a, b, c, d), vy)
      const uz = subtract4(column2(a, b, c, d), vz)
      const at = (e * MOST_FLUID_NEIGHBOURS + k * 4) * 3
      const px = load4(slopes, at)
      const py = load4(slopes, at + 4)
      const pz = load4(slopes, at + 8)
      cx = add4(cx, subtract4(multiply4(py, uz), multiply4(pz, uy)))
      cy = add4(cy, subtract4(multiply4(pz, ux), multiply4(px, uz)))
      cz = add4(cz, subtract4(multiply4(px, uy), multiply4(py, ux)))
    }
    const x = sum4(cx)
    const y = sum4(cy)
    const z = sum4(cz)
    writeF32(curls, e * 4, x)
    writeF32(curls, e * 4 + 1, y)
    writeF32(curls, e * 4 + 2, z)
    writeF32(curls, e * 4 + 3, squareRoot(x * x + y * y + z * z))
  }
}

/** Adds to the velocities in `rows` what drives each around the strongest swirl near it; `strengths` are ε. */
export function swirlFluid(
  start: i32, end: i32, places: usize, counts: usize, slots: usize, slopes: usize, curls: usize, strengths: usize, h: f64, rows: usize,
): void {
  for (let e = start; e < end; e++) {
    const strength = readF32(strengths, e)
    const own = readF32(curls, e * 4 + 3)
    if (strength == 0.0 || own == 0.0) continue
    const list = slotsAt(slots, e)
    const swirl = splat4(own)
    let gx = splat4(0.0)
    let gy = gx
    let gz = gx
    for (let k = 0; k < readI32(counts, e); k++) {
      const index = loadI4(list, k * 4)
      const more = subtract4(column3(row4(curls, index, 0), row4(curls, index, 1), row4(curls, index, 2), row4(curls, index, 3)), swirl)
      const at = (e * MOST_FLUID_NEIGHBOURS + k * 4) * 3
      gx = add4(gx, multiply4(load4(slopes, at), more))
      gy = add4(gy, multiply4(load4(slopes, at + 4), more))
      gz = add4(gz, multiply4(load4(slopes, at + 8), more))
    }
    const x = sum4(gx)
    const y = sum4(gy)
    const z = sum4(gz)
    const steep = squareRoot(x * x + y * y + z * z)
    if (steep == 0.0) continue
    const part = (h * strength * readF32(places, e * 4 + 3) * own) / steep
    const wx = readF32(curls, e * 4)
    const wy = readF32(curls, e * 4 + 1)
    const wz = readF32(curls, e * 4 + 2)
    writeF32(rows, e * 4, readF32(rows, e * 4) + part * (y * wz - z * wy))
    writeF32(rows, e * 4 + 1, readF32(rows, e * 4 + 1) + part * (z * wx - x * wz))
    writeF32(rows, e * 4 + 2, readF32(rows, e * 4 + 2) + part * (x * wy - y * wx))
  }
}
