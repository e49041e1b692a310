/**
 * Voronoi cells as convex polyhedra: a box, clipped by the plane half-way to each neighbour, the nearest first, until the next one is too
 * far to cut anything. Source: Rycroft, "VORO++: a three-dimensional Voronoi cell library in C++" (2009).
 */
import { dot, subtract, type Vector } from '../math/vector.ts'

/** A convex polyhedron: its faces are loops of its vertices, counter-clockwise seen from outside. */
export interface Cell {
  vertices: Vector[]
  faces: Face[]
}
export interface Face {
  /** The seed beyond it; −1 for a side of the box. */
  neighbour: number
  loop: number[]
}

/** A box from corner to corner. */
export function boxCell(low: Vector, high: Vector): Cell {
  const vertices = Array.from({ length: 8 }, (_, k): Vector => [
    k & 1 ? high[0] : low[0],
    k & 2 ? high[1] : low[1],
    k & 4 ? high[2] : low[2],
  ])
  const loops = [[0, 4, 6, 2], [1, 3, 7, 5], [0, 1, 5, 4], [2, 6, 7, 3], [0, 2, 3, 1], [4, 5, 7, 6]] // prettier-ignore
  return { vertices, faces: loops.map((loop) => ({ neighbour: -1, loop })) }
}

/** What is left of a cell where normal · x ≤ level; null: nothing. The cut is the face towards `neighbour`. */
export function clipCell(
  { vertices, faces }: Cell,
  normal: Vector,
  level: number,
  neighbour: number,
): Cell | null {
  const height = vertices.map((v) => dot(normal, v) - level)
  if (height.every((h) => h <= 0)) return { vertices, faces }
  if (height.every((h) => h > 0)) return null
  const kept: Vector[] = []
  const numbers = new Map<number, number>()
  const numberOf = (key: number, point: () => Vector): number => {
    const known = numbers.get(key)
    if (known !== undefined) return known
    numbers.set(key, kept.length)
    kept.push(point())
    return kept.length - 1
  }
  const keep = (v: number): number => numberOf(v, () => vertices[v]!)
  // one vertex for each edge that is cut, whichever face comes first
  const cut = (a: number, b: number): number => {
    const [from, to] = a < b ? [a, b] : [b, a]
    return numberOf((from + 1) * vertices.length + to, () => {
      const t = height[from]! / (height[from]! - height[to]!)
      return vertices[from]!.map((x, axis) => x + (vertices[to]![axis]! - x) * t) as Vector
    })
  }
  /** Edges of the cut, from where a face leaves it to where it comes back. */
  const next = new Map<number, number>()
  const clipped = faces.flatMap((face): Face[] => {
    const loop: number[] = []
    let [out, back] = [-1, -1]
    face.loop.forEach((a, k) => {
      const b = face.loop[(k + 1) % face.loop.length]!
      if (height[a]! <= 0) loop.push(keep(a))
      if (height[a]! <= 0 !== height[b]! <= 0) {
        const v = cut(a, b)
        loop.push(v)
        if (height[a]! <= 0) out = v
        else back = v
      }
    })
    if (out >= 0) next.set(back, out)
    return loop.length >= 3 ? [{ neighbour: face.neighbour, loop }] : []
  })
  const loop = [...next.keys()].slice(0, 1)
  while (loop.length <= next.size) {
    const following = next.get(loop.at(-1)!)
    if (following === undefined || following === loop[0]) break
    loop.push(following)
  }
  // along the cut the neighbours run the other way
  if (loop.length >= 3) clipped.push({ neighbour, loop })
  return { vertices: kept, faces: clipped }
}

/** The cell of each seed within a box; null where another seed is at the same place. */
export function* voronoiCells(seeds: Vector[], low: Vector, high: Vector): Generator<Cell | null> {
  for (let i = 0; i < seeds.length; i++) yield cellOf(seeds, i, boxCell(low, high))
}

function cellOf(seeds: Vector[], i: number, box: Cell): Cell | null {
  const at = seeds[i]!
  let cell: Cell | null = box
  for (const { j, squared } of byDistance(seeds, i)) {
    const reach = Math.max(...cell.vertices.map((v) => lengthSquared(subtract(v, at))))
    if (squared > 4 * reach) break
    const way = subtract(seeds[j]!, at)
    const middle = (lengthSquared(seeds[j]!) - lengthSquared(at)) / 2
    if (squared > 0) cell = clipCell(cell, way, middle, j)
    else if (j < i) cell = null
    if (!cell) return null
  }
  return cell
}

const lengthSquared = (v: Vector): number => dot(v, v)

/** The other seeds, the nearest first; ranges are sorted only as they are asked for. */
function* byDistance(seeds: Vector[], i: number): Generator<{ j: number; squared: number }> {
  const all = seeds.map((seed, j) => ({ j, squared: lengthSquared(subtract(seed, seeds[i]!)) }))
  let waiting = all.filter(({ j }) => j !== i)
  let reach = Math.max(1e-30, ...waiting.slice(0, 1).map(({ squared }) => squared))
  for (const { squared } of waiting) if (squared > 0) reach = Math.min(reach, squared)
  while (waiting.length > 0) {
    reach *= 16
    const near = waiting.filter(({ squared }) => squared <= reach)
    yield* near.sort((a, b) => a.squared - b.squared || a.j - b.j)
    waiting = waiting.filter(({ squared }) => squared > reach)
  }
}
