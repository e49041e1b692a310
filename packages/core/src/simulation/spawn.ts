/** Gives newborn particles their place, velocity and attributes. */
import { drawRandoms } from '../math/draw.ts'
import { cosine, logarithm, radians, sine } from '../math/functions.ts'
import { STREAM } from '../math/random.ts'
import { add, between, cross, dot, scale, transform, unit, type Affine, type Vector } from '../math/vector.ts'
import { valuesAt } from '../document/keys.ts'
import type { Varied } from '../document/parameters.ts'
import type { Body } from '../scene/body.ts'
import type { Stretch } from './emission.ts'
import type { Emission, PopulationState } from './world.ts'
import { floats, reserve, startFrom, words } from '../state/columns.ts'
import { RIGID, type Points } from '../scene/points.ts'
import { birthKind } from '../registry.ts'

interface Newborn {
  ids: Uint32Array
  points: Points
  /** Moment of each birth within the substep, 0–1. */
  times: Float64Array
}

export function spawn(
  population: PopulationState,
  run: Emission,
  { from, to, rate }: Stretch,
  { ids, points, times }: Newborn,
): void {
  const h = (to - from) / rate
  const { columns, seed, source } = population
  const { particle: rules, phases } = source
  const { machine } = run.mesh
  const first = columns.count
  reserve(columns, first + ids.length)
  columns.count += ids.length
  const kind = birthKind(run.rule.kind)
  const values = valuesAt(kind.parameters, run.rule, from) as unknown as {
    aim: string
    direction: Vector
    cone: number
    speed: number
    speedSpread: number
    turned: string
    inherit: number
    offset: number
  }
  const { body } = run
  // the opening has no length: there the mesh's velocity is that of a moment after it; a longer one where
  // the surface is known in f32 only
  const step = to > from ? to - from : body.deforms ? 0.5 : 0.01
  const span = step / rate
  const start = worldPoints(run, from, points)
  const end = body.moves ? worldPoints(run, from + step, points) : start
  const attributes = drawRandoms(machine, ids, seed, STREAM.attributes)
  const aims = drawRandoms(machine, ids, seed, STREAM.aim)
  const column = {
    id: words(columns, 'id'),
    phase: words(columns, 'phase'),
    position: floats(columns, 'position'),
    startPosition: floats(columns, 'startPosition'),
    velocity: floats(columns, 'velocity'),
    age: floats(columns, 'age'),
    phaseAge: floats(columns, 'phaseAge'),
    lifespan: floats(columns, 'lifespan'),
    radius: floats(columns, 'radius'),
    inverseMass: floats(columns, 'inverseMass'),
    surfaceVelocity: columns.at.surfaceVelocity ? floats(columns, 'surfaceVelocity') : null,
  }
  const phase = phases.indexOf(run.rule.into)
  const fixedAxis = values.aim === 'direction' ? unit(values.direction) : null
  const cone = cosine(radians(values.cone))
  const faces = columns.at.orientation && values.turned !== 'alike' ? new Float32Array(ids.length * 3) : null
  const goes = values.speed !== 0 || (faces !== null && values.turned === 'way')
  const needsNormals = values.offset !== 0 || (faces && values.turned === 'normal') || (goes && !fixedAxis)
  const normals = needsNormals && !points.about ? worldNormals(body, from, from + step, times, points) : null
  for (let k = 0; k < ids.length; k++) {
    const i = first + k
    const t = times[k]!
    const normal = normals ? vectorOf(normals, k) : UP
    const [a, b] = [vectorOf(start, k), vectorOf(end, k)]
    const way: Vector = [b[0] - a[0], b[1] - a[1], b[2] - a[2]]
    const position = add(add(a, scale(way, t)), scale(normal, values.offset))
    const carried = scale(way, values.inherit / span)
    const speed = values.speed * (1 + values.speedSpread * (2 * attributes[k * 4 + 3]! - 1))
    const heading = !goes ? normal : inCone(fixedAxis ?? normal, cone, aims[k * 4]!, aims[k * 4 + 1]!)
    const velocity = add(carried, scale(heading, speed))
    faces?.set(values.turned === 'normal' ? normal : unit(velocity, heading), k * 3)
    column.id[i] = ids[k]!
    column.phase[i] = phase
    column.position.set(position, i * 3)
    column.startPosition.set(position, i * 3)
    column.velocity.set(velocity, i * 3)
    column.surfaceVelocity?.set(carried, i * 3)
    column.age[i] = -t * h
    column.phaseAge[i] = -t * h
    const radius =
      rules.sizes === 'exponential'
        ? sizeOf(rules.radius, attributes[k * 4]!)
        : vary(rules.radius, attributes[k * 4]!, 'share')
    const density = vary(rules.density, attributes[k * 4 + 2]!, 'share')
    column.radius[i] = radius
    column.inverseMass[i] = 1 / (density * (4 / 3) * Math.PI * radius ** 3)
    column.lifespan[i] =
      rules.lifespan === null
        ? Infinity
        : Math.max(0, vary(rules.lifespan, attributes[k * 4 + 1]!, 'unit')) / rate
  }
  startFrom(columns, first)
  if (columns.at.birthRadius)
    floats(columns, 'birthRadius').set(floats(columns, 'radius').subarray(first), first)
  anchorTo(population, body, first, points, values.offset)
  if (!faces) return
  const orientation = floats(columns, 'orientation')
  if (values.turned !== 'random') {
    for (let k = 0; k < ids.length; k++) orientation.set(facing(vectorOf(faces, k)), (first + k) * 4)
    return
  }
  const turns = drawRandoms(machine, ids, seed, STREAM.turned)
  for (let k = 0; k < ids.length; k++)
    orientation.set(anyTurn(turns[k * 4]!, turns[k * 4 + 1]!, turns[k * 4 + 2]!), (first + k) * 4)
}

