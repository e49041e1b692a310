/**
 * A closed mesh as a few convex parts, for what touches: it is cut by planes until no part is hollower than it may be. What is
 * measured, and why: Mamou, Ghorbel, "A simple and efficient approach for 3D mesh approximate convex decomposition" (2009).
 */
import { principalAxes, rotate } from '../math/quaternion.ts'
import { add, cross, dot, scale, subtract, unit, vectorOf, type Vector } from '../math/vector.ts'
import { hullFaces } from './convexHull.ts'
import type { Mesh } from './mesh.ts'
import { supportPoints } from './supportPoints.ts'

/** As many parts at the most. */
const MOST_PARTS = 16
/** How deep a hollow may be that is filled, as a share of half the diagonal of the box around. */
const HOLLOW = 0.12
/** Triangles of which hollows are measured. */
const MOST_SAMPLES = 400
/** Where along a part it may be cut. */
const CUTS = [0.5, 0.35, 0.65]
/** Corners so near to a cut are on it, as a share of the way along the part: slivers would be deep hollows. */
const NEAR = 1e-5
/** How much smaller the hulls of another cut have to be for it to be better than the first. */
const BETTER = 0.98

/** Corners of triangles, 9 numbers each. */
type Soup = Float64Array
interface ConvexPart {
  soup: Soup
  /** Volume of its hull, m³. */
  volume: number
  /** Depth of its deepest hollow, m. */
  hollow: number
}

/** The points of the hull of each part; one part where the mesh is nearly convex. */
export function convexParts(
  { positions, triangles }: Pick<Mesh, 'positions' | 'triangles'>,
  hollow = HOLLOW,
): Vector[][] {
  const soup = Float64Array.from({ length: triangles.length * 3 }, (_, k) => positions[triangles[Math.floor(k / 3)]! * 3 + (k % 3)]!) // prettier-ignore
  const parts = [partOf(soup)]
  const sizes = [0, 1, 2].map((axis) => spanAlong(soup, UNITS[axis]!)).map(([from, to]) => to - from)
  const least = (hollow * Math.hypot(...sizes)) / 2
  while (parts.length < MOST_PARTS) {
    const worst = parts.reduce((a, b) => (b.hollow > a.hollow ? b : a))
    const halves = worst.hollow > least ? cutWell(worst) : null
    if (!halves) break
    parts.splice(parts.indexOf(worst), 1, ...halves)
  }
  return parts.map((part) => supportPoints(part.soup))
}
const UNITS: Vector[] = [[1, 0, 0], [0, 1, 0], [0, 0, 1]] // prettier-ignore

function partOf(soup: Soup): ConvexPart {
  const points = supportPoints(soup)
  const planes = hullFaces(points)
  const [middle] = points
  let volume = 0
  for (const { loop } of planes) {
    const [a, b, c] = loop.map((k) => subtract(points[k]!, middle!)) as [Vector, Vector, Vector]
    volume += dot(a, cross(b, c)) / 6
  }
  // how far it is from the surface straight out of the hull
  const step = Math.max(1, Math.floor(soup.length / 9 / MOST_SAMPLES))
  let hollow = 0
  for (let t = 0; t < soup.length / 9; t += step) {
    const [a, b, c] = [0, 1, 2].map((k) => vectorOf(soup, t * 3 + k)) as [Vector, Vector, Vector]
    const normal = unit(cross(subtract(b, a), subtract(c, a)), [0, 0, 0])
    const place = scale(add(a, add(b, c)), 1 / 3)
    let way = Infinity
    for (const plane of planes) {
      const towards = dot(plane.normal, normal)
      if (towards > 1e-3) way = Math.min(way, (plane.level - dot(plane.normal, place)) / towards)
    }
    if (way < Infinity) hollow = Math.max(hollow, way)
  }
  return { soup, volume, hollow }
}

