/** Once a frame: who lies on a covered mesh is taken up, the cover runs off and melts, and nobody is buried in it. */
import type { CoverRule } from '../influences/influence.ts'
import { cosine, radians, sine } from '../math/functions.ts'
import { valuesAt } from '../document/keys.ts'
import { influenceKind } from '../registry.ts'
import type { Machine } from '@tangle/kernels'
import { nearSurface, type Near } from '../scene/distance.ts'
import { weightsOfNear } from '../scene/surfaceProjection.ts'
import { gatherRows } from '../state/columns.ts'
import { widestRadius } from '../state/neighbours.ts'
import { meshesHit, type Cover } from './covers.ts'
import { activeInfluences } from './influencePass.ts'
import { removeThose } from './removal.ts'
import type { Moment, PopulationState } from './world.ts'

/** Faster than this nothing lies, m/s. */
const LIES = 0.25
/** Within so many radii of a surface one lies on it. */
const TOUCHES = 1.5
const BALL = (4 / 3) * Math.PI

/** Particles near the surface of a cover, a row for each; pointers. */
interface Nearby {
  count: number
  /** u32 number of the particle; u32 triangle; weights of its second and third corner, 2 × f32; f32 metres. */
  index: number
  triangle: number
  weights: number
  distance: number
  free(): void
}

/**
 * Once a frame: takes up what lies, lets it run off and melt, and lifts what stays on top. Of a `share` of the particles
 * each stands for as many as make the whole.
 */
export function accumulateCovers(moment: Moment): void {
  const { covers, populations, to } = moment
  if (covers.size === 0) return
  for (const { heights, before } of covers.values()) before.set(heights)
  const taken = takeUpAll(moment)
  const rules = populations.flatMap((population) => rulesOf(population, to))
  for (const cover of covers.values()) {
    const rule = rules.find(({ mesh }) => covers.get(mesh) === cover)!
    runOff(cover, rule, moment)
    melt(cover, rule, moment)
  }
  for (const cover of covers.values()) raise(cover, moment)
  for (const [population, gone] of taken)
    removeThose(
      population,
      (i) => gone.has(i),
      () => to,
      () => 'cover',
    )
}

/** The rules of a population at a frame, whether anyone lies there or not. */
const rulesOf = ({ source }: PopulationState, frame: number): CoverRule[] =>
  source.influences.flatMap((influence) => {
    const kind = influenceKind(influence.kind)
    if (influence.muted || !kind.cover) return []
    return [kind.cover(valuesAt(kind.parameters, influence, frame) as never)]
  })

/** Finds for each rule who lies, and then takes up those that are more than stay. Returns who they are. */
function takeUpAll(moment: Moment): Map<PopulationState, Set<number>> {
  const lying = moment.populations.flatMap((population) =>
    activeInfluences(population, moment, (kind) => kind.cover).map(({ kind, values, substep, free }) => {
      const rule = kind.cover!(values)
      const cover = moment.covers.get(rule.mesh)!
      const nearby = findLying(population, cover, substep.amount, moment)
      free()
      return { population, cover, rule, nearby }
    }),
  )
  const taken = new Map<PopulationState, Set<number>>()
  for (const { population, cover, rule, nearby } of lying) {
    const gone = taken.get(population) ?? new Set()
    takeUp(population, cover, rule, nearby, moment).forEach((i) => gone.add(i))
    if (gone.size > 0) taken.set(population, gone)
    nearby.free()
  }
  return taken
}

/** Who is slow, on whom the influence acts, and who touches ground. */
function findLying(
  { columns }: PopulationState,
  cover: Cover,
  amount: number,
  { machine, to }: Moment,
): Nearby {
  const { heap } = machine
  const { count, at } = columns
  const slow = heap.allocate(count * 4)
  const asked = machine.call('selectSlow', { count, amount, velocity: at.velocity, speed: LIES, out: slow })
  const points = gatherRows(machine, slow, asked, at.position, 3)
  const radius = gatherRows(machine, slow, asked, at.radius, 1)
  const near = nearSurface(machine, cover.body, to, points, asked, false, 2 * widestRadius(columns) + 1e-6)
  const { distance, triangle } = near
  const rows = heap.allocate(asked * 4)
  const touch = machine.call('selectNear', {
    count: asked,
    distance,
    radius,
    radii: TOUCHES,
    metres: 0,
    out: rows,
  })
  const { onGround } = cover.ground
  const lie = machine.call('selectOnGround', { count: touch, list: rows, triangle, ground: onGround })
  const found = nearbyOf(machine, cover, to, near, rows, lie, gatherRows(machine, rows, lie, slow, 1))
  for (const pointer of [slow, points, radius, rows]) heap.free(pointer)
  near.free()
  return found
}

/** The chosen rows of what is near; takes over `index`. */
function nearbyOf(
  machine: Machine,
  { body }: Cover,
  frame: number,
  near: Near,
  rows: number,
  count: number,
  index: number,
): Nearby {
  const { heap } = machine
  const [triangle, point, distance] = (
    [
      [near.triangle, 1],
      [near.point, 3],
      [near.distance, 1],
    ] as const
  ).map(([column, width]) => gatherRows(machine, rows, count, column, width)) as [number, number, number]
  const weights = weightsOfNear(machine, body, frame, { triangle, point }, count)
  const free = (): void => [index, triangle, point, distance, weights].forEach((one) => heap.free(one))
  return { count, index, triangle, weights, distance, free }
}

