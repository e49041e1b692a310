/** How a mesh is turned at a moment, and how fast it turns. */
import { vectorAt } from '../document/keys.ts'
import { arctangent } from '../math/functions.ts'
import { compose, conjugate, rotationOf, type Quaternion } from '../math/quaternion.ts'
import { affine, scale, type Vector } from '../math/vector.ts'
import type { Body } from './body.ts'

export const turnAt = ({ shotMesh }: Body, frame: number): Quaternion =>
  rotationOf(affine([0, 0, 0], vectorAt(shotMesh.place.rotation, frame), [1, 1, 1]))

/** Its orientation at the end of a stretch of frames (or a moment), and its angular velocity, rad/s. */
export function turningOf(
  body: Body,
  from: number,
  to: number,
  rate: number,
): { turned: Quaternion; angularVelocity: Vector } {
  const turned = turnAt(body, to)
  const step = to > from ? to - from : 0.01
  const other = turnAt(body, to > from ? from : to + step)
  const [before, after] = to > from ? [other, turned] : [turned, other]
  return { turned, angularVelocity: scale(rotationVector(compose(after, conjugate(before))), rate / step) }
}

/** Axis times angle of a turn by the shortest way, radians. */
export function rotationVector(q: Quaternion): Vector {
  const sign = q[3] < 0 ? -1 : 1
  const sine = Math.sqrt(q[0] ** 2 + q[1] ** 2 + q[2] ** 2)
  if (sine < 1e-9) return [2 * sign * q[0], 2 * sign * q[1], 2 * sign * q[2]]
  const angle = 2 * angleOf(sine, sign * q[3])
  return [q[0], q[1], q[2]].map((x) => (x * sign * angle) / sine) as Vector
}

/** Angle of a sine and a cosine that is not negative. */
const angleOf = (sine: number, cosine: number): number =>
  cosine > sine ? arctangent(sine / cosine) : Math.PI / 2 - arctangent(cosine / sine)
