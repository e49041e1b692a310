/** Puts children of particles into the world: where they are, how they set out, and what they have of their parents. */
import type { Descent as Values } from '../births/particles.ts'
import { sweepCollisions } from '../constraints/sweep.ts'
import { valuesAt } from '../document/keys.ts'
import { meanOf } from '../document/parameters.ts'
import { drawRandoms } from '../math/draw.ts'
import { onSphere } from '../math/gradients.ts'
import { rotate } from '../math/quaternion.ts'
import { STREAM } from '../math/random.ts'
import { add, scale, unit, type Vector } from '../math/vector.ts'
import { birthKind, influenceKind } from '../registry.ts'
import type { Body } from '../scene/body.ts'
import type { Points } from '../scene/points.ts'
import { projectionWeights } from '../scene/surfaceProjection.ts'
import { attributeOf, floats, rowsFrom, view, words, type Columns } from '../state/columns.ts'
import { ownName } from '../state/attribute.ts'
import { placesBetween, worldNormals } from './birthPlaces.ts'
import { applyForces, constrained, runInfluences } from './influencePass.ts'
import { drift, integrate } from './motion.ts'
import { startOwnAttributes } from './ownAttributes.ts'
import { castFrom, normalBelow, tellHits, turnOf, turnOfMesh } from './rays.ts'
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
  /** Which of the children that a birth asks of the parent. */
  number: number
  /** Off what the parent touched; null: nothing. */
  normal: Vector | null
  /** What its random numbers follow from. */
  key: number
}

/** Bears them; of those whose rays have to meet a mesh, who does. */
export function bear(population: PopulationState, descent: Descent, moment: Moment, asked: Child[]): void {
  const { rule } = descent
  const { machine, masks, bodies, from, to } = moment
  const values = valuesAt(birthKind(rule.kind).parameters, rule, from) as unknown as Values
  const body = values.mesh === undefined ? null : bodies.get(values.mesh)!
  const begun = originsOf(values, moment, population.seed, asked)
  const met = body && values.laid === 'ray' ? castFrom(values, moment, body, asked, begun, population.seed) : null // prettier-ignore
  const children = met ? met.rows.map((k) => asked[k]!) : asked
  if (children.length === 0) return
  const ids = Uint32Array.from(children, (_, k) => population.nextId + k)
  population.nextId += ids.length
  const newborn = { ids, keys: keysOf(children), times: Float64Array.from(children, ({ time }) => time) }
  const origins = met ? rowsOf(begun, met.rows) : begun
  const points = body && (met?.points ?? placesBelow(moment, body, origins))
  if (body && points) layOnto(moment, body, origins, newborn.times, points, values.aim)
  if (body && met) tellHits(moment, descent, body, children, origins, met)
  const first = giveMakeup(population, machine, rule.into, moment, newborn)
  setOut(population, machine, moment, { ...newborn, first }, origins, { ...values, aim: 'way' })
  if (body && points) anchorTo(population, body, points, first, 0)
  else if (population.columns.at.anchor) words(population.columns, 'anchor').fill(0, first * 2)
  startOwnAttributes(population, { machine, masks, body, frame: to }, first, points)
  inherit(population, values, children, first)
  if (population.columns.at.parentPopulation)
    words(population.columns, 'parentPopulation').fill(moment.shot.populations.findIndex(({ id }) => id === rule.from), first) // prettier-ignore
  if (to > from) catchUp(population, first, moment)
}

const keysOf = (children: Child[]): Uint32Array => Uint32Array.from(children, ({ key }) => key)

/** Where children are born of what their parents are then, and the directions in which they set out. */
function originsOf(values: Values, moment: Moment, seed: number, children: Child[]): Directed {
  const keys = keysOf(children)
  const [draws, more] = [2, 3].map((n) => drawRandoms(moment.machine, keys, seed, STREAM.offspring, n)) as [Float64Array, Float64Array] // prettier-ignore
  const [places, normals, ways, inherited] = [0, 1, 2, 3].map(() => new Float64Array(keys.length * 3)) as [Float64Array, Float64Array, Float64Array, Float64Array] // prettier-ignore
  const isOffset = values.offset.some((x) => x !== 0)
  const axisOf = axes(values, moment)
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
    ways.set(axisOf(child, out), k * 3)
    inherited.set(scale(child.velocity, values.inherit), k * 3)
  })
  return { places, normals, ways, inherited, carried: false, of: '' }
}
type Directed = Origins & Record<'normals' | 'ways', Float64Array>

/** Those of some rows alone. */
function rowsOf(of: Directed, rows: number[]): Directed {
  const some = (all: Float64Array): Float64Array => {
    const out = new Float64Array(rows.length * 3)
    rows.forEach((k, to) => out.set(all.subarray(k * 3, k * 3 + 3), to * 3))
    return out
  }
  const { places, normals, ways, inherited } = of
  return { ...of, places: some(places), normals: some(normals), ways: some(ways), inherited: some(inherited) }
}

/** The direction about which a child sets out, where `out` leads away from what bears it. */
function axes(values: Values, moment: Moment): (child: Child, out: Vector) => Vector {
  switch (values.aim) {
    case 'way':
      return ({ velocity }, out) => unit(velocity, out)
    case 'surface':
      return (child, out) => normalBelow(child, moment) ?? out
    case 'direction': {
      const axis = unit(values.direction)
      return values.axes === 'parent' ? (child) => rotate(turnOfMesh(child, moment), axis) : () => axis
    }
    default:
      return (_, out) => out
  }
}

/** The places of a body that are nearest to where they are born. */
function placesBelow({ machine, to }: Moment, body: Body, { places }: Origins): Points {
  const { heap } = machine
  const pointer = heap.allocate(places.length * 4)
  heap.f32(pointer, places.length).set(places)
  const points = projectionWeights(machine, body, to, pointer, places.length / 3)
  heap.free(pointer)
  return points
}

/** Moves them onto points of a mesh, each as that is when it is born. */
function layOnto(
  { from, to }: Moment,
  body: Body,
  origins: Directed,
  times: Float64Array,
  points: Points,
  aim: string,
): void {
  origins.places = placesBetween(body, from, to, points, (k) => times[k]!)
  origins.normals = worldNormals(body, from, to, times, points)
  // who went off its parent goes off the mesh
  if (aim !== 'way' && aim !== 'direction') origins.ways = origins.normals
  origins.of = body.shotMesh.id
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
    if (columns.at.temperature) copy('temperature')
    for (const { id } of source.attributes) copy(ownName(id))
  }
  if (values.sizes !== undefined)
    sizeBy(columns, values.sizes, meanOf(source.particle.radius), children, first)
}

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
