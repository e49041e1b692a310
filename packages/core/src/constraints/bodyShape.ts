/** The shape of a body: what it weighs, how it resists turning, and the hulls that touch. */
import { convexParts } from '../geometry/convexParts.ts'
import { perMesh, type Mesh } from '../geometry/mesh.ts'
import { massOfTriangles, massProperties, type MassProperties } from '../geometry/pieces.ts'
import { UNTURNED, type Quaternion } from '../math/quaternion.ts'
import { length, type Vector } from '../math/vector.ts'

export interface BodyShape {
  /** About its centre of mass, metres: x, y, z of the points of each of its hulls. None: a ball. */
  hulls: Float32Array[]
  /** Moments of inertia about the principal axes for mass 1, m². */
  inertia: Vector
  axes: Quaternion
  /** Farthest point, m. */
  reach: number
  /** Of its surface, m². */
  area: number
}

/** Full-size cells that fill space press on one another where they should only touch: hulls are this much smaller. */
const SMALLER = 0.995

/** A ball of a radius. */
export const ballShape = (radius: number): BodyShape => ({
  hulls: [],
  ...inertiaOfBall(radius),
  reach: radius,
  area: 4 * Math.PI * radius * radius,
})
function inertiaOfBall(radius: number): Pick<BodyShape, 'inertia' | 'axes'> {
  const i = 0.4 * radius * radius
  return { inertia: [i, i, i], axes: UNTURNED }
}

/** A piece of a broken mesh, whose sizes along its axes are times `size`. */
export function pieceShape(mesh: Mesh, size: Vector, piece: number): BodyShape {
  const known = shapesOf(mesh)
  const key = `${size.join()} ${piece}`
  const found = known.get(key) ?? shapeOfPiece(mesh, size, piece)
  known.set(key, found)
  return found
}
const shapesOf = perMesh(() => new Map<string, BodyShape>())

function shapeOfPiece(mesh: Mesh, size: Vector, piece: number): BodyShape {
  const mass = massProperties(mesh, size)[piece]!
  if (isRound(mass)) return roundShape(mass)
  const { firsts, starts, points } = mesh.pieces!.hulls
  const hulls = Array.from(starts.subarray(firsts[piece]!, firsts[piece + 1]!), (from, k) => {
    const own = points.subarray(from * 3, starts[firsts[piece]! + k + 1]! * 3)
    return own.map((x, i) => SMALLER * (x * size[i % 3]! - mass.centre[i % 3]!))
  })
  return { hulls, ...perMass(mass), reach: mass.reach, area: mass.area }
}

function perMass({ volume, inertia, axes }: MassProperties): Pick<BodyShape, 'inertia' | 'axes'> {
  const least = 1e-3 * Math.max(...inertia)
  return { inertia: inertia.map((i) => Math.max(i, least, 1e-30) / Math.max(volume, 1e-30)) as Vector, axes }
}

/** What fills so much of the ball around it is one to what it touches: it rolls. */
const ROUND = 0.93
const volumeOfBall = (radius: number): number => (4 / 3) * Math.PI * radius ** 3
const isRound = ({ volume, reach }: MassProperties): boolean => volume > ROUND * volumeOfBall(reach)
const roundShape = (mass: MassProperties): BodyShape => ({
  hulls: [],
  ...perMass(mass),
  reach: Math.cbrt(mass.volume / volumeOfBall(1)),
  area: mass.area,
})

/** A mesh about its origin, times a scale. An open one has no volume to speak of and turns like a ball. */
export function meshShape(mesh: Mesh, scale: number): BodyShape {
  const { hulls, inertia, axes, reach, area } = shapeOfMesh(mesh)
  return {
    hulls: hulls.map((points) => points.map((x) => x * scale)),
    inertia: inertia.map((i) => i * scale * scale) as Vector,
    axes,
    reach: reach * scale,
    area: area * scale * scale,
  }
}
/** A ball turns about its middle, if that is no farther from the origin than this share of its radius. */
const OFF_CENTRE = 0.02
const shapeOfMesh = perMesh((mesh): BodyShape => {
  const mass = massOfTriangles(mesh, [1, 1, 1], 0, mesh.triangles.length / 3)
  if (isRound(mass) && length(mass.centre) < OFF_CENTRE * mass.reach) return roundShape(mass)
  const hulls = convexParts(mesh).map((points) => Float32Array.from(points.flat()))
  const turns = mass.volume > 0 ? perMass(mass) : inertiaOfBall(mass.reach)
  return { hulls, ...turns, reach: mass.reach, area: mass.area }
})
