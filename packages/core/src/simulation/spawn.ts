/** Gives newborn particles their place, velocity and attributes. */
import { anyTurn, facing, inCone } from '../math/directions.ts'
import { drawRandoms } from '../math/draw.ts'
import { cosine, logarithm, radians } from '../math/functions.ts'
import { STREAM } from '../math/random.ts'
import { add, scale, unit, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import { valuesAt } from '../document/keys.ts'
import type { Varied } from '../document/parameters.ts'
import { birthKind } from '../registry.ts'
import { pieceNumber } from '../scene/pieces.ts'
import { bends, piecePose } from '../scene/piecePoses.ts'
import { RIGID, type Points } from '../scene/points.ts'
import { turningOf } from '../scene/turning.ts'
import { floats, reserve, startFrom, words } from '../state/columns.ts'
import { eventOf } from '../state/events.ts'
import { worldNormals, worldPoints } from './birthPlaces.ts'
import { startOwnAttributes } from './ownAttributes.ts'
import type { Emission, PopulationState, Stretch } from './world.ts'

/** Who is born in a stretch. */
export interface Newborn {
  ids: Uint32Array
  points: Points
  /** Moment of each birth within the substep, 0–1. */
  times: Float64Array
}
/** The same with their numbers in the columns: from `first` on. */
interface Placed extends Newborn {
  first: number
}

/** What a birth says of how particles set out; see births/birth.ts. */
interface SettingOut {
  aim: string
  direction: Vector
  cone: number
  speed: number
  speedSpread: number
  turned: string
  inherit: number
  offset: number
}

const UP: Vector = [0, 1, 0]

export function spawn(
  population: PopulationState,
  emission: Emission,
  stretch: Stretch,
  newborn: Newborn,
): void {
  const { columns } = population
  const first = columns.count
  reserve(columns, first + newborn.ids.length)
  columns.count += newborn.ids.length
  const kind = birthKind(emission.rule.kind)
  const values = {
    turned: 'alike',
    offset: 0,
    ...valuesAt(kind.parameters, emission.rule, stretch.from),
  } as unknown as SettingOut
  const placed = { ...newborn, first }
  startFrom(columns, first)
  giveMakeup(population, emission, stretch, placed)
  setOut(population, emission, stretch, placed, values)
  if (newborn.points.pieces) standAsMesh(population, emission, stretch, placed)
  anchorTo(population, emission, placed, values.offset)
  startOwnAttributes(population, emission, stretch.from, first, newborn.points)
}

/** Who they are, how large, how heavy, and how long they live. */
function giveMakeup(
  { columns, seed, source }: PopulationState,
  { rule, mesh, body }: Emission,
  { from, to, rate }: Stretch,
  { ids, times, first, points }: Placed,
): void {
  const { particle, phases } = source
  const h = (to - from) / rate
  const draws = drawRandoms(mesh.machine, ids, seed, STREAM.attributes)
  words(columns, 'id').set(ids, first)
  words(columns, 'phase').fill(phases.indexOf(rule.into), first)
  const [age, phaseAge, lifespan] = [
    floats(columns, 'age'),
    floats(columns, 'phaseAge'),
    floats(columns, 'lifespan'),
  ]
  const [radii, inverseMass] = [floats(columns, 'radius'), floats(columns, 'inverseMass')]
  for (let k = 0; k < ids.length; k++) {
    const i = first + k
    age[i] = phaseAge[i] = -times[k]! * h
    const radius =
      points.radii?.[k] ??
      (particle.sizes === 'exponential'
        ? exponentialSize(particle.radius, draws[k * 4]!)
        : vary(particle.radius, draws[k * 4]!, 'share'))
    const density = vary(particle.density, draws[k * 4 + 2]!, 'share')
    radii[i] = radius
    inverseMass[i] = 1 / (density * (4 / 3) * Math.PI * radius ** 3)
    lifespan[i] =
      particle.lifespan === null
        ? Infinity
        : Math.max(0, vary(particle.lifespan, draws[k * 4 + 1]!, 'unit')) / rate
  }
  if (columns.at.piece) {
    const piece = words(columns, 'piece')
    for (let k = 0; k < ids.length; k++)
      piece[first + k] = points.pieces ? pieceNumber(body.number - 1, points.pieces[k]!) : 0
  }
  if (columns.at.birthRadius) floats(columns, 'birthRadius').set(radii.subarray(first), first)
}

/** Where they are, how fast they go, and which way they are turned. */
function setOut(
  population: PopulationState,
  emission: Emission,
  { from, to, rate }: Stretch,
  { ids, points, times, first }: Placed,
  values: SettingOut,
): void {
  const { columns, seed, events } = population
  const { body, mesh } = emission
  // the opening has no length: there the mesh's velocity is that of a moment after it; a longer one where
  // the surface is known in f32 only
  const step = to > from ? to - from : body.deforms ? 0.5 : 0.01
  const span = step / rate
  const start = worldPoints(emission, from, points)
  const end = body.moves ? worldPoints(emission, from + step, points) : start
  const draws = drawRandoms(mesh.machine, ids, seed, STREAM.attributes)
  const aims = drawRandoms(mesh.machine, ids, seed, STREAM.aim)
  const column = {
    position: floats(columns, 'position'),
    startPosition: floats(columns, 'startPosition'),
    velocity: floats(columns, 'velocity'),
    surfaceVelocity: columns.at.surfaceVelocity ? floats(columns, 'surfaceVelocity') : null,
  }
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
    const inherited = scale(way, values.inherit / span)
    const speed = values.speed * (1 + values.speedSpread * (2 * draws[k * 4 + 3]! - 1))
    const heading = !goes ? normal : inCone(fixedAxis ?? normal, cone, aims[k * 4]!, aims[k * 4 + 1]!)
    const velocity = add(inherited, scale(heading, speed))
    if (faces) writeVector(faces, k, values.turned === 'normal' ? normal : unit(velocity, heading))
    writeVector(column.position, i, position)
    writeVector(column.startPosition, i, position)
    writeVector(column.velocity, i, velocity)
    if (column.surfaceVelocity) writeVector(column.surfaceVelocity, i, inherited)
    const of = points.about ? '' : body.shotMesh.id
    const moment = from + t * (to - from)
    events.add(
      eventOf('birth', moment, ids[k]!, { place: position, normal: normals ? normal : [0, 0, 0], of }),
    )
  }
  if (faces) turn(population, mesh.machine, ids, first, values.turned === 'random' ? null : faces)
}

