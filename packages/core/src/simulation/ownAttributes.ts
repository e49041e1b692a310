/** What newborn particles have of the attributes that the artist added. */
import type { Machine } from '@tangle/kernels'
import type { OwnAttribute, OwnBirth, OwnValue } from '../document/types.ts'
import { linearColour } from '../look/ramps.ts'
import { drawRandoms } from '../math/draw.ts'
import { seedFrom, STREAM } from '../math/random.ts'
import type { Mesh } from '../geometry/mesh.ts'
import { RIGID, type Points } from '../scene/points.ts'
import { projectionWeights } from '../scene/surfaceProjection.ts'
import { ownName, OWN_WIDTHS } from '../state/attribute.ts'
import { floats, randomKeys, words } from '../state/columns.ts'
import type { Body } from '../scene/body.ts'
import type { Masks } from '../scene/masks.ts'
import type { PopulationState } from './world.ts'

/** Where they are born: with what masks say, and on which mesh; null: in the air. */
export interface Birthplace {
  machine: Machine
  masks: Masks
  body: Body | null
  frame: number
}

/** Writes the attributes of the particles from `first` on; `points` are those on the mesh. */
export function startOwnAttributes(
  population: PopulationState,
  birthplace: Birthplace,
  first: number,
  points: Points | null,
): void {
  const { columns, source, seed } = population
  if (columns.count === first) return
  for (const attribute of source.attributes) {
    const width = OWN_WIDTHS[attribute.type]
    const values = floats(columns, ownName(attribute.id)).subarray(first * width)
    const keys = words(columns, randomKeys(columns)).subarray(first)
    const draws = drawRandoms(birthplace.machine, keys, seedFrom(seed, attribute.id), STREAM.own)
    const { birth } = attribute
    const { body } = birthplace
    if ('data' in birth && body && points) {
      const places = (): Places => placesOn(population, birthplace, body, first, points)
      writeMeshData(body, birth.data, places, values, width)
    } else if ('data' in birth) values.fill(0)
    else {
      const at = 'mask' in birth ? masksAt(population, birthplace, birth.mask, first) : null
      const draw = drawer(attribute, birth)
      for (let k = 0; k < keys.length; k++)
        values.set(draw(draws.subarray(k * 4, k * 4 + 4), at?.[k] ?? 0), k * width)
    }
    if (attribute.type === 'whole') values.forEach((value, k) => (values[k] = Math.round(value)))
  }
}

/** A value as numbers; colours as linear RGB. */
export const partsOf = (value: OwnValue): number[] =>
  typeof value === 'string' ? linearColour(value) : typeof value === 'number' ? [value] : value

const between = (low: number[], high: number[], share: (part: number) => number): number[] =>
  low.map((x, part) => x + (high[part]! - x) * share(part))

/** What a particle gets by four numbers of its own (0–1), or by the mask where it is born. */
function drawer(
  { type }: OwnAttribute,
  birth: Exclude<OwnBirth, { data: string }>,
): (draws: Float64Array, mask: number) => number[] {
  if ('mask' in birth) {
    const [low, high] = [partsOf(birth.low), partsOf(birth.high)]
    return (_, mask) => between(low, high, () => mask)
  }
  if ('list' in birth) {
    const total = birth.list.reduce((sum, { weight }) => sum + weight, 0)
    const values = birth.list.map(({ value }) => partsOf(value))
    return (draws) => {
      let left = draws[0]! * total
      const found = birth.list.findIndex(({ weight }) => weight > 0 && (left -= weight) < 0)
      return values[Math.max(0, found)]!
    }
  }
  if (type === 'whole') {
    // every whole number of the range is as likely as any other
    const [low, high] =
      'low' in birth
        ? [birth.low as number, birth.high as number]
        : [
            Math.ceil((birth.mean as number) - birth.spread),
            Math.floor((birth.mean as number) + birth.spread),
          ]
    const count = Math.abs(high - low) + 1
    return (draws) => [Math.min(low, high) + Math.min(count - 1, Math.floor(draws[0]! * count))]
  }
  // a colour lies on the line between two; the parts of a vector are drawn each by itself
  const part = (p: number): number => (type === 'vector' ? p : 0)
  if ('low' in birth) {
    const [low, high] = [partsOf(birth.low), partsOf(birth.high)]
    return (draws) => between(low, high, (p) => draws[part(p)]!)
  }
  const mean = partsOf(birth.mean)
  return (draws) => mean.map((x, p) => x + birth.spread * (2 * draws[part(p)]! - 1))
}

/** A mask where newborn particles are. */
function masksAt(
  { columns }: PopulationState,
  { masks, machine, frame }: Birthplace,
  mask: string,
  first: number,
): Float32Array {
  const { heap } = machine
  const { position, anchor, anchorAt } = columns.at
  const count = columns.count - first
  const out = heap.allocate(count * 4)
  const anchors = anchor
    ? { anchors: { anchor: anchor + first * 8, at: anchorAt + first * 12, isHeld: () => true } }
    : {}
  masks.write(mask, { count, positions: position + first * 12, frame, ...anchors }, out)
  const values = heap.f32(out, count).slice()
  heap.free(out)
  return values
}

/** Where on a mesh something is: on a triangle, by the weights of its second and third corner; or on a vertex. */
type Places = Pick<Points, 'triangles' | 'weights' | 'vertices'>

/** The places of birth on the mesh; for those that were born in its space the nearest ones. */
function placesOn(
  { columns }: PopulationState,
  { machine, frame }: Birthplace,
  body: Body,
  first: number,
  points: Points,
): Places {
  const surface = body.mesh.triangles.length > 0
  if (points.vertices || !surface || !(points.heights || points.triangles.includes(RIGID))) return points
  const count = columns.count - first
  return projectionWeights(machine, body, frame, columns.at.position + first * 12, count)
}

/** What the mesh carries at the places of birth: 0 where it carries nothing of that name. */
function writeMeshData(
  body: Body,
  name: string,
  placesOf: () => Places,
  values: Float32Array,
  width: number,
): void {
  const data = dataOf(body.mesh, name)
  if (!data) return void values.fill(0)
  const { triangles, weights, vertices } = placesOf()
  for (let k = 0; k < values.length / width; k++) {
    const t = triangles[k]!
    const [u, v] = [weights[k * 2]!, weights[k * 2 + 1]!]
    for (let part = 0; part < width; part++) {
      // one number serves all parts of a vector
      const p = Math.min(part, data.width - 1)
      if (vertices && data.atVertex) values[k * width + part] = data.atVertex(vertices[k]!, p)
      else if (t !== RIGID)
        values[k * width + part] =
          (1 - u - v) * data.at(t, 0, p) + u * data.at(t, 1, p) + v * data.at(t, 2, p)
    }
  }
}

/** Reads numbers of a mesh: texture coordinates stand by corner of a triangle, other data by vertex. */
function dataOf(mesh: Mesh, name: string) {
  type At = (index: number, corner: number, part: number) => number
  if (name === 'uv') {
    const { uvs } = mesh
    const at: At = (t, corner, part) => uvs![t * 6 + corner * 2 + part]!
    return uvs && { width: 2, at, atVertex: undefined }
  }
  const found = mesh.data?.[name]
  if (!found) return undefined
  const { width, values } = found
  const atVertex = (vertex: number, part: number): number => values[vertex * width + part]!
  const at: At = (t, corner, part) => atVertex(mesh.triangles[t * 3 + corner]!, part)
  return { width, at, atVertex }
}
