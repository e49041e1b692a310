/** Sine and cosine from operations that IEEE 754 fixes; the same steps as core/math/functions.ts. */
import { floor } from './machine'

const PI: f64 = 3.141592653589793

/** Sine of x radians to about 1e-15: reduction to a quarter turn, then the Taylor series. */
export function sineOf(x: f64): f64 {
  let r = x - 2.0 * PI * floor(x / (2.0 * PI) + 0.5)
  if (r > PI / 2.0) r = PI - r
  if (r < -PI / 2.0) r = -PI - r
  let term = r
  let sum = r
  for (let n = 1; n <= 10; n++) {
    term *= (-r * r) / <f64>(2 * n * (2 * n + 1))
    sum += term
  }
  return sum
}

export function cosineOf(x: f64): f64 {
  return sineOf(x + PI / 2.0)
}