/** The shortest turn (x, y, z, w) that takes Z to a unit direction d: (z × d, 1 + z·d), made unit. */
function facing([x, y, z]: Vector): [number, number, number, number] {
  if (z < -0.999999) return [1, 0, 0, 0]
  const length = Math.sqrt(2 + 2 * z)
  return [-y / length, x / length, 0, length / 2]
}
/** A turn even over all turns. Source: Shoemake, "Uniform random rotations", Graphics Gems III (1992). */
function anyTurn(a: number, b: number, c: number): [number, number, number, number] {
  const [short, long] = [Math.sqrt(1 - a), Math.sqrt(a)]
  const [s, t] = [2 * Math.PI * b, 2 * Math.PI * c]
  return [short * sine(s), short * cosine(s), long * sine(t), long * cosine(t)]
}

/** On what they were born. */
function anchorTo(
  { columns }: PopulationState,
  body: Body,
  first: number,
  points: Points,
  offset: number,
): void {
  const { at } = columns
  if (!at.anchor || !at.anchorAt) return
  const anchor = words(columns, 'anchor')
  const anchorAt = floats(columns, 'anchorAt')
  points.triangles.forEach((triangle, k) => {
    const i = first + k
    if (points.about) {
      anchor.set([0, 0], i * 2)
      anchorAt.fill(0, i * 3, i * 3 + 3)
      return
    }
    anchor.set([body.number, triangle], i * 2)
    if (triangle === RIGID) anchorAt.set(points.positions!.subarray(k * 3, k * 3 + 3), i * 3)
    else anchorAt.set([points.weights[k * 2]!, points.weights[k * 2 + 1]!, offset], i * 3)
  })
}

const UP: Vector = [0, 1, 0]
const vectorOf = (array: Float32Array | Float64Array, k: number): Vector => [
  array[k * 3]!,
  array[k * 3 + 1]!,
  array[k * 3 + 2]!,
]

/** Where points of a body are in the world at a frame; to f64 where only its place moves. */
function worldPoints(
  { body, view }: Emission,
  frame: number,
  { triangles, weights, positions, about }: Points,
): Float64Array {
  const out = new Float64Array(triangles.length * 3)
  const map = body.placeAt(frame)
  if (about) {
    const { low, high } = body.facts
    const centre = about === 'camera' ? view : transform(map, scale(add(low, high), 0.5))
    for (let i = 0; i < out.length; i++) out[i] = centre[i % 3]! + positions![i]!
    return out
  }
  const p = body.deforms ? body.worldView(frame) : body.mesh.positions
  const corners = body.mesh.triangles
  for (let k = 0; k < triangles.length; k++) {
    const t = triangles[k]!
    if (t === RIGID) {
      out.set(transform(map, vectorOf(positions!, k)), k * 3)
      continue
    }
    const [a, b, c] = [corners[t * 3]! * 3, corners[t * 3 + 1]! * 3, corners[t * 3 + 2]! * 3]
    const [u, v] = [weights[k * 2]!, weights[k * 2 + 1]!]
    for (let axis = 0; axis < 3; axis++) {
      const origin = p[a + axis]!
      out[k * 3 + axis] = origin + (p[b + axis]! - origin) * u + (p[c + axis]! - origin) * v
    }
    if (!body.deforms) out.set(transform(map, vectorOf(out, k)), k * 3)
  }
  return out
}

