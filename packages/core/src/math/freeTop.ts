/**
 * The free turning of a body: Euler's equations, split into turns about its principal axes, each exact. Angular momentum is kept to
 * rounding, energy to second order without drift. Source: Dullweber, Leimkuhler, McLachlan, "Symplectic splitting methods for rigid body
 * molecular dynamics" (1997).
 */
import { compose, conjugate, rotate, turnBy, unitQuaternion, type Quaternion } from './quaternion.ts'
import type { Vector } from './vector.ts'

/** Turns in a step may not be larger than this, radians: faster ones take several. */
const MOST_ANGLE = 0.1

/**
 * @param turned the body's frame, in which `axes` turns to the principal axes
 * @param angularVelocity rad/s in the world
 * @param inertia moments about the principal axes, in any unit
 */
export function turnFreely(
  turned: Quaternion,
  angularVelocity: Vector,
  { inertia, axes }: { inertia: Vector; axes: Quaternion },
  h: number,
): { turned: Quaternion; angularVelocity: Vector } {
  let q = compose(turned, axes)
  const momentum = rotate(conjugate(q), angularVelocity).map((w, i) => w * inertia[i]!) as Vector
  const speed = Math.sqrt(angularVelocity[0] ** 2 + angularVelocity[1] ** 2 + angularVelocity[2] ** 2)
  const steps = Math.max(1, Math.ceil((speed * h) / MOST_ANGLE))
  const part = h / steps
  const about = (axis: number, time: number): void => {
    const angle = (momentum[axis]! / inertia[axis]!) * time
    const step = turnBy([axis === 0 ? angle : 0, axis === 1 ? angle : 0, axis === 2 ? angle : 0])
    q = compose(q, step)
    // in the body the momentum turns the other way
    const turnedBack = rotate(conjugate(step), momentum)
    for (let i = 0; i < 3; i++) momentum[i] = turnedBack[i]!
  }
  for (let n = 0; n < steps; n++) {
    about(0, part / 2)
    about(1, part / 2)
    about(2, part)
    about(1, part / 2)
    about(0, part / 2)
  }
  q = unitQuaternion(q)
  return {
    turned: unitQuaternion(compose(q, conjugate(axes))),
    angularVelocity: rotate(q, momentum.map((l, i) => l / inertia[i]!) as Vector),
  }
}
