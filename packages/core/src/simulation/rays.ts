/** Rays that particles cast: who meets a mesh before anything else bears a child there, is an event, and shows what has been seen of it. */
import type { Descent as Values } from '../births/particles.ts'
import { cumulatedAreas, scattered } from '../births/surface.ts'
import { areaVector } from '../geometry/mesh.ts'
import { facing, inCone } from '../math/directions.ts'
import { cosine, radians, sine } from '../math/functions.ts'
import { drawRandoms } from '../math/draw.ts'
import { ON_LINE, ON_SQUARE, part } from '../math/even.ts'
import { quaternionOf, rotate, unitQuaternion, type Quaternion } from '../math/quaternion.ts'
import { randoms, STREAM } from '../math/random.ts'
import { add, cross, dot, scale, subtract, unit, vectorOf, writeVector, type Vector } from '../math/vector.ts' // prettier-ignore
import { diagonalOf, type Body } from '../scene/body.ts'
import { RIGID, type Points } from '../scene/points.ts'
import { castRays, type RayHits, type Rays } from '../scene/rays.ts'
import { turnAt } from '../scene/turning.ts'
import { floats, randomKeys, words } from '../state/columns.ts'
import { eventOf } from '../state/events.ts'
import { placesBetween, worldNormals } from './birthPlaces.ts'
import type { Child } from './litter.ts'
import type { Origins } from './spawn.ts'
import type { Descent, Moment } from './world.ts'

/** Rays that have met their mesh: by the numbers of the children that were asked for, where on the mesh, and how far off, m. */
export interface Met {
  rows: number[]
  points: Points
  distances: number[]
}

/** The children whose rays meet a body before anything that stands in the way, and where. */
export function castFrom(
  values: Values,
  moment: Moment,
  body: Body,
  children: Child[],
  { places, ways }: Origins,
  seed: number,
): Met {
  const { machine, bodies, from, to } = moment
  const keys = Uint32Array.from(children, ({ key }) => key)
  const targets = values.aim === 'target' ? placesOn(body, moment, seed, keys, children) : null
  const spread = spreader(values, moment, seed, keys)
  const rays: Rays = {
    origins: Float32Array.from(places),
    ways: new Float32Array(places.length),
    frames: Float64Array.from(children, ({ time }) => from + time * (to - from)),
  }
  children.forEach((child, k) => {
    const axis = targets ? unit(subtract(vectorOf(targets, k), vectorOf(places, k))) : vectorOf(ways!, k)
    writeVector(rays.ways, k, scale(spread(child, k, axis), values.reach))
  })
  const cast = (one: Body): RayHits => castOff(machine, one, to, rays, values.reach, children)
  const { shares, triangles, weights } = cast(body)
  const others = values.blocked === 'all' ? [...bodies.values()] : values.behind === undefined ? [] : [bodies.get(values.behind)!] // prettier-ignore
  const before = others.filter((one) => one !== body).map((one) => cast(one).shares)
  const rows = [...shares.keys()].filter((k) => shares[k]! <= 1 && !before.some((all) => all[k]! < shares[k]!)) // prettier-ignore
  return {
    rows,
    points: {
      triangles: Uint32Array.from(rows, (k) => triangles[k]!),
      weights: Float32Array.from(rows.flatMap((k) => [weights[k * 2]!, weights[k * 2 + 1]!])),
    },
    distances: rows.map((k) => shares[k]! * values.reach),
  }
}

/** Who sets out on a mesh is that far off it, as a part of its size, before it can meet it. */
const OFF = 1e-4

/** Casts rays at a body; those of particles that are on it from a little off it. */
function castOff(
  machine: Moment['machine'],
  body: Body,
  frame: number,
  rays: Rays,
  reach: number,
  children: Child[],
): RayHits {
  const own = children.map((child) => anchorOf(child)?.[0] === body.number)
  if (!own.includes(true)) return castRays(machine, body, frame, rays)
  const off = OFF * diagonalOf(body)
  const origins = rays.origins.map((x, k) => (own[Math.floor(k / 3)] ? x + (rays.ways[k]! * off) / reach : x))
  const hits = castRays(machine, body, frame, { ...rays, origins })
  return { ...hits, shares: hits.shares.map((share, k) => (own[k] && share <= 1 ? share + off / reach : share)) } // prettier-ignore
}

/** Places of a body, even by area, one for each child: where they are in the world at its moment. */
function placesOn(
  body: Body,
  { machine, from, to }: Moment,
  seed: number,
  keys: Uint32Array,
  children: Child[],
): Float64Array {
  const areas = cumulatedAreas({ mesh: body.mesh, scale: body.sizeAt(to) })
  if (!(areas.at(-1)! > 0)) return new Float64Array(keys.length * 3)
  const points = scattered(machine, seed, STREAM.surface, keys, areas)
  return placesBetween(body, from, to, points, (k) => children[k]!.time)
}

