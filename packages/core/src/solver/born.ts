/**
 * Stage 2, births. A particle born within a substep starts with age −(time since the substep began);
 * the integrator moves it only for what is left, so births are even in time and a burst at a frame
 * stands exactly where it was born when that frame is shown.
 */
import { BIRTHS } from '../births/index.ts'
import { drawRandoms } from '../births/draw.ts'
import type { BirthMesh, Points, PointSource } from '../births/kind.ts'
import { cosine, radians, sine } from '../math/functions.ts'
import { random, STREAM } from '../math/random.ts'
import {
  add,
  affine,
  between,
  cross,
  dot,
  scale,
  subtract,
  transform,
  unit,
  type Affine,
  type Vector,
} from '../math/vector.ts'
import { valueAt, valuesAt, vectorAt } from '../shot/keys.ts'
import type { Varied } from '../shot/parameters.ts'
import type { Birth, ParticleRules, Place } from '../shot/types.ts'
import { floats, reserve, words, type Columns } from './columns.ts'

/** What a birth has done so far; part of a snapshot. */
export interface BirthState {
  /** Births owed since the start, with their fraction. */
  owed: number
  /** Births done. */
  done: number
}

export interface BirthRun {
  rule: Birth
  place: Place
  /** Mesh facts and tools, without the scale. */
  mesh: Omit<BirthMesh, 'scale'>
  state: BirthState
  prepared?: { key: string; source: PointSource }
}

export interface PopulationRun {
  columns: Columns
  nextId: number
  born: number
  died: number
  births: BirthRun[]
  rules: ParticleRules
  phases: string[]
  seed: number
}

/** The stretch of a substep in frames, with the frame rate. */
export interface Stretch {
  from: number
  to: number
  rate: number
  first: number
  last: number
  /** The state before the first substep: only bursts at the first frame happen. */
  opening: boolean
  share: number
}

export function giveBirths(population: PopulationRun, stretch: Stretch): void {
  for (const run of population.births) {
    if (run.rule.muted) continue
    const moments = momentsOf(run, stretch)
    if (moments.length > 0) giveBirth(population, run, stretch, moments)
  }
}

/** For each birth of this stretch, when it happens: 0 at its start, 1 at its end. */
function momentsOf(run: BirthRun, { from, to, rate, first, last, opening }: Stretch): Float64Array {
  const { amount } = run.rule
  if ('burst' in amount) {
    const now = opening ? amount.at === first : amount.at > from && amount.at <= to
    if (!now) return new Float64Array(0)
    const offered = pointsOf(run, amount.at).offered
    const wanted = amount.burst === 'all' ? (offered ?? 0) : amount.burst
    const moment = opening ? 0 : (amount.at - from) / (to - from)
    return new Float64Array(offered === null ? wanted : Math.min(wanted, offered)).fill(moment)
  }
  if (opening) return new Float64Array(0)
  const start = Math.max(from, amount.from ?? first)
  const end = Math.min(to, amount.to ?? last)
  if (end <= start) return new Float64Array(0)
  const { state } = run
  const before = state.owed
  const added = (valueAt(amount.rate, (start + end) / 2) * (end - start)) / rate
  state.owed += added
  // 1e-9: a sum that should be whole may fall short by rounding
  const target = Math.min(Math.floor(state.owed + 1e-9), amount.cap ?? Infinity)
  const count = Math.max(0, target - state.done)
  if (count === 0 || pointsOf(run, start).offered === 0) return new Float64Array(0)
  return Float64Array.from({ length: count }, (_, k) => {
    const share = Math.min(1, Math.max(0, (state.done + k + 1 - before) / added))
    return (start + (end - start) * share - from) / (to - from)
  })
}

/** The points a birth draws from, prepared anew when the scale of its mesh or its settings differ. */
function pointsOf(run: BirthRun, frame: number): PointSource {
  const kind = BIRTHS.find((k) => k.kind === run.rule.kind)!
  const size = vectorAt(run.place.scale, frame)
  const key = size.join()
  if (run.prepared?.key !== key) {
    const values = valuesAt(kind.parameters, run.rule, frame)
    run.prepared = { key, source: kind.prepare(values, { ...run.mesh, scale: size }) }
  }
  return run.prepared.source
}

function giveBirth(population: PopulationRun, run: BirthRun, stretch: Stretch, moments: Float64Array): void {
  const { from, to, rate, share } = stretch
  const chosen: number[] = []
  for (let k = 0; k < moments.length; k++) {
    const id = population.nextId + k
    if (share >= 1 || random(population.seed, id, STREAM.share) < share) chosen.push(k)
  }
  const ids = Uint32Array.from(chosen, (k) => population.nextId + k)
  const source = pointsOf(run, from)
  const burst = 'burst' in run.rule.amount
  const turns =
    burst && source.offered !== null
      ? Uint32Array.from(chosen, (k) => Math.floor((k * source.offered!) / moments.length))
      : undefined
  population.nextId += moments.length
  population.born += chosen.length
  run.state.done += moments.length
  if (chosen.length === 0) return
  const points = source.points(ids, turns)
  const times = Float64Array.from(chosen, (k) => moments[k]!)
  append(population, run, { ids, points, times, from, to, rate })
}

interface Newborn {
  ids: Uint32Array
  points: Points
  /** Moment of each birth within the substep, 0–1. */
  times: Float64Array
  from: number
  to: number
  rate: number
}

