/** Puts children of particles into the world: where they are, how they set out, and what they have of their parents. */
import type { Descent as Values } from '../births/particles.ts'
import { cumulatedAreas, scattered } from '../births/surface.ts'
import { sweepCollisions } from '../constraints/sweep.ts'
import { valuesAt } from '../document/keys.ts'
import type { Varied } from '../document/parameters.ts'
import { facing, inCone } from '../math/directions.ts'
import { cosine, radians } from '../math/functions.ts'
import { drawRandoms } from '../math/draw.ts'
import { onSphere } from '../math/gradients.ts'
import { quaternionOf, rotate, unitQuaternion, type Quaternion } from '../math/quaternion.ts'
import { STREAM } from '../math/random.ts'
import { add, scale, subtract, unit, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import { birthKind, influenceKind } from '../registry.ts'
import type { Body } from '../scene/body.ts'
import type { Points } from '../scene/points.ts'
import { castRays } from '../scene/rays.ts'
import { projectionWeights } from '../scene/surfaceProjection.ts'
import { attributeOf, floats, rowsFrom, view, words, type Columns } from '../state/columns.ts'
import { ownName } from '../state/attribute.ts'
import { worldNormals, worldPoints } from './birthPlaces.ts'
import { applyForces, constrained, runInfluences } from './influencePass.ts'
import { drift, integrate } from './motion.ts'
import { startOwnAttributes } from './ownAttributes.ts'
import { LEAST_RADIUS } from './removal.ts'
import { anchorTo, giveMakeup, setOut, type Origins } from './spawn.ts'
import { constraintMoment, type Descent, type Moment, type PopulationState } from './world.ts'

/** Who is to be born: of whom, when within the substep (0–1), where (m) the parent is then and how it goes (m/s). */
export interface Child {
  parents: Columns
  row: number
  time: number
  place: Vector
  velocity: Vector
  /** Off what the parent touched; null: nothing. */
  normal: Vector | null
  /** What its random numbers follow from. */
  key: number
}

/** Bears them; of those whose rays have to meet a mesh, who does. */
export function bear(population: PopulationState, { rule }: Descent, moment: Moment, asked: Child[]): void {
  const { machine, masks, bodies, from, to } = moment
  const values = valuesAt(birthKind(rule.kind).parameters, rule, from) as unknown as Values
  const body = values.mesh === undefined ? null : bodies.get(values.mesh)!
  const byRay = body !== null && values.laid === 'ray'
  const { children, hits } = byRay
    ? castFrom(population, values, moment, body, asked)
    : { children: asked, hits: null }
  if (children.length === 0) return
  const ids = Uint32Array.from(children, (_, k) => population.nextId + k)
  population.nextId += ids.length
  const newborn = {
    ids,
    keys: Uint32Array.from(children, ({ key }) => key),
    times: Float64Array.from(children, ({ time }) => time),
  }
  const origins = originsOf(population, values, moment, newborn.keys, children)
  const points = body && layOnto(moment, body, origins, newborn.times, hits)
  const first = giveMakeup(population, machine, rule.into, moment, newborn)
  setOut(population, machine, moment, { ...newborn, first }, origins, values)
  if (body && points) anchorTo(population, body, points, first, 0)
  else if (population.columns.at.anchor) words(population.columns, 'anchor').fill(0, first * 2)
  startOwnAttributes(population, { machine, masks, body, frame: to }, first, points)
  inherit(population, values, children, first)
  if (to > from) catchUp(population, first, moment)
}

/** Where children are born of what their parents are then. */
function originsOf(
  { seed }: PopulationState,
  values: Values,
  { machine }: Pick<Moment, 'machine'>,
  keys: Uint32Array,
  children: Child[],
): Origins {
  const [draws, more] = [2, 3].map((n) => drawRandoms(machine, keys, seed, STREAM.offspring, n)) as [Float64Array, Float64Array] // prettier-ignore
  const [places, normals, ways, inherited] = [0, 1, 2, 3].map(() => new Float64Array(keys.length * 3)) as [Float64Array, Float64Array, Float64Array, Float64Array] // prettier-ignore
  const isOffset = values.offset.some((x) => x !== 0)
  children.forEach((child, k) => {
    const [a, b, c, d] = draws.subarray(k * 4, k * 4 + 4) as unknown as [number, number, number, number]
    const any = onSphere(a, b)
    let place = isOffset ? add(child.place, rotate(turnOf(child), values.offset)) : child.place
    if (values.place === 'surface')
      place = add(place, scale(any, floats(child.parents, 'radius')[child.row]!))
    if (values.scatter > 0) {
      // the largest of three is spread as distances in a ball are
      const reach = values.scatter * Math.max(c, d, more[k * 4 + 2]!)
      place = add(place, scale(onSphere(more[k * 4]!, more[k * 4 + 1]!), reach))
    }
    const out = values.place === 'surface' ? any : (child.normal ?? any)
    places.set(place, k * 3)
    normals.set(out, k * 3)
    ways.set(values.aim === 'way' ? unit(child.velocity, out) : out, k * 3)
    inherited.set(scale(child.velocity, values.inherit), k * 3)
  })
  return { places, normals, ways, inherited, carried: false, of: '' }
}

/** How a parent is turned; where it does not turn, its front looks along its way. */
function turnOf({ parents, row, velocity }: Child): Quaternion {
  if (parents.at.orientation) return unitQuaternion(quaternionOf(floats(parents, 'orientation'), row))
  return facing(unit(velocity, [0, 0, 1]))
}

/** The children whose rays meet a body before anything else, and where they do. */
function castFrom(
  population: PopulationState,
  values: Values,
  { machine, bodies, to }: Moment,
  body: Body,
  children: Child[],
): { children: Child[]; hits: Float32Array } {
  const keys = Uint32Array.from(children, ({ key }) => key)
  const { places, ways } = originsOf(population, values, { machine }, keys, children)
  const aims = drawRandoms(machine, keys, population.seed, STREAM.aim)
  const fixed = values.aim === 'direction' ? unit(values.direction) : null
  const targets = values.aim === 'target' ? placesOn(population, { machine, to }, body, keys) : null
  const cone = cosine(radians(values.cone))
  const rays = Float32Array.from({ length: keys.length * 3 })
  for (let k = 0; k < keys.length; k++) {
    const axis = targets
      ? unit(subtract(vectorOf(targets, k), vectorOf(places, k)))
      : (fixed ?? vectorOf(ways!, k))
    writeVector(rays, k, scale(inCone(axis, cone, aims[k * 4]!, aims[k * 4 + 1]!), values.reach))
  }
  const origins = Float32Array.from(places)
  const met = castRays(machine, body, to, origins, rays).shares
  const other = values.behind === undefined ? undefined : bodies.get(values.behind)
  const before = other && castRays(machine, other, to, origins, rays).shares
  const seen = [...met.keys()].filter((k) => met[k]! <= 1 && !(before && before[k]! < met[k]!))
  return {
    children: seen.map((k) => children[k]!),
    hits: Float32Array.from(seen.flatMap((k) => add(vectorOf(places, k), scale(vectorOf(rays, k), met[k]!)))),
  }
}

/** Places of a body in the world, even by area, one for each key. */
function placesOn(
  { seed }: PopulationState,
  { machine, to }: Pick<Moment, 'machine' | 'to'>,
  body: Body,
  keys: Uint32Array,
): Float64Array {
  const { mesh } = body
  const areas = cumulatedAreas({ mesh, scale: body.sizeAt(to) })
  if (!(areas.at(-1)! > 0)) return new Float64Array(keys.length * 3)
  return worldPoints({ body, view: [0, 0, 0] }, to, scattered(machine, seed, STREAM.surface, keys, areas))
}

/** Moves places, or where their rays have met it, onto the nearest ones of a mesh, each as that is when it is born. */
function layOnto(
  { machine, from, to }: Moment,
  body: Body,
  origins: Origins,
  times: Float64Array,
  hits: Float32Array | null,
): Points {
  const { heap } = machine
  const count = times.length
  const pointer = heap.allocate(count * 12)
  heap.f32(pointer, count * 3).set(hits ?? origins.places)
  const points: Points = projectionWeights(machine, body, to, pointer, count)
  heap.free(pointer)
  const on = { body, view: [0, 0, 0] as Vector }
  const [start, end] = [worldPoints(on, from, points), worldPoints(on, to, points)]
  for (let k = 0; k < origins.places.length; k++)
    origins.places[k] = start[k]! + (end[k]! - start[k]!) * times[Math.floor(k / 3)]!
  const normals = worldNormals(body, from, to, times, points)
  if (origins.ways && origins.normals)
    for (let k = 0; k < count; k++) {
      // who went off its parent goes off the mesh
      const away = [0, 1, 2].every((axis) => origins.ways![k * 3 + axis] === origins.normals![k * 3 + axis])
      if (away) origins.ways.set(normals.subarray(k * 3, k * 3 + 3), k * 3)
    }
  origins.normals = normals
  origins.of = body.shotMesh.id
  return points
}

/** Whose they are, and what they have of them. */
function inherit(
  { columns, source }: PopulationState,
  values: Values,
  children: Child[],
  first: number,
): void {
  const [parent, generation] = [words(columns, 'parent'), words(columns, 'generation')]
  children.forEach(({ parents, row }, k) => {
    parent[first + k] = words(parents, 'id')[row]!
    generation[first + k] = 1 + (parents.at.generation ? words(parents, 'generation')[row]! : 0)
  })
  const copy = (name: Parameters<typeof view>[1]): void => {
    const { width, type } = attributeOf(columns, name)
    const own = view(columns, name)
    children.forEach(({ parents, row }, k) => {
      if (!parents.at[name] || attributeOf(parents, name).width !== width || attributeOf(parents, name).type !== type) return // prettier-ignore
      own.set(view(parents, name).subarray(row * width, (row + 1) * width), (first + k) * width)
    })
  }
  if (values.turned === 'parent' && columns.at.orientation) copy('orientation')
  if (values.turned === 'parent' && columns.at.angularVelocity) copy('angularVelocity')
  if (values.takes === 'attributes') {
    if (columns.at.colour) copy('colour')
    for (const { id } of source.attributes) copy(ownName(id))
  }
  if (values.sizes !== undefined)
    sizeBy(columns, values.sizes, meanOf(source.particle.radius), children, first)
}

const meanOf = (varied: Varied): number => (typeof varied === 'number' ? varied : varied.mean)

/** As large as their parents, times a share, and varied as their own sizes are; as dense as they were. */
function sizeBy(columns: Columns, share: number, mean: number, children: Child[], first: number): void {
  const [radius, inverseMass] = [floats(columns, 'radius'), floats(columns, 'inverseMass')]
  children.forEach(({ parents, row }, k) => {
    const i = first + k
    const own = radius[i]!
    const size = floats(parents, 'radius')[row]! * share * (mean > 0 ? own / mean : 1)
    // parents may have shrunk to nothing
    radius[i] = Math.max(LEAST_RADIUS, size)
    inverseMass[i] = inverseMass[i]! * (own / radius[i]!) ** 3
  })
  if (columns.at.birthRadius) floats(columns, 'birthRadius').set(radius.subarray(first), first)
}

/** The newborn go what is left of the substep, without those that act among particles. */
function catchUp(population: PopulationState, first: number, moment: Moment): void {
  const part = { ...population, columns: rowsFrom(population.columns, first) }
  const alone = (kind: string): boolean => !influenceKind(kind).interacts
  drift(part, moment)
  applyForces(part, moment, ({ kind }) => alone(kind))
  integrate(part, moment)
  runInfluences(part, moment, 'projectPositions', ({ pins }) => pins ?? false)
  sweepCollisions(constrained(part, moment), constraintMoment(moment))
  for (const one of moment.colliders.values()) one.free()
  moment.colliders.clear()
  runInfluences(part, moment, 'updateAttributes', (_, { kind }) => alone(kind))
}
