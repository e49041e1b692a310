/**
 * The smoothing kernel of liquids, four neighbours at a time: the cubic spline of Monaghan (1992) in the form of Becker and Teschner (2007)
 * with support H = sᵢ + sⱼ, s being the spacing of particles (twice their radius):
 *   W(r) = 8/(πH³)·f(r/H), f(q) = 2(1 − q)₊³ − 8(½ − q)₊³
 * On a cubic lattice of that spacing Σ s³·W is 1 within a thousandth.
 */
import { divide4, lane4, maximum4, multiply4, splat4, subtract4, F4 } from './lanes'
import { MOST_FLUID_NEIGHBOURS } from './layouts'

/** 8/π */
export const NORM: f64 = 2.5464790894703255
/** A ball of radius r weighs so much of what its cell of the width 2r does. */
export const BALL_OF_CELL: f64 = 0.5235987755982989

/** Squares of distances stay above 0. */
export const LEAST: f64 = 1.0e-30

/** W of four distances, `per` being 1/H: 1/m³. */
export function spline4(distance: F4, per: F4): F4 {
  const q = multiply4(distance, per)
  const a = maximum4(splat4(0.0), subtract4(splat4(1.0), q))
  const b = maximum4(splat4(0.0), subtract4(splat4(0.5), q))
  const f = subtract4(multiply4(splat4(2.0), multiply4(a, multiply4(a, a))), multiply4(splat4(8.0), multiply4(b, multiply4(b, b))))
  return multiply4(multiply4(splat4(NORM), f), multiply4(per, multiply4(per, per)))
}
/** W′/r, 1/m⁵: times what is apart it is the gradient. */
export function splineSlope4(distance: F4, per: F4): F4 {
  const q = multiply4(distance, per)
  const a = maximum4(splat4(0.0), subtract4(splat4(1.0), q))
  const b = maximum4(splat4(0.0), subtract4(splat4(0.5), q))
  const f = subtract4(multiply4(splat4(24.0), multiply4(b, b)), multiply4(splat4(6.0), multiply4(a, a)))
  const squared = multiply4(per, per)
  return divide4(multiply4(multiply4(splat4(NORM), f), multiply4(squared, squared)), distance)
}
/** s³·W(0), of a particle that looks at itself: 1/π at any spacing. */
export const OWN_SHARE: f64 = 0.3183098861837907

/** The list of particle i, and one of its neighbours. */
export function slotsAt(slots: usize, i: i32): usize {
  return slots + ((<usize>(i * MOST_FLUID_NEIGHBOURS)) << 2)
}
export function sum4(a: F4): f64 {
  return lane4(a, 0) + lane4(a, 1) + (lane4(a, 2) + lane4(a, 3))
}

/**
 * What a wall fills of the kernel of a particle d before it: ∫ W over the half space behind it, u = d/H, by
 *   b(u) = 16·(m⁵/10 − m⁶/15 − n⁵/5 + 4n⁶/15), m = 1 − u, n = (½ − u)₊
 * after Bender, Kugelstadt, Weiler, Koschier, "Volume maps" (2019), whose map of a plane it is.
 */
export function wallShare(u: f64): f64 {
  const m = 1.0 - u
  const n = u < 0.5 ? 0.5 - u : 0.0
  const m5 = m * m * m * m * m
  const n5 = n * n * n * n * n
  return 16.0 * (m5 * (0.1 - m / 15.0) - n5 * (0.2 - (4.0 * n) / 15.0))
}
/** b′(u) */
export function wallSlope(u: f64): f64 {
  const m = 1.0 - u
  const n = u < 0.5 ? 0.5 - u : 0.0
  const m4 = m * m * m * m
  const n4 = n * n * n * n
  return -16.0 * (m4 * (0.5 - 0.4 * m) - n4 * (1.0 - 1.6 * n))
}
