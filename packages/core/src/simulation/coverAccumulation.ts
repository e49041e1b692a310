/** Once a frame: who lies on a covered mesh is taken up, the cover runs off and melts, and nobody is buried in it. */
import { nearSurface } from '../scene/distance.ts'
import { runOff, spreadOut } from '../geometry/ground.ts'
import { weightsAt } from '../geometry/weights.ts'
import type { CoverRule } from '../influences/influence.ts'
import { influenceKind } from '../registry.ts'
import { cosine, radians, sine } from '../math/functions.ts'
import { valuesAt } from '../document/keys.ts'
import { activeInfluences } from './influencePass.ts'
import { removeThose } from './removal.ts'
import type { Moment, PopulationState } from './world.ts'
import { floats, positionsOfSome } from '../state/columns.ts'
import { meshesHit, type Cover } from './covers.ts'
import { widestRadius } from '../state/neighbours.ts'

/** Faster than this nothing lies, m/s. */
const LIES = 0.25

/** Those that lie on a cover: which particles, where, and who of them it has taken up. */
interface Lying {
  run: PopulationState
  cover: Cover
  rule: CoverRule
  particles: number[]
  /** Vertices and weights, three each. */
  corners: Uint32Array
  weights: Float32Array
  gone: Uint8Array
}

/**
 * Once a frame: takes up what lies, lets it run off and melt, and lifts what stays on top. Of a `share` of the particles
 * each stands for as many as make the whole.
 */
export function accumulateCovers(moment: Moment): void {
  const { covers, masks, populations: runs, share } = moment
  if (covers.size === 0) return
  const lying = runs.flatMap((run) =>
    activeInfluences(run, moment, (kind) => kind.cover).map(({ kind, values, substep, free }) => {
      const rule = kind.cover!(values)
      const amounts = moment.machine.heap.f32(substep.amount, run.columns.count).slice()
      free()
      return findLying(run, covers.get(rule.mesh)!, rule, amounts, moment)
    }),
  )
  const before = new Map([...covers.values()].map((cover) => [cover, cover.heights.slice()]))
  for (const one of lying) takeUp(one, share)
  const { to, rate } = moment
  const rules = runs.flatMap((run) => rulesOf(run, to))
  for (const cover of covers.values()) {
    const rule = rules.find(({ mesh }) => covers.get(mesh) === cover)!
    const p = cover.bare.worldView(to)
    const tangent = sine(radians(rule.repose)) / Math.max(1e-6, cosine(radians(rule.repose)))
    runOff(cover.ground, p, cover.heights, tangent, (rim, volume) => {
      const onto = cover.below[rim]
      if (onto) onto.cover.heights[onto.vertex]! += volume / onto.cover.ground.area[onto.vertex]!
    })
    if (rule.melt <= 0) continue
    const where = rule.meltMask === undefined ? null : masks.atVertices(rule.meltMask, cover.bare, to)
    for (let v = 0; v < cover.heights.length; v++)
      cover.heights[v] = Math.max(0, cover.heights[v]! - (rule.melt / rate) * (where ? where[v]! : 1))
  }
  for (const [cover, was] of before) {
    const met = runs.filter(({ source }) => meshesHit(source).includes(cover.bare.shotMesh.id))
    const reached = met.map((run) => lift(run, cover, was, moment))
    if (cover.heights.some((height, v) => height !== was[v])) cover.raise()
    met.forEach((run, n) => digOut(run, cover, reached[n]!, moment))
  }
  for (const run of runs) {
    const of = lying.filter((one) => one.run === run)
    const gone = new Set(of.flatMap(({ particles, gone }) => particles.filter((_, k) => gone[k])))
    if (gone.size > 0)
      removeThose(
        run,
        (i) => gone.has(i),
        () => to,
        () => 'cover',
      )
  }
}

/** The rules of a population at a frame, whether anyone lies there or not. */
const rulesOf = ({ source }: PopulationState, frame: number): CoverRule[] =>
  source.influences.flatMap((influence) => {
    const kind = influenceKind(influence.kind)
    if (influence.muted || !kind.cover) return []
    return [kind.cover(valuesAt(kind.parameters, influence, frame) as never)]
  })

function findLying(
  run: PopulationState,
  cover: Cover,
  rule: CoverRule,
  amounts: Float32Array,
  { machine, to }: Moment,
): Lying {
  const { heap } = machine
  const { columns } = run
  const [velocity, radius] = [floats(columns, 'velocity'), floats(columns, 'radius')]
  const slow: number[] = []
  for (let i = 0; i < columns.count; i++) {
    const speed = velocity[i * 3]! ** 2 + velocity[i * 3 + 1]! ** 2 + velocity[i * 3 + 2]! ** 2
    if (amounts[i]! > 0 && speed < LIES * LIES) slow.push(i)
  }
  const points = positionsOfSome(columns, slow)
  const widest = slow.reduce((most, i) => Math.max(most, radius[i]!), 0)
  const near = nearSurface(machine, cover.body, to, points, slow.length, false, 2 * widest + 1e-6)
  const distance = heap.f32(near.distance, slow.length)
  const triangle = heap.u32(near.triangle, slow.length)
  const faces = new Set(cover.ground.faces)
  const { triangles } = cover.body.mesh
  const lies = (k: number): boolean =>
    distance[k]! < 1.5 * radius[slow[k]!]! &&
    faces.has(triangle[k]! * 3) &&
    [0, 1, 2].every((c) => cover.ground.area[triangles[triangle[k]! * 3 + c]!]! > 0)
  const on = Array.from(slow.keys()).filter(lies)
  const of = Uint32Array.from(on, (k) => triangle[k]!)
  const feet = Float32Array.from({ length: on.length * 3 }, (_, i) => heap.f32(near.point, slow.length * 3)[on[Math.floor(i / 3)]! * 3 + (i % 3)]!) // prettier-ignore
  near.free()
  heap.free(points)
  return {
    run,
    cover,
    rule,
    particles: on.map((k) => slow[k]!),
    ...cornersOf(cover, of, feet, to),
    gone: new Uint8Array(on.length),
  }
}