/** The direction of a ray about its axis: at random in the cone, or one after the other of a parent evenly over it, or over a fan. */
function spreader(
  values: Values,
  moment: Moment,
  seed: number,
  keys: Uint32Array,
): (child: Child, k: number, axis: Vector) => Vector {
  const cone = cosine(radians(values.cone))
  const draws = drawRandoms(moment.machine, keys, seed, STREAM.aim)
  if (values.pattern === 'random') return (_, k, axis) => inCone(axis, cone, draws[k * 4]!, draws[k * 4 + 1]!)
  const turns = values.axes === 'parent' || values.aim === 'surface'
  return (child, _, axis) => {
    const { parents, row, number } = child
    const [a, b] = randoms(seed, words(parents, randomKeys(parents))[row]!, STREAM.aim)
    if (values.pattern === 'even') return inCone(axis, cone, part(a + number * ON_SQUARE[0]), part(b + number * ON_SQUARE[1])) // prettier-ignore
    const fan = turns ? rotate(turnOfMesh(child, moment), values.fan) : values.fan
    const beside = cross(axis, Math.abs(axis[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0])
    const side = unit(subtract(fan, scale(axis, dot(fan, axis))), unit(beside))
    const angle = radians(values.cone) * (2 * part(a + number * ON_LINE) - 1)
    return add(scale(axis, cosine(angle)), scale(side, sine(angle)))
  }
}

/** The body (by its number) and the triangle that the parent of a child is on; null: it is in the air. */
function anchorOf({ parents, row }: Child): [body: number, triangle: number] | null {
  if (!parents.at.anchor) return null
  const anchor = words(parents, 'anchor')
  return anchor[row * 2] === 0 ? null : [anchor[row * 2]!, anchor[row * 2 + 1]!]
}

/** How a parent is turned: as the mesh that it is on; in the air as it is itself, or its front looks along its way. */
export function turnOfMesh(child: Child, { bodies, from, to }: Moment): Quaternion {
  const number = anchorOf(child)?.[0]
  const body = [...bodies.values()].find((one) => one.number === number)
  return body ? turnAt(body, from + child.time * (to - from)) : turnOf(child)
}

/** How a parent is turned; where it does not turn, its front looks along its way. */
export function turnOf({ parents, row, velocity }: Child): Quaternion {
  if (parents.at.orientation) return unitQuaternion(quaternionOf(floats(parents, 'orientation'), row))
  return facing(unit(velocity, [0, 0, 1]))
}

/** Off the mesh that a parent is on; null: it is on none. */
export function normalBelow(child: Child, { bodies, from, to }: Moment): Vector | null {
  const [number, triangle] = anchorOf(child) ?? [0, RIGID]
  const body = [...bodies.values()].find((one) => one.number === number)
  if (!body || triangle === RIGID) return null
  const { mesh, deforms } = body
  const points: Points = { triangles: Uint32Array.of(triangle), weights: new Float32Array(2) }
  const rest = (): Float32Array => Float32Array.from(areaVector(mesh, triangle))
  const normal = vectorOf(worldNormals(body, from, to, Float64Array.of(child.time), deforms ? points : { ...points, normals: rest }), 0) // prettier-ignore
  // who was born below the surface looks down
  return floats(child.parents, 'anchorAt')[child.row * 3 + 2]! < 0 ? scale(normal, -1) : normal
}

/** Each hit is an event of the parent, and is remembered for masks that ask what has been seen. */
export function tellHits(
  { populations, from, to, shot, seen }: Moment,
  { rule }: Descent,
  body: Body,
  children: Child[],
  { places, normals }: Origins,
  { points, distances }: Met,
): void {
  const { mesh, shotMesh } = body
  const { triangles, weights } = points
  // rays that are cast at hits are none themselves: they would go on for ever
  const isEvent = !('event' in rule.amount && rule.amount.event === 'hit')
  const { events } = populations.find(({ source }) => source.id === rule.from)!
  if (isEvent)
    children.forEach(({ parents, row, time }, k) => {
      const triangle = triangles[k]!
      const uv = [0, 1].map((c) => between(mesh.uvs, [0, 2, 4].map((n) => triangle * 6 + n + c), weights, k)) as [number, number] // prettier-ignore
      const id = words(parents, 'id')[row]!
      const at = { place: vectorOf(places, k), normal: vectorOf(normals!, k), uv, distance: distances[k]! }
      events.add(eventOf('hit', from + time * (to - from), id, { of: shotMesh.id, other: triangle, ...at }))
    })
  if (!seen.isAsked(shotMesh.id)) return
  const sized = body.sizedAt(shot.frames.first)
  const met = Float32Array.from(
    { length: children.length * 3 },
    (_, i) => {
      const k = Math.floor(i / 3)
      return between(sized, [0, 1, 2].map((n) => mesh.triangles[triangles[k]! * 3 + n]! * 3 + (i % 3)), weights, k)
    }, // prettier-ignore
  )
  seen.add(shotMesh.id, met, to)
}

/** The value at a place of a triangle, from those of its corners at three places of an array. */
function between(
  all: Float32Array | undefined,
  [a, b, c]: number[],
  weights: Float32Array,
  k: number,
): number {
  if (!all) return 0
  const [u, v] = [weights[k * 2]!, weights[k * 2 + 1]!]
  return all[a!]! * (1 - u - v) + all[b!]! * u + all[c!]! * v
}
