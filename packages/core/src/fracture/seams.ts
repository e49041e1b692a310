/**
 * Seams of a broken surface: where two pieces meet on it, both get the same corners. Cutting leaves some of them with one piece only, on
 * an edge of the other; drawn as triangles, pixels shine through there, however near the corner is to the edge.
 */
import { add, dot, length, scale, subtract, vectorOf, writeVector, type Vector } from '../math/vector.ts'
import { BROKEN, type Part } from './fracture.ts'

/** Corners so near to an edge are on it, as a share of the largest coordinate: a few roundings of f32. */
const ON = 4 * 2 ** -23

/** Numbers of corners from which to which an edge goes. */
type Edge = [from: number, to: number]

/** The rim of the outside of a piece: its edges between that and where it broke, and the corners of these. */
interface Rim {
  part: Part
  edges: Edge[]
  corners: number[]
  low: Vector
  high: Vector
}

/** Corners that are nearly the same become the same, and edges get those of the neighbour that lie on them. Changes the parts. */
export function closeSeams(parts: Part[]): void {
  const largest = parts.reduce((most, { positions }) => positions.reduce((m, x) => Math.max(m, Math.abs(x)), most), 0)
  const near = ON * largest
  const rims = parts.map((part) => rimOf(part, near))
  const pairs = pairsOf(parts, rims)
  for (const [a, b] of pairs) join(rims[a]!, rims[b]!, near)
  const added = rims.map(() => new Map<string, Vector[]>())
  for (const [a, b] of pairs) {
    cornersOn(rims[a]!, rims[b]!, near, added[a]!)
    cornersOn(rims[b]!, rims[a]!, near, added[b]!)
  }
  parts.forEach((part, k) => added[k]!.size > 0 && splitEdges(part, added[k]!))
} // prettier-ignore

function rimOf(part: Part, near: number): Rim {
  const { positions, triangles, sources } = part
  const sides = new Map<string, Edge & { broken?: boolean }>()
  const edges: Edge[] = []
  for (let c = 0; c < triangles.length; c++) {
    const [from, to] = [triangles[c]!, triangles[c % 3 === 2 ? c - 2 : c + 1]!]
    const broken = sources[Math.floor(c / 3)] === BROKEN
    const other = sides.get(edgeKey(to, from))
    if (!other) sides.set(edgeKey(from, to), Object.assign([from, to] as Edge, { broken }))
    else if (other.broken !== broken) edges.push([from, to])
  }
  const corners = [...new Set(edges.flat())]
  const places = corners.map((v) => vectorOf(positions, v))
  const [low, high] = [Math.min, Math.max].map((of) =>
    [0, 1, 2].map((axis) => of(...places.map((p) => p[axis]!))),
  ) as [Vector, Vector]
  return { part, edges, corners, low: low.map((x) => x - near) as Vector, high: high.map((x) => x + near) as Vector } // prettier-ignore
}
const edgeKey = (a: number, b: number): string => `${a} ${b}`

/** Pieces of neighbouring cells, or of one, whose rims may touch; the lower number first. */
function pairsOf(parts: Part[], rims: Rim[]): [number, number][] {
  const ofCell = new Map<number, number[]>()
  parts.forEach(({ cell }, k) => ofCell.set(cell, [...(ofCell.get(cell) ?? []), k]))
  return parts.flatMap(({ cell, neighbours }, a) =>
    [cell, ...neighbours]
      .flatMap((one) => ofCell.get(one) ?? [])
      .filter(
        (b) =>
          b > a &&
          [0, 1, 2].every(
            (k) => rims[a]!.low[k]! <= rims[b]!.high[k]! && rims[b]!.low[k]! <= rims[a]!.high[k]!,
          ),
      ) // prettier-ignore
      .map((b): [number, number] => [a, b]),
  )
}