/** Cuts across its principal axes: half-way along its length, unless another cut leaves clearly smaller hulls. */
function cutWell({ soup }: ConvexPart): [ConvexPart, ConvexPart] | null {
  let best: [ConvexPart, ConvexPart] | null = null
  for (const normal of directionsOf(soup)) {
    const [from, to] = spanAlong(soup, normal)
    for (const share of CUTS) {
      const sides = cut(soup, normal, from + share * (to - from), NEAR * (to - from))
      if (sides.some((side) => side.length === 0)) continue
      const halves = sides.map(partOf) as [ConvexPart, ConvexPart]
      if (!best || volumeOf(halves) < BETTER * volumeOf(best)) best = halves
    }
  }
  return best
}
const volumeOf = (parts: ConvexPart[]): number => parts.reduce((sum, { volume }) => sum + volume, 0)

/** The principal axes of the corners, the longest first. */
function directionsOf(soup: Soup): Vector[] {
  const count = soup.length / 3
  const middle: Vector = [0, 0, 0]
  for (let k = 0; k < soup.length; k++) middle[k % 3]! += soup[k]! / count
  const sums = [0, 0, 0, 0, 0, 0]
  for (let v = 0; v < count; v++) {
    const [x, y, z] = subtract(vectorOf(soup, v), middle)
    ;[x * x, y * y, z * z, x * y, y * z, z * x].forEach((one, k) => (sums[k]! += one))
  }
  const { values, axes } = principalAxes(sums)
  const own = UNITS.map((axis, k) => ({ axis: rotate(axes, axis), size: values[k]! }))
  return own.sort((a, b) => b.size - a.size).map(({ axis }) => axis)
}

/** Lowest and highest corner along a direction. */
function spanAlong(soup: Soup, [x, y, z]: Vector): [number, number] {
  let [from, to] = [Infinity, -Infinity]
  for (let k = 0; k < soup.length; k += 3) {
    const along = x * soup[k]! + y * soup[k + 1]! + z * soup[k + 2]!
    from = Math.min(from, along)
    to = Math.max(to, along)
  }
  return [from, to]
}

/** Triangles on both sides of a plane, those across it cut; corners so near to it are on it. */
function cut(soup: Soup, [x, y, z]: Vector, level: number, near: number): [Soup, Soup] {
  const sides: [number[], number[]] = [[], []]
  const heights = [0, 0, 0]
  for (let at = 0; at < soup.length; at += 9) {
    for (let c = 0; c < 3; c++) {
      const height = x * soup[at + c * 3]! + y * soup[at + c * 3 + 1]! + z * soup[at + c * 3 + 2]! - level
      heights[c] = Math.abs(height) < near ? 0 : height
    }
    for (const [side, sign] of [[0, 1], [1, -1]] as const) {
      if (heights.every((h) => h * sign > 0)) continue
      const kept = heights.every((h) => h * sign <= 0)
        ? [0, 1, 2].map((c) => vectorOf(soup, at / 3 + c))
        : clipped(soup, at, heights, sign)
      for (let k = 2; k < kept.length; k++) sides[side].push(...kept[0]!, ...kept[k - 1]!, ...kept[k]!)
    }
  }
  return [Float64Array.from(sides[0]), Float64Array.from(sides[1])]
} // prettier-ignore

/** The corners of what is left of a triangle where height × sign ≤ 0. */
function clipped(soup: Soup, at: number, heights: number[], sign: number): Vector[] {
  return [0, 1, 2].flatMap((c): Vector[] => {
    const [h, next] = [heights[c]! * sign, heights[(c + 1) % 3]! * sign]
    const [here, there] = [vectorOf(soup, at / 3 + c), vectorOf(soup, at / 3 + ((c + 1) % 3))]
    const crossed = h * next < 0 ? [add(here, scale(subtract(there, here), h / (h - next)))] : []
    return h <= 0 ? [here, ...crossed] : crossed
  })
}
