import type { Machine } from '@tangle/kernels'
import { areaVector, type Mesh } from '../geometry/mesh.ts'
import { cosine, sine } from '../math/functions.ts'
import { STREAM } from '../math/random.ts'
import { closestPoints } from '../geometry/tree.ts'
import { anchored, weightsAt } from '../geometry/weights.ts'
import { choice, number, reference } from '../document/parameters.ts'
import { drawRandoms } from '../math/draw.ts'
import { evenPoints } from './even.ts'
import { birth, BirthError, COMMON, type BirthMesh, type Points } from './birth.ts'

/** Draws of a place in its triangle before the last one is taken as it is. */
const MOST_DRAWS = 16
/** Even scatter takes some seconds for so many. */
const MOST_EVEN = 300_000
const TOO_MANY = `Even scatter is for up to ${MOST_EVEN} particles: scatter them at random, or lower the burst of`

/** Born anywhere on the surface, as many per square metre (in world units) everywhere, or as a mask says. */
export const surface = birth({
  kind: 'surface',
  label: 'On the surface',
  glyph: '◠',
  help: 'Anywhere on the surface, even by area in world units',
  source: 'Turk, "Generating random points in triangles", Graphics Gems (1990)',
  parameters: {
    ...COMMON,
    amount: { ...COMMON.amount, sweeps: true },
    density: reference({
      label: 'Density',
      help: 'A mask: none are born where it is 0, and half as many where it is ½',
      to: 'mask',
      absent: 'even',
    }),
    scatter: choice({
      label: 'Scatter',
      help: 'At random; as far apart as can be (a burst only, without a mask); or in clusters',
      default: 'random',
      options: { random: 'random', even: 'even', clusters: 'clusters' },
    }),
    clusters: number({
      label: 'Clusters',
      unit: '',
      help: 'How many',
      default: 5,
      range: [1, 100_000],
      usual: [1, 50],
      whole: true,
      when: { scatter: 'clusters' },
    }),
    clusterRadius: number({
      label: 'Cluster radius',
      unit: 'm',
      help: 'How far from its middle a cluster reaches',
      default: 0.3,
      range: [0.0001, 1e5],
      usual: [0.05, 5],
      step: 0.05,
      when: { scatter: 'clusters' },
    }),
  },
  prepare({ density, scatter: how, amount, clusters, clusterRadius }, source) {
    const values = density === undefined ? null : source.maskAt(density)
    const areas = cumulatedAreas(source, values)
    const area = areas.at(-1) ?? 0
    if (how === 'clusters' && area > 0)
      return { offered: null, points: (ids) => inClusters(source, ids, areas, clusters, clusterRadius) }
    if (how === 'even' && !values && area > 0 && 'burst' in amount && amount.burst !== 'all') {
      const count = amount.burst
      if (count > MOST_EVEN) throw new BirthError(`${TOO_MANY} ${count}`)
      return { offered: count, points: (_, turns) => evenly(source, areas, count, turns!) }
    }
    return {
      offered: area > 0 ? null : 0,
      points(ids) {
        const points = scatter(source, ids, areas)
        if (values) thinOut(source, ids, points, values)
        return points
      },
    }
  },
})

interface Areas {
  scale: string
  /** Of each triangle in the world, m². */
  single: Float64Array
  /** Of each and all before it. */
  summed: Float64Array
  /** The same, times the mask that was asked last. */
  masked?: { density: Float32Array; summed: Float64Array }
}
/** Areas of the scale that was asked last. */
const known = new WeakMap<Mesh, Areas>()

function areasOf({ mesh, scale }: Pick<BirthMesh, 'mesh' | 'scale'>): Areas {
  const found = known.get(mesh)
  if (found?.scale === scale.join()) return found
  // an area vector goes over into world space by the cofactors of the scale
  const [x, y, z] = [scale[1] * scale[2], scale[0] * scale[2], scale[0] * scale[1]]
  const single = new Float64Array(mesh.triangles.length / 3)
  for (let t = 0; t < single.length; t++) {
    const n = areaVector(mesh, t)
    single[t] = Math.sqrt((n[0] * x) ** 2 + (n[1] * y) ** 2 + (n[2] * z) ** 2) / 2
  }
  const areas: Areas = { scale: scale.join(), single, summed: summed(single) }
  known.set(mesh, areas)
  return areas
}

function summed(values: Float64Array): Float64Array {
  let sum = 0
  return values.map((value) => (sum += value))
}

/** World area of all triangles up to and including each, m²; times the mean of a mask at their corners. */
export function cumulatedAreas(
  source: Pick<BirthMesh, 'mesh' | 'scale'>,
  density: Float32Array | null = null,
): Float64Array {
  const areas = areasOf(source)
  if (!density) return areas.summed
  // most masks stay as they are from one substep to the next
  const { masked } = areas
  if (masked && density.every((value, v) => value === masked.density[v])) return masked.summed
  const { triangles } = source.mesh
  const at = (corner: number): number => density[triangles[corner]!]!
  const sums = summed(areas.single.map((area, t) => (area * (at(t * 3) + at(t * 3 + 1) + at(t * 3 + 2))) / 3))
  areas.masked = { density: density.slice(), summed: sums }
  return sums
}

