/**
 * Heat between particles, as Fourier's law has it in Cleary, Monaghan, "Conduction modelling using smoothed particle hydrodynamics" (1999), and
 * what they lose to their surroundings by Newton's law of cooling:
 *   Cᵢ·dTᵢ/dt = Σⱼ gᵢⱼ·(Tⱼ − Tᵢ) + lᵢ·(T₀ − Tᵢ),   gᵢⱼ = Vᵢ·Vⱼ·(4kᵢkⱼ/(kᵢ + kⱼ))·(−W′/r),   lᵢ = (loss, W/(m²·K))·Aᵢ
 * What flows from one to another is equal and opposite to the bit. V = s³ is a cell, C = m·c its heat capacity (J/K), k conductivities (W/(m·K)). A is what of a
 * cell lies bare: s²·(1 − Σⱼ sⱼ³·W)/0.18, within a quarter of what it is: 0.83 on a plane along a cubic lattice, 1.07 on a ball cut from one,
 * 0.78 of one alone as a ball of its volume.
 *
 * Tables as in fluid.ts: particles stand in the order of cells, `bodies` (i32) names them, and behind the last stands nobody.
 */
import { BALL_OF_CELL, LEAST, OWN_SHARE, slotsAt, spline4, splineSlope4, sum4 } from './fluidKernel'
import {
  add4, column0, column1, column2, column3, divide4, dot4, gather4, load4, loadI4, multiply4, row4, splat4, splatAt4, squareRoot4, store4, subtract4,
} from './lanes'
import { exponentialDecay } from './integrate'
import { readF32, readI32, squareRoot, writeF32 } from './machine'

/** What a bare face lacks of Σ s³·W: 0.15 along a lattice, up to 0.22 where particles lie at any depth. */
const BARE: f64 = 0.18

/**
 * Lays the particles of a population beside those of others, its first at `first`: places (3 × f32), spacing, temperature, and what `traits` has as rows: conductivity, loss (each times the amount),
 * temperature around, 1 over the heat capacity (K/J).
 */
export function crowdOfHeat(
  start: i32, end: i32, position: usize, radius: usize, inverseMass: usize, temperature: usize, amount: usize, conductivity: f64, loss: f64, around: f64,
  capacity: f64, first: i32, places: usize, spacing: usize, warmth: usize, traits: usize,
): void {
  for (let i = start; i < end; i++) {
    const at = first + i
    for (let axis = 0; axis < 3; axis++) writeF32(places, at * 3 + axis, readF32(position, i * 3 + axis))
    writeF32(spacing, at, 2.0 * readF32(radius, i))
    writeF32(warmth, at, readF32(temperature, i))
    const part = readF32(amount, i)
    writeF32(traits, at * 4, conductivity * part)
    writeF32(traits, at * 4 + 1, loss * part)
    writeF32(traits, at * 4 + 2, around)
    writeF32(traits, at * 4 + 3, (BALL_OF_CELL * readF32(inverseMass, i)) / capacity)
  }
}

/** The same in the order of cells: rows x y z from `low` and spacing; conductivity, temperature. */
export function placeHeat(
  start: i32, end: i32, bodies: usize, position: usize, spacing: usize, warmth: usize, traits: usize, lowX: f64, lowY: f64, lowZ: f64, places: usize,
  conductivities: usize, temperatures: usize,
): void {
  for (let e = start; e < end; e++) {
    const i = readI32(bodies, e)
    writeF32(places, e * 4, readF32(position, i * 3) - lowX)
    writeF32(places, e * 4 + 1, readF32(position, i * 3 + 1) - lowY)
    writeF32(places, e * 4 + 2, readF32(position, i * 3 + 2) - lowZ)
    writeF32(places, e * 4 + 3, readF32(spacing, i))
    writeF32(conductivities, e, readF32(traits, i * 4))
    writeF32(temperatures, e, readF32(warmth, i))
  }
}

