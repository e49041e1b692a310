/**
 * Where a liquid mixes with air (Ihmsen, Akinci, Akinci, Teschner, "Unified spray, foam and air bubbles for particle-based fluids", 2012): where it runs together
 * (trapped air), where a crest breaks, and only where it is fast. Their limits are shares of a speed here, so that they fit a glass and a sea.
 * Tables as in fluid.ts; `curvatures` and `colours` as in fluidTension.ts, of a liquid that is one with all others and with walls.
 */
import { LEAST, slotsAt, sum4 } from './fluidKernel'
import {
  add4, column0, column1, column2, column3, divide4, dot4, length4, loadI4, maximum4, multiply4, row4, splat4, splatAt4, squareRoot4, subtract4,
} from './lanes'
import { readF32, readI32, squareRoot, writeF32 } from './machine'

/** Who has fewer fours of neighbours is spray already. */
const FEWEST: i32 = 2

/** Φ: 0 up to `low`, 1 from `high` on. */
function ramp(x: f64, low: f64, high: f64): f64 {
  if (x <= low) return 0.0
  return x >= high ? 1.0 : (x - low) / (high - low)
}

/** How likely each splashes, 0 to 1 (f32), with velocities in `rows`; `speeds` (f32, m/s; 0: never) are those at which a liquid does so in full. */
export function churnFluid(
  start: i32, end: i32, places: usize, counts: usize, slots: usize, rows: usize, colours: usize, curvatures: usize, speeds: usize, out: usize,
): void {
  for (let e = start; e < end; e++) {
    writeF32(out, e, 0.0)
    const full = readF32(speeds, e)
    if (full == 0.0 || readI32(counts, e) < FEWEST) continue
    const ox = readF32(rows, e * 4)
    const oy = readF32(rows, e * 4 + 1)
    const oz = readF32(rows, e * 4 + 2)
    const squared = ox * ox + oy * oy + oz * oz
    const fast = ramp(squared, 0.25 * full * full, full * full)
    if (fast == 0.0) continue
    const x = splatAt4(places, e * 4)
    const y = splatAt4(places, e * 4 + 1)
    const z = splatAt4(places, e * 4 + 2)
    const s = splatAt4(places, e * 4 + 3)
    const vx = splat4(ox)
    const vy = splat4(oy)
    const vz = splat4(oz)
    let meets = splat4(0.0)
    let all = meets
    const list = slotsAt(slots, e)
    for (let k = 0; k < readI32(counts, e); k++) {
      const index = loadI4(list, k * 4)
      const a = row4(places, index, 0)
      const b = row4(places, index, 1)
      const c = row4(places, index, 2)
      const d = row4(places, index, 3)
      const ax = subtract4(x, column0(a, b, c, d))
      const ay = subtract4(y, column1(a, b, c, d))
      const az = subtract4(z, column2(a, b, c, d))
      const distance = squareRoot4(add4(dot4(ax, ay, az, ax, ay, az), splat4(LEAST)))
      const weight = maximum4(splat4(0.0), subtract4(splat4(1.0), divide4(distance, add4(s, column3(a, b, c, d)))))
      const p = row4(rows, index, 0)
      const q = row4(rows, index, 1)
      const r = row4(rows, index, 2)
      const t = row4(rows, index, 3)
      const ux = subtract4(vx, column0(p, q, r, t))
      const uy = subtract4(vy, column1(p, q, r, t))
      const uz = subtract4(vz, column2(p, q, r, t))
      // |v|·(1 − v̂·x̂): twice their speed where they run into one another, nothing where they part
      meets = add4(meets, multiply4(weight, subtract4(length4(ux, uy, uz), divide4(dot4(ux, uy, uz, ax, ay, az), distance))))
      all = add4(all, weight)
    }
    const trapped = ramp(sum4(meets) / (sum4(all) + LEAST), 0.2 * full, full)
    const gx = readF32(colours, e * 4)
    const gy = readF32(colours, e * 4 + 1)
    const gz = readF32(colours, e * 4 + 2)
    const outward = ox * gx + oy * gy + oz * gz
    let crest = 0.0
    if (outward > 0.0 && outward * outward >= 0.36 * squared * (gx * gx + gy * gy + gz * gz)) crest = ramp(readF32(curvatures, e * 4) * readF32(places, e * 4 + 3), 0.2, 0.8)
    const both = trapped + crest
    writeF32(out, e, fast * (both < 1.0 ? both : 1.0))
  }
}
