/** The convex hull of a few points, one point after another. It ends whatever lies in planes and lines; one that merges faces may not. */
import { cross, dot, length, subtract, unit, type Vector } from '../math/vector.ts'

/** Points that stand out less than this share of their spread add nothing. */
const FLAT = 1e-6

/** A face of a hull: three points counter-clockwise seen from outside, and its plane, normal · x = level. */
export interface HullFace {
  loop: [number, number, number]
  normal: Vector
  level: number
}

/** The faces around some points, few of them: time grows with points × faces. None where they lie in a plane. */
export function hullFaces(points: Vector[]): HullFace[] {
  const start = startOf(points)
  if (!start) return []
  const { corners, least } = start
  const faceOf = (a: number, b: number, c: number): HullFace => {
    const [p, q, r] = [points[a]!, points[b]!, points[c]!]
    const normal = unit(cross(subtract(q, p), subtract(r, p)))
    return { loop: [a, b, c], normal, level: dot(normal, p) }
  }
  const [a, b, c, d] = corners
  let faces = [faceOf(a, b, c), faceOf(a, c, d), faceOf(a, d, b), faceOf(b, d, c)]
  points.forEach((point, k) => {
    const sees = ({ normal, level }: HullFace): boolean => dot(normal, point) - level > least
    const seen = faces.filter(sees)
    const edges = seen.flatMap(({ loop: [i, j, l] }) => [[i, j], [j, l], [l, i]] as const) // prettier-ignore
    const directed = new Set(edges.map(([from, to]) => from * points.length + to))
    const rim = edges.filter(([from, to]) => !directed.has(to * points.length + from))
    faces = [...faces.filter((face) => !sees(face)), ...rim.map(([from, to]) => faceOf(from, to, k))]
  })
  return faces
}

/** Four points far apart, the last one behind the first three; null where all lie in a plane. */
function startOf(points: Vector[]): { corners: [number, number, number, number]; least: number } | null {
  const farthest = (away: (p: Vector) => number): number =>
    points.reduce((best, p, k) => (away(p) > away(points[best]!) ? k : best), 0)
  if (points.length < 4) return null
  const a = farthest((p) => p[0] + 1e-3 * p[1] + 1e-6 * p[2])
  const from = (p: Vector): Vector => subtract(p, points[a]!)
  const b = farthest((p) => length(from(p)))
  const line = from(points[b]!)
  const least = FLAT * length(line)
  const c = farthest((p) => length(cross(line, from(p))))
  const normal = unit(cross(line, from(points[c]!)))
  const d = farthest((p) => Math.abs(dot(normal, from(p))))
  const height = dot(normal, from(points[d]!))
  if (!(length(cross(line, from(points[c]!))) > least * length(line)) || Math.abs(height) <= least)
    return null
  return { corners: height < 0 ? [a, b, c, d] : [a, c, b, d], least }
}
