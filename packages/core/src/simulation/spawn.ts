/** Gives newborn particles their makeup, place, velocity and attributes; offspring.ts does so for those born of particles. */
import type { Machine } from '@tangle/kernels'
import { anyTurn, facing, inCone } from '../math/directions.ts'
import { drawRandoms } from '../math/draw.ts'
import { cosine, logarithm, radians } from '../math/functions.ts'
import { STREAM } from '../math/random.ts'
import { add, scale, unit, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import { valuesAt } from '../document/keys.ts'
import type { Varied } from '../document/parameters.ts'
import { birthKind } from '../registry.ts'
import type { Body } from '../scene/body.ts'
import { pieceNumber } from '../scene/pieces.ts'
import { bends, piecePose } from '../scene/piecePoses.ts'
import { RIGID, type Points } from '../scene/points.ts'
import { turningOf } from '../scene/turning.ts'
import { floats, randomKeys, reserve, startFrom, words } from '../state/columns.ts'
import { eventOf } from '../state/events.ts'
import { worldNormals, worldPoints } from './birthPlaces.ts'
import { insideDeformed } from './deformedInside.ts'
import { bornTemperature } from './heat.ts'
import { startOwnAttributes } from './ownAttributes.ts'
import type { Emission, PopulationState, Stretch } from './world.ts'

/** Who is born in a stretch. */
export interface Newborn {
  ids: Uint32Array
  /** What their random numbers follow from. */
  keys: Uint32Array
  /** Moment of each birth within the substep, 0–1. */
  times: Float64Array
  /** Sizes that are given, m; without them the population's rules say. */
  radii?: Float32Array
}
/** The same with their numbers in the columns: from `first` on. */
interface Placed extends Newborn {
  first: number
}

/** Where they are born: x, y, z each. */
export interface Origins {
  /** Metres. */
  places: Float64Array
  /** Unit directions off what they are born on; null where there is none. */
  normals: Float64Array | null
  /** Unit directions in which they set out where no other is chosen; null: up. */
  ways: Float64Array | null
  /** Velocities that they take along, m/s. */
  inherited: Float64Array
  /** Whether a surface gives them these. */
  carried: boolean
  /** Mesh on which they are; empty: in the air. */
  of: string
}

/** What a birth says of how particles set out; see births/birth.ts. */
export interface SettingOut {
  aim: string
  direction: Vector
  cone: number
  speed: number
  speedSpread: number
  turned: string
}

const UP: Vector = [0, 1, 0]

/** Those born on a mesh. */
export function spawn(
  population: PopulationState,
  emission: Emission,
  stretch: Stretch,
  { ids, times, points: offered, speed }: Pick<Newborn, 'ids' | 'times'> & { points: Points; speed?: number },
): void {
  const { rule, mesh, body, masks } = emission
  const { machine } = mesh
  const points = insideDeformed(machine, body, stretch.to, offered)
  const values = {
    turned: 'alike',
    offset: 0,
    ...valuesAt(birthKind(rule.kind).parameters, rule, stretch.from),
    ...(speed === undefined ? {} : { aim: 'direction', speed }),
  } as unknown as SettingOut & { inherit: number; offset: number }
  const { radii } = points
  const newborn = { ids, keys: ids, times, ...(radii ? { radii } : {}) }
  const first = giveMakeup(population, machine, rule.into, stretch, newborn)
  const placed = { ...newborn, first }
  if (points.pieces) numberPieces(population, emission, points.pieces, first)
  const origins = originsOn(emission, population, stretch, placed, points, values)
  setOut(population, machine, stretch, placed, origins, values)
  if (points.pieces) standAsMesh(population, emission, stretch, first, points.pieces)
  anchorTo(population, body, points, first, values.offset)
  startOwnAttributes(population, { machine, masks, body, frame: stretch.from }, first, points)
}

/** Makes room for them: who they are, how large, how heavy, and how long they live. @returns the number of the first in the columns */
export function giveMakeup(
  { columns, seed, source }: PopulationState,
  machine: Machine,
  into: string,
  { from, to, rate }: Pick<Stretch, 'from' | 'to' | 'rate'>,
  { ids, keys, times, radii: given }: Newborn,
): number {
  const first = columns.count
  reserve(columns, first + ids.length)
  columns.count += ids.length
  startFrom(columns, first)
  const { particle, phases } = source
  const h = (to - from) / rate
  const draws = drawRandoms(machine, keys, seed, STREAM.attributes)
  words(columns, 'id').set(ids, first)
  words(columns, randomKeys(columns)).set(keys, first)
  words(columns, 'phase').fill(phases.indexOf(into), first)
  if (columns.at.piece) words(columns, 'piece').fill(0, first)
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
      given?.[k] ??
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
  if (columns.at.temperature) floats(columns, 'temperature').fill(bornTemperature(source, to), first)
  if (columns.at.birthRadius) floats(columns, 'birthRadius').set(radii.subarray(first), first)
  return first
}

/** Which pieces of their mesh they are. */
function numberPieces(
  { columns }: PopulationState,
  { body }: Emission,
  pieces: Uint32Array,
  first: number,
): void {
  words(columns, 'piece').set(
    pieces.map((one) => pieceNumber(body.number - 1, one)),
    first,
  )
}

/** Where those born on a mesh are, and how that moves. */
function originsOn(
  emission: Emission,
  { columns }: PopulationState,
  { from, to, rate }: Stretch,
  { times }: Placed,
  points: Points,
  values: SettingOut & { inherit: number; offset: number },
): Origins {
  const { body } = emission
  // the opening has no length: there the mesh's velocity is that of a moment after it; a longer one where
  // the surface is known in f32 only
  const step = to > from ? to - from : body.deforms ? 0.5 : 0.01
  const span = step / rate
  const start = worldPoints(emission, from, points)
  const end = body.moves ? worldPoints(emission, from + step, points) : start
  const turns = values.turned !== 'alike' && columns.at.orientation !== 0
  const goes = values.speed !== 0 || (turns && values.turned === 'way')
  const needed = values.offset !== 0 || (turns && values.turned === 'normal') || (goes && values.aim !== 'direction') // prettier-ignore
  const normals = needed && !points.about ? worldNormals(body, from, from + step, times, points) : null
  const places = new Float64Array(start.length)
  const inherited = new Float64Array(start.length)
  for (let k = 0; k < times.length; k++) {
    const [a, b] = [vectorOf(start, k), vectorOf(end, k)]
    const way: Vector = [b[0] - a[0], b[1] - a[1], b[2] - a[2]]
    const off = scale(normals ? vectorOf(normals, k) : UP, values.offset)
    places.set(add(add(a, scale(way, times[k]!)), off), k * 3)
    inherited.set(scale(way, values.inherit / span), k * 3)
  }
  const of = points.about ? '' : body.shotMesh.id
  return { places, normals, ways: normals, inherited, carried: true, of }
}

/** How fast they go, and which way they are turned. */
export function setOut(
  population: PopulationState,
  machine: Machine,
  { from, to }: Pick<Stretch, 'from' | 'to'>,
  { ids, keys, times, first }: Placed,
  { places, normals, ways, inherited, carried, of }: Origins,
  values: SettingOut,
): void {
  const { columns, seed, events } = population
  const draws = drawRandoms(machine, keys, seed, STREAM.attributes)
  const aims = drawRandoms(machine, keys, seed, STREAM.aim)
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
  for (let k = 0; k < ids.length; k++) {
    const i = first + k
    const normal = normals ? vectorOf(normals, k) : UP
    const axis = fixedAxis ?? (ways ? vectorOf(ways, k) : normal)
    const [position, along] = [vectorOf(places, k), vectorOf(inherited, k)]
    const speed = values.speed * (1 + values.speedSpread * (2 * draws[k * 4 + 3]! - 1))
    const heading = !goes ? axis : inCone(axis, cone, aims[k * 4]!, aims[k * 4 + 1]!)
    const velocity = add(along, scale(heading, speed))
    if (faces) writeVector(faces, k, values.turned === 'normal' ? normal : unit(velocity, heading))
    writeVector(column.position, i, position)
    writeVector(column.startPosition, i, position)
    writeVector(column.velocity, i, velocity)
    if (column.surfaceVelocity) writeVector(column.surfaceVelocity, i, carried ? along : [0, 0, 0])
    const moment = from + times[k]! * (to - from)
    events.add(
      eventOf('birth', moment, ids[k]!, { place: position, normal: normals ? normal : [0, 0, 0], of }),
    )
  }
  if (faces) turn(population, machine, keys, first, values.turned === 'random' ? null : faces)
}

/** Pieces are turned as their mesh is, and turn with it; where that does not keep its shape, they stand as their part of it does. */
function standAsMesh(
  { columns }: PopulationState,
  { body }: Emission,
  { from, to, rate }: Stretch,
  first: number,
  pieces: Uint32Array,
): void {
  const whole = turningOf(body, from, to, rate)
  if (bends(body)) {
    pieces.forEach((piece, k) => {
      const { place, turned } = piecePose(body, piece, from)
      floats(columns, 'orientation').set(turned, (first + k) * 4)
      for (const name of ['position', 'startPosition'] as const)
        writeVector(floats(columns, name), first + k, place)
    })
    return
  }
  for (let i = first; i < first + pieces.length; i++) {
    if (columns.at.orientation) floats(columns, 'orientation').set(whole.turned, i * 4)
    if (columns.at.angularVelocity) writeVector(floats(columns, 'angularVelocity'), i, whole.angularVelocity)
  }
}

/** Turns them to a direction each, or at random. */
function turn(
  { columns, seed }: PopulationState,
  machine: Machine,
  keys: Uint32Array,
  first: number,
  faces: Float32Array | null,
): void {
  const orientation = floats(columns, 'orientation')
  const draws = faces ? null : drawRandoms(machine, keys, seed, STREAM.turned)
  for (let k = 0; k < keys.length; k++) {
    const to = draws
      ? anyTurn(draws[k * 4]!, draws[k * 4 + 1]!, draws[k * 4 + 2]!)
      : facing(vectorOf(faces!, k)) // one of the two is there
    orientation.set(to, (first + k) * 4)
  }
}

/** On what they were born. */
export function anchorTo(
  { columns }: PopulationState,
  body: Body,
  points: Points,
  first: number,
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
    else
      anchorAt.set(
        [
          points.weights[k * 2]!,
          points.weights[k * 2 + 1]!,
          (points.heights?.[k] ?? 0) + (points.flipped ? -offset : offset),
        ],
        i * 3,
      )
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
