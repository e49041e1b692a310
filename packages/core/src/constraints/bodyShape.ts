/** The shape of a body: what it weighs, how it resists turning, and the hulls that touch. */
import { massProperties, pieceMesh, type MassProperties } from '../geometry/pieces.ts'
import type { Mesh } from '../geometry/mesh.ts'
import { supportPoints } from '../geometry/supportPoints.ts'
import { UNTURNED, type Quaternion } from '../math/quaternion.ts'
import type { Vector } from '../math/vector.ts'

export interface BodyShape {
  /** About its centre of mass, metres; x, y, z of the points of each hull. Empty: a ball. */
  hulls: Float32Array[]
  /** Moments of inertia about the principal axes for mass 1, m². */
  inertia: Vector
  axes: Quaternion
  /** Farthest point, m. */
  reach: number
}

/** Full-size cells that fill space press on one another where they should only touch: hulls are this much smaller. */
const SMALLER = 0.995

/** A ball of a radius. */
export const ballShape = (radius: number): BodyShape => {
  const i = 0.4 * radius * radius
  return { hulls: [], inertia: [i, i, i], axes: UNTURNED, reach: radius }
}

/** A piece of a broken mesh, whose sizes along its axes are times `size`. */
export function pieceShape(mesh: Mesh, size: Vector, piece: number): BodyShape {
  const mass = massProperties(mesh, size)[piece]!
  const { hulls } = mesh.pieces!
  const own: Float32Array[] = []
  hulls.piece.forEach((of, k) => {
    if (of !== piece) return
    const points = hulls.points.subarray(hulls.starts[k]! * 3, hulls.starts[k + 1]! * 3)
    own.push(points.map((x, i) => SMALLER * (x * size[i % 3]! - mass.centre[i % 3]!)))
  })
  return { hulls: own, ...perMass(mass), reach: mass.reach }
}

function perMass({ volume, inertia, axes }: MassProperties): Pick<BodyShape, 'inertia' | 'axes'> {
  const least = 1e-3 * Math.max(...inertia)
  return { inertia: inertia.map((i) => Math.max(i, least, 1e-30) / Math.max(volume, 1e-30)) as Vector, axes }
}

/** A whole closed mesh about a point of it, times a scale; its hull. */
export function meshShape(mesh: Mesh, scale: number): BodyShape {
  const whole: Mesh = {
    ...mesh,
    pieces: {
      starts: Uint32Array.of(0, mesh.triangles.length / 3),
      inner: new Uint8Array(mesh.triangles.length / 3),
      hulls: { piece: new Uint32Array(0), starts: new Uint32Array(1), points: new Float32Array(0) },
      bonds: { pairs: new Uint32Array(0), areas: new Float32Array(0), centres: new Float32Array(0), normals: new Float32Array(0), moments: new Float32Array(0) }, // prettier-ignore
    },
  }
  const size: Vector = [scale, scale, scale]
  const mass = massProperties(whole, size)[0]!
  const { positions } = pieceMesh(whole, size, 0)
  const points = Float32Array.from(supportPoints(positions).flat())
  // an open mesh has no volume to speak of: its hull is as good as a ball
  const { inertia, axes } = mass.volume > 0 ? perMass(mass) : ballShape(mass.reach)
  return { hulls: [points], inertia, axes, reach: mass.reach }
}