function append(
  population: PopulationRun,
  run: BirthRun,
  { ids, points, times, from, to, rate }: Newborn,
): void {
  const h = (to - from) / rate
  const { columns, seed, rules, phases } = population
  const { machine } = run.mesh
  const first = columns.count
  reserve(columns, first + ids.length)
  columns.count += ids.length
  const kind = BIRTHS.find((k) => k.kind === run.rule.kind)!
  const values = valuesAt(kind.parameters, run.rule, from) as unknown as {
    aim: string
    direction: Vector
    cone: number
    speed: number
    speedSpread: number
    inherit: number
    offset: number
  }
  const start = placeAt(run.place, from)
  // the opening has no length: there the mesh's velocity is that of the hundredth of a frame after it
  const step = to > from ? to - from : 0.01
  const span = step / rate
  const end = placeAt(run.place, from + step)
  const attributes = drawRandoms(machine, ids, seed, STREAM.attributes)
  const aims = drawRandoms(machine, ids, seed, STREAM.aim)
  const column = {
    id: words(columns, 'id'),
    phase: words(columns, 'phase'),
    position: floats(columns, 'position'),
    previous: floats(columns, 'previous'),
    velocity: floats(columns, 'velocity'),
    age: floats(columns, 'age'),
    phaseAge: floats(columns, 'phaseAge'),
    lifespan: floats(columns, 'lifespan'),
    radius: floats(columns, 'radius'),
    inverseMass: floats(columns, 'inverseMass'),
  }
  const phase = phases.indexOf(run.rule.into)
  const fixedAxis = values.aim === 'direction' ? unit(values.direction) : null
  const cone = cosine(radians(values.cone))
  const moving = start.some((value, i) => value !== end[i])
  const fixedFrame = moving ? null : { map: start, normals: normalMap(start) }
  const needsNormals = values.offset !== 0 || (values.speed !== 0 && !fixedAxis)
  const localNormals = needsNormals ? points.normals() : null
  for (let k = 0; k < ids.length; k++) {
    const i = first + k
    const t = times[k]!
    const { map, normals } = fixedFrame ?? frameAt(start, end, t)
    const local = vectorOf(points.positions, k)
    const normal = localNormals ? unit(apply(normals, vectorOf(localNormals, k))) : UP
    const position = add(transform(map, local), scale(normal, values.offset))
    const carried = moving
      ? scale(subtract(transform(end, local), transform(start, local)), values.inherit / span)
      : ([0, 0, 0] as Vector)
    const speed = values.speed * (1 + values.speedSpread * (2 * attributes[k * 4 + 3]! - 1))
    const heading = speed === 0 ? normal : inCone(fixedAxis ?? normal, cone, aims[k * 4]!, aims[k * 4 + 1]!)
    const velocity = add(carried, scale(heading, speed))
    column.id[i] = ids[k]!
    column.phase[i] = phase
    column.position.set(position, i * 3)
    column.previous.set(position, i * 3)
    column.velocity.set(velocity, i * 3)
    column.age[i] = -t * h
    column.phaseAge[i] = -t * h
    const radius = vary(rules.radius, attributes[k * 4]!, 'share')
    const density = vary(rules.density, attributes[k * 4 + 2]!, 'share')
    column.radius[i] = radius
    column.inverseMass[i] = 1 / (density * (4 / 3) * Math.PI * radius ** 3)
    column.lifespan[i] =
      rules.lifespan === null
        ? Infinity
        : Math.max(0, vary(rules.lifespan, attributes[k * 4 + 1]!, 'unit')) / rate
  }
  if (columns.at.travelled) floats(columns, 'travelled').fill(0, first)
}

const UP: Vector = [0, 1, 0]
const vectorOf = (array: Float32Array, k: number): Vector => [
  array[k * 3]!,
  array[k * 3 + 1]!,
  array[k * 3 + 2]!,
]

/** A value even between mean − spread and mean + spread. */
function vary(varied: Varied, draw: number, spread: 'share' | 'unit'): number {
  if (typeof varied === 'number') return varied
  const reach = spread === 'share' ? varied.mean * varied.spread : varied.spread
  return varied.mean + reach * (2 * draw - 1)
}

export const placeAt = (place: Place, frame: number): Affine =>
  affine(vectorAt(place.position, frame), vectorAt(place.rotation, frame), vectorAt(place.scale, frame))

const frameAt = (start: Affine, end: Affine, t: number) => {
  const map = between(start, end, t)
  return { map, normals: normalMap(map) }
}

/** Rows of the map that takes normals into the world: cofactors, turned round for a mirrored place. */
function normalMap(m: Affine): [Vector, Vector, Vector] {
  const rows: Vector[] = [0, 4, 8].map((o) => [m[o]!, m[o + 1]!, m[o + 2]!])
  const [a, b, c] = rows as [Vector, Vector, Vector]
  const sign = dot(a, cross(b, c)) < 0 ? -1 : 1
  return [scale(cross(b, c), sign), scale(cross(c, a), sign), scale(cross(a, b), sign)]
}
const apply = (rows: [Vector, Vector, Vector], v: Vector): Vector => [
  dot(rows[0], v),
  dot(rows[1], v),
  dot(rows[2], v),
]

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