/** Those born last stay as particles, as many as make the depth; the others become height. */
function takeUp({ run, cover, rule, particles, corners, weights, gone }: Lying, share: number): void {
  const radius = floats(run.columns, 'radius')
  const { area } = cover.ground
  const fresh = new Float64Array(cover.heights.length)
  const added = new Float64Array(cover.heights.length)
  for (let k = particles.length - 1; k >= 0; k--) {
    const volume = (rule.gathers / share) * (4 / 3) * Math.PI * radius[particles[k]!]! ** 3
    const adds = [0, 1, 2].map((c) => (volume * weights[k * 3 + c]!) / area[corners[k * 3 + c]!]!)
    const stays = adds.every((add, c) => fresh[corners[k * 3 + c]!]! + add <= rule.depth)
    if (!stays) gone[k] = 1
    adds.forEach((add, c) => {
      const v = corners[k * 3 + c]!
      if (stays) fresh[v] = fresh[v]! + add
      else added[v] = added[v]! + add
    })
  }
  spreadOut(cover.ground, added)
  for (let v = 0; v < added.length; v++) cover.heights[v] = cover.heights[v]! + Math.max(0, added[v]!)
}

/**
 * Who lies on the cover goes up with it, and so does who is over it and would be in it: by what it rose there, less the
 * gap between them. To be done before it is raised; returns who they are.
 */
function lift(run: PopulationState, cover: Cover, before: Float32Array, { machine, to }: Moment): number[] {
  const { heap } = machine
  const { count } = run.columns
  const most = cover.heights.reduce((up, height, v) => Math.max(up, height - before[v]!), 0)
  if (most <= 0 || count === 0) return []
  const [position, startPosition, radius] = [floats(run.columns, 'position'), floats(run.columns, 'startPosition'), floats(run.columns, 'radius')] // prettier-ignore
  const near = nearSurface(machine, cover.body, to, run.columns.at.position, count, false, most + widestRadius(run.columns)) // prettier-ignore
  const found = heap.u32(near.triangle, count)
  const reached = Array.from(found.keys()).filter(
    (i) => heap.f32(near.distance, count)[i]! < most + radius[i]!,
  )
  const of = Uint32Array.from(reached, (i) => found[i]!)
  const gaps = Float32Array.from(reached, (i) => heap.f32(near.distance, count)[i]! - radius[i]!)
  const points = heap.f32(near.point, count * 3)
  const feet = Float32Array.from(
    reached.flatMap((i) => [points[i * 3]!, points[i * 3 + 1]!, points[i * 3 + 2]!]),
  )
  near.free()
  const { corners, weights } = cornersOf(cover, of, feet, to)
  reached.forEach((i, k) => {
    let up = -Math.max(0, gaps[k]!)
    for (let c = k * 3; c < k * 3 + 3; c++) {
      const v = corners[c]!
      up += weights[c]! * (cover.heights[v]! - before[v]!)
    }
    if (up <= 0) return
    position[i * 3 + 1] = position[i * 3 + 1]! + up
    startPosition[i * 3 + 1] = startPosition[i * 3 + 1]! + up
  })
  return reached
}

/** Who is in the cover all the same, as where it rose beside them, is put on it. */
function digOut(
  { columns }: PopulationState,
  { body }: Cover,
  reached: number[],
  { machine, to }: Moment,
): void {
  if (reached.length === 0) return
  const { heap } = machine
  const [position, startPosition, radius] = [floats(columns, 'position'), floats(columns, 'startPosition'), floats(columns, 'radius')] // prettier-ignore
  const points = positionsOfSome(columns, reached)
  const near = nearSurface(machine, body, to, points, reached.length, true)
  const [distance, feet] = [heap.f32(near.distance, reached.length), heap.f32(near.point, reached.length * 3)]
  reached.forEach((i, k) => {
    if (distance[k]! >= 0) return
    for (let axis = 0; axis < 3; axis++) {
      const out = (feet[k * 3 + axis]! - position[i * 3 + axis]!) / -distance[k]!
      position[i * 3 + axis] = feet[k * 3 + axis]! + out * radius[i]!
      startPosition[i * 3 + axis] = position[i * 3 + axis]!
    }
  })
  near.free()
  heap.free(points)
}

/** The corners of triangles, and the weights of feet on them, three each. */
function cornersOf({ body }: Cover, of: Uint32Array, feet: Float32Array, frame: number) {
  const { triangles } = body.mesh
  const two = weightsAt({ positions: body.worldView(frame), triangles }, of, feet)
  const corners = new Uint32Array(of.length * 3)
  const weights = new Float32Array(of.length * 3)
  for (let k = 0; k < of.length; k++) {
    const [u, v] = [two[k * 2]!, two[k * 2 + 1]!]
    corners.set(triangles.subarray(of[k]! * 3, of[k]! * 3 + 3), k * 3)
    weights.set([1 - u - v, u, v], k * 3)
  }
  return { corners, weights }
}
