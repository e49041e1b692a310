/**
 * Sine, cosine and roots from operations that IEEE 754 fixes, so that every engine gives the same
 * bits; Math.sin and its kin may differ between builds.
 */

const TURN = 2 * Math.PI

/** Sine of x radians to about 1e-15: reduction to a quarter turn, then the Taylor series. */
export function sine(x: number): number {
  let r = x - TURN * Math.floor(x / TURN + 0.5)
  if (r > Math.PI / 2) r = Math.PI - r
  if (r < -Math.PI / 2) r = -Math.PI - r
  let term = r
  let sum = r
  for (let n = 1; n <= 10; n++) {
    term *= (-r * r) / (2 * n * (2 * n + 1))
    sum += term
  }
  return sum
}

export const cosine = (x: number): number => sine(x + Math.PI / 2)
export const radians = (degrees: number): number => (degrees * Math.PI) / 180
export const clamp = (x: number, low: number, high: number): number => (x < low ? low : x > high ? high : x)
export const mix = (a: number, b: number, t: number): number => a + (b - a) * t
/** 3t² − 2t³ on 0…1, flat at both ends. */
export const smooth = (t: number): number => t * t * (3 - 2 * t)

/** 2^x to about 1e-12: whole steps by doubling, the rest by the series of e^(x·ln 2); 0 and ∞ beyond what f64 holds. */
export function power2(x: number): number {
  if (x < -1080) return 0
  if (x > 1024) return Infinity
  const whole = Math.floor(x)
  const rest = (x - whole) * 0.6931471805599453
  let term = 1
  let sum = 1
  for (let n = 1; n <= 16; n++) {
    term = (term * rest) / n
    sum += term
  }
  let factor = 1
  for (let k = 0; k < Math.abs(whole); k++) factor *= whole < 0 ? 0.5 : 2
  return sum * factor
}

/** Natural logarithm of x in (0, 1] to about 1e-15: doublings until x is at least ½, then 2·artanh((x − 1)/(x + 1)). */
export function logarithm(x: number): number {
  let doublings = 0
  for (; x < 0.5 && doublings < 1100; doublings++) x *= 2
  const z = (x - 1) / (x + 1)
  let power = z
  let sum = 0
  for (let n = 1; n <= 31; n += 2) {
    sum += power / n
    power *= z * z
  }
  return 2 * sum - doublings * 0.6931471805599453
}

/** Arctangent of x ≥ 0 in radians to about 1e-15: the angle is halved three times, then the Taylor series. */
export function arctangent(x: number): number {
  let r = x > 1e150 ? 1e150 : x
  for (let k = 0; k < 3; k++) r = r / (1 + Math.sqrt(1 + r * r))
  let power = r
  let sum = 0
  for (let n = 1; n <= 25; n += 4) {
    sum += power / n - (power * r * r) / (n + 2)
    power *= r * r * r * r
  }
  return 8 * sum
}