/** Unit normals in the world: the points' own, turned with the place, or those of their triangles. */
function worldNormals(
  body: Body,
  from: number,
  to: number,
  times: Float64Array,
  points: Points,
): Float64Array {
  const out = new Float64Array(times.length * 3)
  const own = points.normals?.()
  if (own) {
    const [start, end] = [body.placeAt(from), body.placeAt(to)]
    const still = !start.some((value, i) => value !== end[i])
    const fixed = normalMap(start)
    for (let k = 0; k < times.length; k++) {
      const rows = still ? fixed : normalMap(between(start, end, times[k]!))
      const n = vectorOf(own, k)
      out.set(unit([dot(rows[0], n), dot(rows[1], n), dot(rows[2], n)]), k * 3)
    }
    return out
  }
  // the triangle as it is at the start of the substep; turned inside out where the place mirrors
  const world = body.worldView(from)
  const mirrored = dotOfPlace(body.placeAt(from)) < 0 ? -1 : 1
  for (let k = 0; k < times.length; k++) {
    const t = points.triangles[k]! * 3
    const [a, b, c] = [0, 1, 2].map((corner) => vectorOf(world, body.mesh.triangles[t + corner]!)) as [
      Vector,
      Vector,
      Vector,
    ]
    const [u, v] = [b, c].map((p) => [p[0] - a[0], p[1] - a[1], p[2] - a[2]]) as [Vector, Vector]
    out.set(scale(unit(cross(u, v)), mirrored), k * 3)
  }
  return out
}

const rowsOf = (m: Affine): [Vector, Vector, Vector] =>
  [0, 4, 8].map((o) => [m[o]!, m[o + 1]!, m[o + 2]!]) as [Vector, Vector, Vector]
function dotOfPlace(m: Affine): number {
  const [a, b, c] = rowsOf(m)
  return dot(a, cross(b, c))
}

/** Rows of the map that takes normals into the world: cofactors, turned round for a mirrored place. */
function normalMap(m: Affine): [Vector, Vector, Vector] {
  const [a, b, c] = rowsOf(m)
  const sign = dotOfPlace(m) < 0 ? -1 : 1
  return [scale(cross(b, c), sign), scale(cross(c, a), sign), scale(cross(a, b), sign)]
}

/** A value even between mean − spread and mean + spread. */
function vary(varied: Varied, draw: number, spread: 'share' | 'unit'): number {
  if (typeof varied === 'number') return varied
  const reach = spread === 'share' ? varied.mean * varied.spread : varied.spread
  return varied.mean + reach * (2 * draw - 1)
}

/**
 * Many small ones and few large: radii from mean·(1 − spread) up whose excess falls off exponentially, to five times
 * its mean, as measured for aggregate snowflakes. Source: Gunn, Marshall, "The distribution with size of aggregate
 * snowflakes", Journal of Meteorology 15 (1958).
 */
function sizeOf(varied: Varied, draw: number): number {
  const { mean, spread } = typeof varied === 'number' ? { mean: varied, spread: 0 } : varied
  return mean * (1 - spread) + mean * spread * Math.min(5, -logarithm(draw))
}

/** A direction even over the cap of a cone about an axis; `cone` is the cosine of its half angle. */
function inCone(axis: Vector, cone: number, a: number, b: number): Vector {
  if (cone >= 1) return axis
  const height = 1 - a * (1 - cone)
  const out = Math.sqrt(Math.max(0, 1 - height * height))
  const side = unit(cross(axis, Math.abs(axis[1]) < 0.9 ? [0, 1, 0] : [1, 0, 0]))
  const other = cross(axis, side)
  const turn = 2 * Math.PI * b
  return add(scale(axis, height), add(scale(side, out * cosine(turn)), scale(other, out * sine(turn))))
}
