/** The faces that pieces share: of each pair the area, its middle, its normal and how it resists bending. */
import type { SharedFaces } from '../geometry/pieces.ts'
import { add, cross, dot, length, scale, subtract, unit, vectorOf, type Vector } from '../math/vector.ts'
import { BROKEN, type Part } from './fracture.ts'

/** Faces smaller than this share of the largest are no bond. */
const LEAST = 1e-4
/** Fits of a point into a triangle are this exact, as a share of the triangle's size. */
const NEAR = 1e-3

interface Face {
  centre: Vector
  /** Twice the area, along the outward normal. */
  normal: Vector
  corners: [Vector, Vector, Vector]
}

/** @param seeds middles of the cells, in the space that `into` leads to, where the faces of cells are half-way between seeds */
export function sharedFaces(
  parts: Part[],
  seeds: Vector[],
  into: (p: Vector) => Vector,
  rough: number,
): SharedFaces {
  const ofCell = new Map<number, number[]>()
  parts.forEach(({ cell }, k) => ofCell.set(cell, [...(ofCell.get(cell) ?? []), k]))
  // per part the faces towards each other cell
  const facing = parts.map((part) => facesTowards(part, seeds, into))
  const found = new Map<string, Face[]>()
  facing.forEach((towards, a) => {
    for (const [cell, faces] of towards) {
      const others = ofCell.get(cell) ?? []
      for (const face of faces) {
        const b = others.length === 1 ? others[0]! : others.find((other) => meets(facing[other]!.get(parts[a]!.cell), face, rough)) // prettier-ignore
        // both sides tell the same: the lower one counts
        if (b === undefined || b < a) continue
        const key = `${a} ${b}`
        found.set(key, [...(found.get(key) ?? []), face])
      }
    }
  })
  const bonds = [...found].map(([key, faces]) => ({ pair: key.split(' ').map(Number), ...faceOf(faces) }))
  const largest = Math.max(0, ...bonds.map(({ area }) => area))
  const kept = bonds.filter(({ area }) => area > LEAST * largest)
  return {
    pairs: Uint32Array.from(kept.flatMap(({ pair }) => pair)),
    areas: Float32Array.from(kept, ({ area }) => area),
    centres: Float32Array.from(kept.flatMap(({ centre }) => centre)),
    normals: Float32Array.from(kept.flatMap(({ normal }) => normal)),
    axes: Float32Array.from(kept.flatMap(({ axis }) => axis)),
    moments: Float32Array.from(kept.flatMap(({ moments }) => moments)),
  }
}

/** The broken triangles of a part by the cell that lies beyond each. */
function facesTowards(
  { neighbours, positions, triangles, sources }: Part,
  seeds: Vector[],
  into: (p: Vector) => Vector,
) {
  const towards = new Map<number, Face[]>()
  sources.forEach((source, t) => {
    if (source !== BROKEN) return
    const corners = [0, 1, 2].map((k) => vectorOf(positions, triangles[t * 3 + k]!)) as Face['corners']
    const centre = scale(add(add(corners[0], corners[1]), corners[2]), 1 / 3)
    const normal = cross(subtract(corners[1], corners[0]), subtract(corners[2], corners[0]))
    const other = beyond(into(centre), neighbours, seeds)
    towards.set(other, [...(towards.get(other) ?? []), { centre, normal, corners }])
  })
  return towards
}

/** The nearest seed of some cells. */
function beyond(place: Vector, cells: number[], seeds: Vector[]): number {
  let [best, least] = [-1, Infinity]
  for (const k of cells) {
    const away = subtract(seeds[k]!, place)
    const d = dot(away, away)
    if (d < least) [best, least] = [k, d]
  }
  return best
}

/** Whether a face lies on one of those of the other side. */
function meets(others: Face[] | undefined, { centre }: Face, rough: number): boolean {
  return (others ?? []).some(({ corners: [a, b, c], normal }) => {
    const whole = dot(normal, normal)
    if (whole === 0) return false
    const off = Math.abs(dot(normal, subtract(centre, a))) / Math.sqrt(whole)
    if (off > NEAR * Math.sqrt(Math.sqrt(whole)) + 0.01 * rough) return false
    return [[a, b], [b, c], [c, a]].every(([from, to]) => dot(cross(subtract(to!, from!), subtract(centre, from!)), normal) >= -NEAR * whole) // prettier-ignore
  })
}

/** Area, middle, normal and second moments of a face from its triangles. */
function faceOf(faces: Face[]) {
  let area = 0
  let normal: Vector = [0, 0, 0]
  let centre: Vector = [0, 0, 0]
  for (const face of faces) {
    const own = length(face.normal) / 2
    area += own
    normal = add(normal, face.normal)
    centre = add(centre, scale(face.centre, own))
  }
  centre = scale(centre, 1 / Math.max(area, 1e-300))
  const n = unit(normal)
  const u = unit(cross(n, Math.abs(n[0]) < 0.6 ? [1, 0, 0] : [0, 1, 0]))
  const v = cross(n, u)
  // ∫ p pᵀ over a triangle: area/12 · (Σ cᵢcᵢᵀ + s sᵀ), s the sum of its corners
  let [uu, vv, uv] = [0, 0, 0]
  const points: [number, number][] = []
  for (const { corners, normal: twice } of faces) {
    const flat = corners.map(
      (p) => [dot(u, subtract(p, centre)), dot(v, subtract(p, centre))] as [number, number],
    )
    points.push(...flat)
    const [su, sv] = [0, 1].map((i) => flat.reduce((sum, p) => sum + p[i]!, 0)) as [number, number]
    const w = length(twice) / 24
    uu += w * (flat.reduce((sum, p) => sum + p[0] ** 2, 0) + su * su)
    vv += w * (flat.reduce((sum, p) => sum + p[1] ** 2, 0) + sv * sv)
    uv += w * (flat.reduce((sum, p) => sum + p[0] * p[1], 0) + su * sv)
  }
  const mean = (uu + vv) / 2
  const half = Math.sqrt(((uu - vv) / 2) ** 2 + uv * uv)
  const [long, across] = longest(uu, vv, uv, mean + half)
  const farthest = ([x, y]: [number, number]): number => Math.max(0, ...points.map((p) => Math.abs(x * p[0] + y * p[1]))) // prettier-ignore
  return {
    area,
    normal: n,
    centre,
    axis: unit(add(scale(u, long[0]), scale(v, long[1]))),
    moments: [mean - half, mean + half, farthest(across), farthest(long)],
  }
}

/** The direction in which a symmetric matrix is largest, and the one across it. */
function longest(uu: number, vv: number, uv: number, largest: number): [[number, number], [number, number]] {
  const [x, y] = uu >= vv ? [largest - vv, uv] : [uv, largest - uu]
  const size = Math.sqrt(x * x + y * y)
  const [c, s] = size > 0 ? [x / size, y / size] : [1, 0]
  return [[c, s], [-s, c]] // prettier-ignore
}
