import {
  meshFacts,
  placeAt,
  transform,
  vectorAt,
  volumeOf,
  type Mesh,
  type ShotMesh,
  type Vector,
} from '@tangle/core'

/** Standard acceleration of free fall, m/s² (CGPM 1901, rounded). */
export const G = 9.81

/** A mesh as it stands in the world at the first frame; lengths in metres. */
export interface Standing {
  id: string
  name: string
  low: Vector
  high: Vector
  middle: Vector
  /** Along x, y and z. */
  sides: Vector
  /** The longest of them. */
  size: number
  area: number
  /** What it encloses; of an open mesh, half of the box around it. */
  volume: number
  closed: boolean
  /** Where it stands, how it is turned (degrees) and scaled. */
  place: { position: Vector; rotation: Vector; scale: Vector }
  /** Sides in its own space, before it is scaled, and their middle. */
  own: { sides: Vector; middle: Vector }
  /** Seconds in which something falls by its size: √(2·size/g). */
  fall: number
}

const boxOf = (positions: Float32Array): { low: Vector; high: Vector } => {
  const [low, high]: [Vector, Vector] = [
    [Infinity, Infinity, Infinity],
    [-Infinity, -Infinity, -Infinity],
  ]
  positions.forEach((x, k) => {
    low[k % 3] = Math.min(low[k % 3]!, x)
    high[k % 3] = Math.max(high[k % 3]!, x)
  })
  return { low, high }
}
const sidesOf = (low: Vector, high: Vector): Vector => high.map((x, k) => x - low[k]!) as Vector
const middleOf = (low: Vector, high: Vector): Vector => high.map((x, k) => (x + low[k]!) / 2) as Vector

/** Measures a mesh of a shot. A mesh without extent counts as a millimetre wide. */
export function standingOf(mesh: Mesh, { id, name, place }: ShotMesh, frame: number): Standing {
  const stands = placeAt(place, frame)
  const positions = new Float32Array(mesh.positions.length)
  for (let k = 0; k < positions.length; k += 3)
    positions.set(transform(stands, [mesh.positions[k]!, mesh.positions[k + 1]!, mesh.positions[k + 2]!]), k)
  const { low, high } = boxOf(positions)
  const sides = sidesOf(low, high)
  const size = Math.max(1e-3, ...sides)
  const world = { positions, triangles: mesh.triangles }
  const { area, openEdges, triangles } = meshFacts(world)
  const closed = triangles > 0 && openEdges === 0
  const volume = closed ? Math.abs(volumeOf(world)) : (sides[0] * sides[1] * sides[2]) / 2
  const own = boxOf(mesh.positions)
  return {
    id,
    name,
    low,
    high,
    middle: middleOf(low, high),
    sides,
    size,
    // points have none: as if they lay on the box around them
    area: area || 2 * (sides[0] * sides[1] + sides[1] * sides[2] + sides[2] * sides[0]) || size * size,
    volume: volume || size ** 3 / 1000,
    closed,
    place: {
      position: vectorAt(place.position, frame),
      rotation: vectorAt(place.rotation, frame),
      scale: vectorAt(place.scale, frame),
    },
    own: { sides: sidesOf(own.low, own.high), middle: middleOf(own.low, own.high) },
    fall: Math.sqrt((2 * size) / G),
  }
}

/** Height of a floor under a mesh: the ground where it stands on it or not far above, otherwise its own lowest point. */
export const floorUnder = ({ low, size }: Standing): number => (low[1] >= 0 && low[1] < 2 * size ? 0 : low[1])

/** A point of the box around a mesh: 0 is its low end, 1 its high one. */
export const within = ({ low, sides }: Standing, x: number, y: number, z: number): Vector => [
  low[0] + x * sides[0],
  low[1] + y * sides[1],
  low[2] + z * sides[2],
]
