/** Directions and turns drawn evenly, from numbers between 0 and 1. */
import { cosine, sine } from './functions.ts'
import { add, cross, scale, unit, type Vector } from './vector.ts'

/** A unit quaternion x, y, z, w. */
export type Quaternion = [number, number, number, number]

/** The shortest turn (x, y, z, w) that takes Z to a unit direction d: (z × d, 1 + z·d), made unit. */
export function facing([x, y, z]: Vector): Quaternion {
  if (z < -0.999999) return [1, 0, 0, 0]
  const length = Math.sqrt(2 + 2 * z)
  return [-y / length, x / length, 0, length / 2]
}
/** A turn even over all turns. Source: Shoemake, "Uniform random rotations", Graphics Gems III (1992). */
export function anyTurn(a: number, b: number, c: number): Quaternion {
  const [short, long] = [Math.sqrt(1 - a), Math.sqrt(a)]
  const [s, t] = [2 * Math.PI * b, 2 * Math.PI * c]
  return [short * sine(s), short * cosine(s), long * sine(t), long * cosine(t)]
}

/** A direction even over the cap of a cone about an axis; `cone` is the cosine of its half angle. */
export function inCone(axis: Vector, cone: number, a: number, b: number): Vector {
  if (cone >= 1) return axis
  const height = 1 - a * (1 - cone)
  const out = Math.sqrt(Math.max(0, 1 - height * height))
  const side = unit(cross(axis, Math.abs(axis[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]))
  const other = cross(axis, side)
  const turn = 2 * Math.PI * b
  return add(scale(axis, height), add(scale(side, out * cosine(turn)), scale(other, out * sine(turn))))
}