const scatter = ({ machine, seed }: BirthMesh, ids: Uint32Array, areas: Float64Array): Points =>
  scattered(machine, seed, STREAM.surface, ids, areas)

/** Places even by area over triangles, of which `areas` has that of each and all before it. */
export function scattered(
  machine: Machine,
  seed: number,
  stream: number,
  ids: Uint32Array,
  areas: Float64Array,
): Points {
  const { heap } = machine
  const count = ids.length
  const blocks = [areas.byteLength, count * 4, count * 4, count * 4, count * 4]
  const pointers = blocks.map((bytes) => heap.allocate(bytes))
  const [table, id, triangle, u, v] = pointers as [number, number, number, number, number]
  heap.f64(table, areas.length).set(areas)
  heap.u32(id, count).set(ids)
  machine.run('scatterSurface', count, {
    ids: id,
    seed,
    stream,
    areas: table,
    triangles: areas.length,
    outTriangle: triangle,
    outU: u,
    outV: v,
  })
  const [us, vs] = [heap.f32(u, count), heap.f32(v, count)]
  const weights = new Float32Array(count * 2)
  for (let i = 0; i < count; i++) weights.set([us[i]!, vs[i]!], i * 2)
  const points = { triangles: heap.u32(triangle, count).slice(), weights }
  for (const pointer of pointers) heap.free(pointer)
  return points
}

/** Within a triangle the mask is linear: places are drawn until one is taken with its share of the highest. */
function thinOut(
  { machine, mesh, seed }: BirthMesh,
  ids: Uint32Array,
  { triangles, weights }: Points,
  values: Float32Array,
): void {
  let waiting = Uint32Array.from(ids.keys())
  for (let draw = 0; draw < MOST_DRAWS && waiting.length > 0; draw++) {
    const of = waiting.map((i) => ids[i]!)
    const draws = drawRandoms(machine, of, seed, STREAM.density, draw)
    waiting = waiting.filter((i, w) => {
      const t = triangles[i]! * 3
      const [a, b, c] = [0, 1, 2].map((k) => values[mesh.triangles[t + k]!]!) as [number, number, number]
      const root = Math.sqrt(draws[w * 4]!)
      const [u, v] = [root * (1 - draws[w * 4 + 1]!), root * draws[w * 4 + 1]!]
      weights.set([u, v], i * 2)
      return a + (b - a) * u + (c - a) * v < draws[w * 4 + 2]! * Math.max(a, b, c)
    })
  }
}

/** As far apart as can be. */
function evenly(source: BirthMesh, areas: Float64Array, count: number, turns: Uint32Array): Points {
  const { mesh, scale, seed } = source
  const all = evenPoints(
    source.machine,
    mesh,
    source.sized(),
    areas.at(-1)!,
    count,
    `${scale.join()} ${count} ${seed}`,
    (n) =>
      scatter(
        source,
        Uint32Array.from({ length: n }, (_, k) => k),
        areas,
      ),
  )
  return {
    triangles: turns.map((turn) => all.triangles[turn]!),
    weights: Float32Array.from(
      { length: turns.length * 2 },
      (_, k) => all.weights[turns[k >> 1]! * 2 + (k & 1)]!,
    ),
  }
}

/** The middles are anywhere on the surface; each particle is in a ball about one, on the surface nearest to there. */
function inClusters(
  source: BirthMesh,
  ids: Uint32Array,
  areas: Float64Array,
  clusters: number,
  radius: number,
): Points {
  const { machine, mesh, seed, scale } = source
  const middles = scatter(
    { ...source, seed: seed ^ 0x2545f491 },
    Uint32Array.from({ length: clusters }, (_, k) => k),
    areas,
  )
  const places = anchored(mesh, middles.triangles, middles.weights)
  const draws = drawRandoms(machine, ids, seed, STREAM.density)
  const points = new Float32Array(ids.length * 3)
  for (let i = 0; i < ids.length; i++) {
    const [pick, away, height, round] = draws.subarray(i * 4, i * 4 + 4) as unknown as number[]
    const middle = Math.floor(pick! * clusters)
    const out = 2 * height! - 1
    const level = Math.sqrt(1 - out * out)
    const way = [level * cosine(2 * Math.PI * round!), out, level * sine(2 * Math.PI * round!)]
    for (let axis = 0; axis < 3; axis++) {
      // even over the disc that the ball cuts out of the surface
      const step = (radius * Math.sqrt(away!) * way[axis]!) / Math.max(1e-9, Math.abs(scale[axis]!))
      points[i * 3 + axis] = places[middle * 3 + axis]! + step
    }
  }
  const near = closestPoints(machine, source.tree(), points)
  return { triangles: near.triangles, weights: weightsAt(machine, mesh, near.triangles, near.points) }
}