/** Those born last stay as particles, as many as make the depth; the others become height. Returns their numbers. */
function takeUp(
  { columns }: PopulationState,
  { ground, heights, body }: Cover,
  { gathers, depth }: CoverRule,
  { count, index, triangle, weights }: Nearby,
  { machine, share }: Moment,
): number[] {
  const { heap } = machine
  const { edges, fresh, added, vertices } = ground
  for (const scratch of [fresh, added]) heap.f64(scratch, vertices).fill(0)
  const radius = gatherRows(machine, index, count, columns.at.radius, 1)
  const gone = heap.allocate(count * 4)
  machine.call('takeUp', {
    count,
    radius,
    triangle,
    weights,
    triangles: body.triangles(),
    area: edges.area,
    volume: (gathers / share) * BALL,
    depth,
    fresh,
    added,
    gone,
  })
  machine.call('spreadHeights', { count: edges.count, pairs: edges.pairs, area: edges.area, heights: added })
  machine.call('addHeights', { count: vertices, added, heights: heights.byteOffset })
  const numbers = heap.u32(index, count)
  const found = Array.from(numbers).filter((_, k) => heap.u32(gone, count)[k] === 1)
  heap.free(radius)
  heap.free(gone)
  return found
}

/** Lets a cover run off where it is too steep; at the rim, where the ground ends, onto what lies below. */
function runOff(
  { ground, shape, bare, heights, below }: Cover,
  { repose }: CoverRule,
  { machine, to }: Moment,
): void {
  const { edges, steep, vertices } = ground
  const tangent = sine(radians(repose)) / Math.max(1e-6, cosine(radians(repose)))
  const positions = bare.worldAt(to)
  machine.call('runOff', { ...edges, vertices, positions, tangent, steep, heights: heights.byteOffset })
  // there heights stay under that slope over half an edge
  const most = tangent * shape.step * 0.5
  shape.rim.forEach((v, n) => {
    if (heights[v]! <= most) return
    const goes = 0.5 * (heights[v]! - most)
    heights[v] = heights[v]! - goes
    const onto = below[n]
    if (onto)
      onto.cover.heights[onto.vertex]! += (goes * shape.area[v]!) / onto.cover.shape.area[onto.vertex]!
  })
}

function melt(
  { heights, bare }: Cover,
  { melt: speed, meltMask }: CoverRule,
  { masks, to, rate }: Moment,
): void {
  if (speed <= 0) return
  const where = meltMask === undefined ? null : masks.atVertices(meltMask, bare, to)
  for (let v = 0; v < heights.length; v++)
    heights[v] = Math.max(0, heights[v]! - (speed / rate) * (where ? where[v]! : 1))
}

/**
 * Raises a cover to its new heights. Who lies on it goes up with it, and so does who is over it and would be in it: by what it rose
 * there, less the gap between them. Who is in it all the same, as where it rose beside them, is put on it.
 */
function raise(cover: Cover, moment: Moment): void {
  const { bare } = cover
  const { changed, rises, highest } = changeOf(cover, moment)
  const met = moment.populations.filter(({ source }) => meshesHit(source).includes(bare.shotMesh.id))
  const reached = rises > 0 ? met.map((population) => lift(population, cover, rises, moment)) : []
  if (changed) cover.raise(highest)
  reached.forEach((nearby, n) => {
    digOut(met[n]!, cover, nearby, moment)
    nearby.free()
  })
}

/** Whether heights have changed in the frame, by how much the greatest rise is, and how high it is now. */
function changeOf({ heights, before }: Cover, { machine }: Moment) {
  const { heap } = machine
  const out = heap.allocate(16)
  const asked = { count: heights.length, heights: heights.byteOffset, before: before.byteOffset, out }
  const changed = machine.call('compareHeights', asked) === 1
  const [rises, highest] = heap.f64(out, 2) as unknown as [number, number]
  heap.free(out)
  return { changed, rises, highest }
}

/** Lifts who is nearer to the cover than it `rises`, before it is raised. Returns who they are. */
function lift({ columns }: PopulationState, cover: Cover, rises: number, { machine, to }: Moment): Nearby {
  const { heap } = machine
  const { count } = columns
  const { position, startPosition, radius } = columns.at
  const near = nearSurface(machine, cover.body, to, position, count, false, rises + widestRadius(columns))
  const rows = heap.allocate(count * 4)
  const { distance } = near
  const reached = machine.call('selectNear', { count, distance, radius, radii: 1, metres: rises, out: rows })
  const nearby = nearbyOf(machine, cover, to, near, rows, reached, rows)
  near.free()
  machine.run('liftOntoCover', reached, {
    index: nearby.index,
    distance: nearby.distance,
    triangle: nearby.triangle,
    weights: nearby.weights,
    triangles: cover.body.triangles(),
    before: cover.before.byteOffset,
    heights: cover.heights.byteOffset,
    radius,
    position,
    startPosition,
  })
  return nearby
}

function digOut(
  { columns }: PopulationState,
  { body }: Cover,
  { count, index }: Nearby,
  { machine, to }: Moment,
): void {
  if (count === 0) return
  const { position, startPosition, radius } = columns.at
  const points = gatherRows(machine, index, count, position, 3)
  const near = nearSurface(machine, body, to, points, count, true)
  const { distance, point } = near
  machine.run('digOut', count, { index, distance, point, radius, position, startPosition })
  near.free()
  machine.heap.free(points)
}