/** Pieces are turned as their mesh is, and turn with it; where that does not keep its shape, they stand as their part of it does. */
function standAsMesh(
  { columns }: PopulationState,
  { body }: Emission,
  { from, to, rate }: Stretch,
  { first, ids, points }: Placed,
): void {
  const whole = turningOf(body, from, to, rate)
  if (bends(body)) {
    points.pieces!.forEach((piece, k) => {
      const { place, turned } = piecePose(body, piece, from)
      floats(columns, 'orientation').set(turned, (first + k) * 4)
      for (const name of ['position', 'startPosition'] as const)
        writeVector(floats(columns, name), first + k, place)
    })
    return
  }
  for (let i = first; i < first + ids.length; i++) {
    if (columns.at.orientation) floats(columns, 'orientation').set(whole.turned, i * 4)
    if (columns.at.angularVelocity) writeVector(floats(columns, 'angularVelocity'), i, whole.angularVelocity)
  }
}

/** Turns them to a direction each, or at random. */
function turn(
  { columns, seed }: PopulationState,
  machine: Emission['mesh']['machine'],
  ids: Uint32Array,
  first: number,
  faces: Float32Array | null,
): void {
  const orientation = floats(columns, 'orientation')
  const draws = faces ? null : drawRandoms(machine, ids, seed, STREAM.turned)
  for (let k = 0; k < ids.length; k++) {
    const to = draws
      ? anyTurn(draws[k * 4]!, draws[k * 4 + 1]!, draws[k * 4 + 2]!)
      : facing(vectorOf(faces!, k)) // one of the two is there
    orientation.set(to, (first + k) * 4)
  }
}

/** On what they were born. */
function anchorTo(
  { columns }: PopulationState,
  { body }: Emission,
  { points, first }: Placed,
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
function exponentialSize(varied: Varied, draw: number): number {
  const { mean, spread } = typeof varied === 'number' ? { mean: varied, spread: 0 } : varied
  return mean * (1 - spread) + mean * spread * Math.min(5, -logarithm(draw))
}
