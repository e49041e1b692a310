/** Particles drawn as meshes: which mesh each one is, and how that mesh lies about it. */
import { turnedOver, type Mesh } from '../geometry/mesh.ts'
import { random, seedFrom, STREAM } from '../math/random.ts'
import { affine, transform, type Vector } from '../math/vector.ts'
import { vectorAt } from '../document/keys.ts'
import type { Instances, Shot, ShotMesh } from '../document/types.ts'

/**
 * Says which mesh of the set a particle is, by its id: drawn once by weight, so it stays the same for life and in
 * every file. Without any weight they are all alike.
 */
export function chooseInstance(shot: Shot, population: string, { set }: Instances): (id: number) => number {
  const seed = seedFrom(shot.seed, population)
  const total = set.reduce((sum, { weight }) => sum + weight, 0)
  const known: number[] = []
  const draw = (id: number): number => {
    let left = random(seed, id, STREAM.instance) * total
    for (const [n, { weight }] of set.entries()) {
      left -= weight
      if (left < 0 && weight > 0) return n
    }
    return 0
  }
  return (id) => (known[id] ??= draw(id))
}

/** By how much the mesh of `instanceMesh` is scaled about a particle of this radius, metres. */
export const instanceScale = ({ fit, size }: Instances, radius: number): number =>
  fit === 'radius' ? size * radius : size

/**
 * A mesh of the set as it lies about a particle that is turned nowhere, its middle moved off by the offset. Fitted
 * to the radius its longest side goes from −1 to 1; else it keeps its size, in metres.
 */
export function instanceMesh(
  mesh: Mesh,
  { place }: ShotMesh,
  { fit, turn, offset }: Instances,
  firstFrame: number,
): Mesh {
  // as it stands in the shot, then turned; where it stands does not matter
  const size = vectorAt(place.scale, firstFrame)
  const stands = affine([0, 0, 0], vectorAt(place.rotation, firstFrame), size)
  const turned = affine([0, 0, 0], turn, [1, 1, 1])
  const positions = new Float32Array(mesh.positions.length)
  const [low, high]: [Vector, Vector] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ]
  for (let i = 0; i < positions.length; i += 3) {
    const own: Vector = [mesh.positions[i]!, mesh.positions[i + 1]!, mesh.positions[i + 2]!]
    transform(turned, transform(stands, own)).forEach((x, axis) => {
      positions[i + axis] = x
      low[axis] = Math.min(low[axis]!, x)
      high[axis] = Math.max(high[axis]!, x)
    })
  }
  const half = Math.max(1e-12, ...low.map((x, axis) => (high[axis]! - x) / 2))
  const scale = fit === 'radius' ? 1 / half : 1
  for (let i = 0; i < positions.length; i++) {
    const axis = i % 3
    const middle = (low[axis]! + high[axis]!) / 2
    positions[i] = (positions[i]! - middle + offset[axis]! * half) * scale
  }
  // mirrored it would be inside out
  const mirrored = size[0] * size[1] * size[2] < 0
  return { positions, triangles: mirrored ? turnedOver(mesh.triangles) : mesh.triangles }
}

/** Most triangles of instances that the stage draws; above them they are spheres there. */
const MOST_TRIANGLES = 6e6

/** Whether so many particles are too many to be drawn as meshes; `triangles` are those of the n-th of the set. */
export function instancesTooHeavy(
  { set }: Instances,
  triangles: (n: number) => number,
  count: number,
): boolean {
  const total = set.reduce((sum, { weight }) => sum + weight, 0) || 1
  const mean = set.reduce((sum, { weight }, n) => sum + (triangles(n) * weight) / total, 0)
  return mean * count > MOST_TRIANGLES
}
