import { areaVector } from '../geometry/mesh.ts'
import { STREAM } from '../math/random.ts'
import { reference } from '../shot/parameters.ts'
import { drawRandoms } from './draw.ts'
import { birth, COMMON, type BirthMesh, type Points } from './kind.ts'

/** Draws of a place in its triangle before the last one is taken as it is. */
const MOST_DRAWS = 16

/** Born anywhere on the surface, as many per square metre (in world units) everywhere, or as a mask says. */
export const surface = birth({
  kind: 'surface',
  label: 'On the surface',
  glyph: '◠',
  help: 'Anywhere on the surface, even by area in world units',
  source: 'Turk, "Generating random points in triangles", Graphics Gems (1990)',
  parameters: {
    ...COMMON,
    density: reference({
      label: 'Density',
      help: 'A mask: none are born where it is 0, and half as many where it is ½',
      to: 'mask',
      absent: 'even',
    }),
  },
  prepare({ density }, source) {
    const values = density === undefined ? null : source.maskAt(density)
    const areas = cumulatedAreas(source, values)
    return {
      offered: areas.at(-1)! > 0 ? null : 0,
      points(ids) {
        const points = scatter(source, ids, areas)
        if (values) thinOut(source, ids, points, values)
        return points
      },
    }
  },
})

/** World area of all triangles up to and including each, m²; times the mean of a mask at their corners. */
export function cumulatedAreas(
  { mesh, scale }: Pick<BirthMesh, 'mesh' | 'scale'>,
  density: Float32Array | null = null,
): Float64Array {
  const areas = new Float64Array(mesh.triangles.length / 3)
  // an area vector goes over into world space by the cofactors of the scale
  const [x, y, z] = [scale[1] * scale[2], scale[0] * scale[2], scale[0] * scale[1]]
  let sum = 0
  for (let t = 0; t < areas.length; t++) {
    const n = areaVector(mesh, t)
    let area = Math.sqrt((n[0] * x) ** 2 + (n[1] * y) ** 2 + (n[2] * z) ** 2) / 2
    if (density) {
      const [a, b, c] = [mesh.triangles[t * 3]!, mesh.triangles[t * 3 + 1]!, mesh.triangles[t * 3 + 2]!]
      area *= (density[a]! + density[b]! + density[c]!) / 3
    }
    sum += area
    areas[t] = sum
  }
  return areas
}

function scatter({ machine, seed }: BirthMesh, ids: Uint32Array, areas: Float64Array): Points {
  const { heap } = machine
  const count = ids.length
  const blocks = [areas.byteLength, count * 4, count * 4, count * 4, count * 4]
  const pointers = blocks.map((bytes) => heap.allocate(bytes))
  const [table, id, triangle, u, v] = pointers as [number, number, number, number, number]
  heap.f64(table, areas.length).set(areas)
  heap.u32(id, count).set(ids)
  machine.run('scatterSurface', count, id, seed, STREAM.surface, table, areas.length, triangle, u, v)
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
