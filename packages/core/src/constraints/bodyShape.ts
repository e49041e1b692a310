/** The shape of a body: what it weighs, how it resists turning, and the hulls that touch. */
import { massOfTriangles, massProperties, type MassProperties } from '../geometry/pieces.ts'
import type { Mesh } from '../geometry/mesh.ts'
import { supportPoints } from '../geometry/supportPoints.ts'
import { UNTURNED, type Quaternion } from '../math/quaternion.ts'
import type { Vector } from '../math/vector.ts'

export interface BodyShape {
  /** About its centre of mass, metres: x, y, z of the points of its hull. Null: a ball. */
  hull: Float32Array | null
  /** Moments of inertia about the principal axes for mass 1, m². */
  inertia: Vector
  axes: Quaternion
  /** Farthest point, m. */
  reach: number
}

/** Full-size cells that fill space press on one another where they should only touch: hulls are this much smaller. */
const SMALLER = 0.995

/** A ball of a radius. */
export const ballShape = (radius: number): BodyShape => ({
  hull: null,
  ...inertiaOfBall(radius),
  reach: radius,
})
function inertiaOfBall(radius: number): Pick<BodyShape, 'inertia' | 'axes'> {
  const i = 0.4 * radius * radius
  return { inertia: [i, i, i], axes: UNTURNED }
}

/** A piece of a broken mesh, whose sizes along its axes are times `size`. */
export function pieceShape(mesh: Mesh, size: Vector, piece: number): BodyShape {
  const mass = massProperties(mesh, size)[piece]!
  const { starts, points } = mesh.pieces!.hulls
  const own = points.subarray(starts[piece]! * 3, starts[piece + 1]! * 3)
  const hull = own.map((x, i) => SMALLER * (x * size[i % 3]! - mass.centre[i % 3]!))
  return { hull, ...perMass(mass), reach: mass.reach }
}

function perMass({ volume, inertia, axes }: MassProperties): Pick<BodyShape, 'inertia' | 'axes'> {
  const least = 1e-3 * Math.max(...inertia)
  return { inertia: inertia.map((i) => Math.max(i, least, 1e-30) / Math.max(volume, 1e-30)) as Vector, axes }
}

/** A mesh about its origin, times a scale: its hull. An open one has no volume to speak of and turns like a ball. */
export function meshShape(mesh: Mesh, scale: number): BodyShape {
  const mass = massOfTriangles(mesh, [scale, scale, scale], 0, mesh.triangles.length / 3)
  const hull = Float32Array.from(supportPoints(mesh.positions).flat(), (x) => x * scale)
  return { hull, ...(mass.volume > 0 ? perMass(mass) : inertiaOfBall(mass.reach)), reach: mass.reach }
}