/** `flows` beside `slots`: gᵢⱼ, W/K; `losses`: lᵢ, W/K; `rates`: how fast each would take on the temperature of all around it, 1/s. */
export function weighHeat(
  start: i32, end: i32, places: usize, bodies: usize, counts: usize, slots: usize, conductivities: usize, traits: usize, flows: usize, losses: usize,
  rates: usize,
): void {
  for (let e = start; e < end; e++) {
    const x = splatAt4(places, e * 4)
    const y = splatAt4(places, e * 4 + 1)
    const z = splatAt4(places, e * 4 + 2)
    const s = splatAt4(places, e * 4 + 3)
    const k = splatAt4(conductivities, e)
    const cell = multiply4(s, multiply4(s, s))
    const list = slotsAt(slots, e)
    const out = slotsAt(flows, e)
    let filled = splat4(0.0)
    let flowing = filled
    for (let n = 0; n < readI32(counts, e); n++) {
      const index = loadI4(list, n * 4)
      const a = row4(places, index, 0)
      const b = row4(places, index, 1)
      const c = row4(places, index, 2)
      const d = row4(places, index, 3)
      const ax = subtract4(x, column0(a, b, c, d))
      const ay = subtract4(y, column1(a, b, c, d))
      const az = subtract4(z, column2(a, b, c, d))
      const other = column3(a, b, c, d)
      const distance = squareRoot4(add4(dot4(ax, ay, az, ax, ay, az), splat4(LEAST)))
      const per = divide4(splat4(1.0), add4(s, other))
      const volume = multiply4(other, multiply4(other, other))
      const kj = gather4(conductivities, index)
      // of two that do not conduct it is 0, too
      const mean = divide4(multiply4(splat4(4.0), multiply4(k, kj)), add4(add4(k, kj), splat4(LEAST)))
      const g = multiply4(multiply4(cell, volume), multiply4(mean, subtract4(splat4(0.0), splineSlope4(distance, per))))
      store4(out, n * 4, g)
      filled = add4(filled, multiply4(volume, spline4(distance, per)))
      flowing = add4(flowing, g)
    }
    const i = readI32(bodies, e)
    const width = readF32(places, e * 4 + 3)
    const share = OWN_SHARE + sum4(filled)
    const lost = share < 1.0 ? (readF32(traits, i * 4 + 1) * width * width * (1.0 - share)) / BARE : 0.0
    writeF32(losses, e, lost)
    writeF32(rates, e, (sum4(flowing) + lost) * readF32(traits, i * 4 + 3))
  }
}

/** A stage of the Runge–Kutta–Legendre steps (simulation/heat.ts): out = mu·now + nu·before + step·(what flows at `now`)/C, with `step` in seconds. */
export function conductHeat(
  start: i32, end: i32, bodies: usize, counts: usize, slots: usize, flows: usize, losses: usize, traits: usize, now: usize, before: usize, mu: f64, nu: f64,
  step: f64, out: usize,
): void {
  for (let e = start; e < end; e++) {
    const own = readF32(now, e)
    const t = splat4(own)
    const list = slotsAt(slots, e)
    const weights = slotsAt(flows, e)
    let gained = splat4(0.0)
    for (let n = 0; n < readI32(counts, e); n++) {
      gained = add4(gained, multiply4(load4(weights, n * 4), subtract4(gather4(now, loadI4(list, n * 4)), t)))
    }
    const i = readI32(bodies, e)
    const gain = sum4(gained) + readF32(losses, e) * (readF32(traits, i * 4 + 2) - own)
    writeF32(out, e, mu * own + nu * readF32(before, e) + step * gain * readF32(traits, i * 4 + 3))
  }
}

/** Temperatures back to the particles of a population. */
export function keepHeat(start: i32, end: i32, bodies: usize, temperatures: usize, warmth: usize): void {
  for (let e = start; e < end; e++) writeF32(warmth, readI32(bodies, e), readF32(temperatures, e))
}

/** Draws temperatures towards one, dT/dt = r·(T₀ − T) solved exactly: of all, or falling off evenly to the reach of a point or of what `distance` (f32; 0: of nothing) is from. */
export function warm(
  start: i32, end: i32, position: usize, temperature: usize, amount: usize, distance: usize, around: i32, x: f64, y: f64, z: f64, reach: f64, towards: f64,
  rate: f64, h: f64,
): void {
  for (let i = start; i < end; i++) {
    let part = readF32(amount, i)
    if (around != 0) {
      const ax = readF32(position, i * 3) - x
      const ay = readF32(position, i * 3 + 1) - y
      const az = readF32(position, i * 3 + 2) - z
      const far = distance != 0 ? readF32(distance, i) : squareRoot(ax * ax + ay * ay + az * az)
      if (far >= reach) continue
      if (far > 0.0) part *= 1.0 - far / reach
    }
    const own = readF32(temperature, i)
    writeF32(temperature, i, towards + (own - towards) * exponentialDecay(rate * part * h))
  }
}
