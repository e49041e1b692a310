import { triangleArea } from '../geometry/clip.ts'
import { STREAM } from '../math/random.ts'
import { drawRandoms } from '../math/draw.ts'
import type { BirthMesh, Points, PointSource } from './birth.ts'

/**
 * The part of a surface that the level of a mask has just swept: where the value was below it and is at or
 * above it now. In each triangle both values are linear, so that part is a convex polygon: the triangle cut
 * by two lines. Points are even over its area, each at the moment at which the level passed it.
 */
export interface Sweep extends PointSource {
  /** Square metres. */
  area: number
}

type Corner = [u: number, v: number]

/** `meshTriangles` is a pointer to the triangles of the mesh (3 × u32); `before` and `after` are values at its vertices. */
export function sweep(
  source: BirthMesh,
  meshTriangles: number,
  before: Float32Array,
  after: Float32Array,
  level: number,
): Sweep {
  const { mesh, machine, seed } = source
  const world = source.sized()
  /** Of each fan triangle: its mesh triangle, three corners (u, v) and the area up to and including it. */
  const triangles: number[] = []
  const corners: number[] = []
  const areas: number[] = []
  let sum = 0
  // most triangles lie wholly on one side at both moments
  for (const t of sweptTriangles(source, meshTriangles, before, after, level)) {
    const [a, b, c] = [mesh.triangles[t * 3]!, mesh.triangles[t * 3 + 1]!, mesh.triangles[t * 3 + 2]!]
    const polygon = sweptPolygon(
      [before[a]! - level, before[b]! - level, before[c]! - level],
      [after[a]! - level, after[b]! - level, after[c]! - level],
    )
    if (polygon.length < 3) continue
    const whole = triangleArea(world, a, b, c)
    for (let k = 1; k + 1 < polygon.length; k++) {
      const [p, q, r] = [polygon[0]!, polygon[k]!, polygon[k + 1]!]
      const share = Math.abs((q[0] - p[0]) * (r[1] - p[1]) - (r[0] - p[0]) * (q[1] - p[1]))
      if (share === 0) continue
      sum += whole * share
      triangles.push(t)
      corners.push(...p, ...q, ...r)
      areas.push(sum)
    }
  }
  return {
    area: sum,
    offered: sum > 0 ? null : 0,
    points(ids): Points {
      const out = {
        triangles: new Uint32Array(ids.length),
        weights: new Float32Array(ids.length * 2),
        moments: new Float64Array(ids.length),
      }
      const draws = drawRandoms(machine, ids, seed, STREAM.sweep)
      for (let i = 0; i < ids.length; i++) {
        const piece = firstAtLeast(areas, draws[i * 4]! * sum)
        const root = Math.sqrt(draws[i * 4 + 1]!)
        const second = draws[i * 4 + 2]!
        const at = [1 - root, root * (1 - second), root * second]
        const o = piece * 6
        const u = at[0]! * corners[o]! + at[1]! * corners[o + 2]! + at[2]! * corners[o + 4]!
        const v = at[0]! * corners[o + 1]! + at[1]! * corners[o + 3]! + at[2]! * corners[o + 5]!
        const t = triangles[piece]!
        out.triangles[i] = t
        out.weights.set([u, v], i * 2)
        const valueIn = (values: Float32Array): number => {
          const [a, b, c] = [0, 1, 2].map((k) => values[mesh.triangles[t * 3 + k]!]!) as [
            number,
            number,
            number,
          ]
          return a + (b - a) * u + (c - a) * v
        }
        const [f, g] = [valueIn(before), valueIn(after)]
        out.moments[i] = g > f ? Math.min(1, Math.max(0, (level - f) / (g - f))) : 0
      }
      return out
    },
  }
}

/** The triangles of which a part has been swept. */
function sweptTriangles(
  { machine, mesh }: BirthMesh,
  triangles: number,
  before: Float32Array,
  after: Float32Array,
  level: number,
): Uint32Array {
  const { heap } = machine
  const count = mesh.triangles.length / 3
  const [was, is, out] = [heap.allocate(before.byteLength), heap.allocate(after.byteLength), heap.allocate(count * 4)] // prettier-ignore
  heap.f32(was, before.length).set(before)
  heap.f32(is, after.length).set(after)
  const found = machine.call('selectSwept', { count, triangles, before: was, after: is, level, out })
  const swept = heap.u32(out, found).slice()
  for (const pointer of [was, is, out]) heap.free(pointer)
  return swept
}

/** The part of the triangle (0,0), (1,0), (0,1) where `before` is below 0 and `after` is not. */
function sweptPolygon(before: number[], after: number[]): Corner[] {
  const whole: Corner[] = [
    [0, 0],
    [1, 0],
    [0, 1],
  ]
  const valueAt = (values: number[], [u, v]: Corner): number =>
    values[0]! + (values[1]! - values[0]!) * u + (values[2]! - values[0]!) * v
  const reached = after.every((g) => g >= 0) ? whole : cutOff(whole, (p) => valueAt(after, p))
  return before.every((f) => f < 0) ? reached : cutOff(reached, (p) => -valueAt(before, p))
}

/** The part of a convex polygon where a linear value is not negative (Sutherland, Hodgman 1974). */
function cutOff(polygon: Corner[], value: (p: Corner) => number): Corner[] {
  const out: Corner[] = []
  polygon.forEach((p, k) => {
    const q = polygon[(k + 1) % polygon.length]!
    const [f, g] = [value(p), value(q)]
    if (f >= 0) out.push(p)
    if (f >= 0 !== g >= 0) {
      const t = f / (f - g)
      out.push([p[0] + (q[0] - p[0]) * t, p[1] + (q[1] - p[1]) * t])
    }
  })
  return out
}

/** Place of the first entry of a rising list that is at least `value`. */
function firstAtLeast(rising: number[], value: number): number {
  let low = 0
  let high = rising.length - 1
  while (low < high) {
    const middle = (low + high) >> 1
    if (rising[middle]! < value) low = middle + 1
    else high = middle
  }
  return low
}