const isIn = ({ low, high }: Rim, p: Vector): boolean => p.every((x, k) => x >= low[k]! && x <= high[k]!)
const placesIn = ({ part, corners }: Rim, box: Rim) =>
  corners.map((v) => ({ v, p: vectorOf(part.positions, v) })).filter(({ p }) => isIn(box, p))

/** Corners of the second that are nearly where one of the first is go there. */
function join(first: Rim, second: Rim, near: number): void {
  const theirs = placesIn(first, second)
  for (const { v, p } of placesIn(second, first)) {
    const same = theirs.find((one) => length(subtract(one.p, p)) <= near)
    if (same) writeVector(second.part.positions, v, same.p)
  }
}

/** Notes which corners of another lie on edges of a rim, between their ends. */
function cornersOn(rim: Rim, other: Rim, near: number, added: Map<string, Vector[]>): void {
  const { positions } = rim.part
  const known = new Set(placesIn(rim, other).map(({ p }) => p.join()))
  const extra = placesIn(other, rim).filter(({ p }) => !known.has(p.join()))
  if (extra.length === 0) return
  for (const [from, to] of rim.edges) {
    const [a, b] = [vectorOf(positions, from), vectorOf(positions, to)]
    const way = subtract(b, a)
    const squared = dot(way, way)
    const on = extra.filter(({ p }) => {
      const share = dot(subtract(p, a), way) / squared
      return share > 0 && share < 1 && length(subtract(p, add(a, scale(way, share)))) <= near
    })
    if (on.length === 0) continue
    const key = edgeKey(Math.min(from, to), Math.max(from, to))
    const all = [...(added.get(key) ?? []), ...on.map(({ p }) => p)]
    added.set(key, [...new Map(all.map((p) => [p.join(), p])).values()])
  }
}

/** Gives edges corners between their ends: both triangles beside one become fans. */
function splitEdges(part: Part, added: Map<string, Vector[]>): void {
  const positions = [...part.positions]
  const numbers = new Map<string, number[]>()
  for (const [key, places] of added) {
    const from = vectorOf(part.positions, Number(key.split(' ')[0]))
    const along = places.sort((p, q) => length(subtract(p, from)) - length(subtract(q, from)))
    numbers.set(key, along.map((p) => positions.push(...p) / 3 - 1)) // prettier-ignore
  }
  /** The corners between two, on the way from the first. */
  const between = (from: number, to: number): number[] =>
    from < to ? (numbers.get(edgeKey(from, to)) ?? []) : [...(numbers.get(edgeKey(to, from)) ?? [])].reverse()
  const [triangles, sources]: number[][] = [[], []]
  for (let t = 0; t < part.sources.length; t++) {
    const [a, b, c] = [0, 1, 2].map((k) => part.triangles[t * 3 + k]!) as [number, number, number]
    for (const loop of fansOf([a, ...between(a, b)], [b, ...between(b, c)], [c, ...between(c, a)])) {
      triangles!.push(...loop)
      sources!.push(part.sources[t]!)
    }
  }
  part.positions = Float32Array.from(positions)
  part.triangles = Uint32Array.from(triangles!)
  part.sources = Uint32Array.from(sources!)
}

/** The triangles of one whose sides have corners: each side begins with a corner of it. None of them lies in a side. */
function fansOf(...sides: [number[], number[], number[]]): number[][] {
  const split = sides.findIndex((side) => side.length > 1)
  if (split < 0) return [sides.map(([corner]) => corner!)]
  const [own, next, last] = [0, 1, 2].map((k) => sides[(split + k) % 3]!) as [number[], number[], number[]]
  // cut off at the apex, which is across from the side: what is left on either hand has one side less to split
  const apex = last[0]!
  const stops = [...own, next[0]!]
  const inner = stops.slice(1, -2).map((stop, k) => [stop, stops[k + 2]!, apex])
  return [...fansOf([stops[0]!], [stops[1]!], last), ...inner, ...fansOf([stops.at(-2)!], next, [apex])]
}
