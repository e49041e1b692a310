/**
 * The surface where values on a grid go from positive (inside) to negative: each cell is six tetrahedra about its diagonal, the same in
 * every cell, so that the surface is closed. Source: Doi, Koide, "An efficient method of triangulating equi-valued surfaces by using
 * tetrahedral cells" (1991).
 */
import type { Mesh } from '../geometry/mesh.ts'
import type { Vector } from '../math/vector.ts'

/** Corners of the tetrahedra, as bits x, y, z of the corners of a cell; all turn the same way. */
const TETRAHEDRA = [
  [0, 1, 3, 7], [0, 3, 2, 7], [0, 2, 6, 7], [0, 6, 4, 7], [0, 4, 5, 7], [0, 5, 1, 7],
] as const // prettier-ignore
/** A crossing is at least this share of its edge from the ends: nothing has no area. */
const LEAST = 1e-3

/** @param counts points of the grid along x, y, z; x runs fastest. Cells with no value near 0 on either side are passed over */
export function isosurface(values: Float32Array, low: Vector, counts: Vector, edge: number): Mesh {
  const steps = [1, counts[0], counts[0] * counts[1]] as const
  const offset = (corner: number): number =>
    (corner & 1) * steps[0] + ((corner >> 1) & 1) * steps[1] + ((corner >> 2) & 1) * steps[2]
  const offsets = Array.from({ length: 8 }, (_, corner) => offset(corner))
  const numbers = new Map<number, number>()
  const positions: number[] = []
  const triangles: number[] = []
  /** The vertex on an edge of the grid: from a corner of the cell to one with more bits. */
  const vertexOn = (cell: number, a: number, b: number): number => {
    const [from, to] = (a & b) === a ? [a, b] : [b, a]
    const start = cell + offsets[from]!
    const key = start * 8 + (to ^ from)
    const known = numbers.get(key)
    if (known !== undefined) return known
    const [u, v] = [values[start]!, values[cell + offsets[to]!]!]
    const t = Math.min(1 - LEAST, Math.max(LEAST, u / (u - v)))
    const at = [start % counts[0], Math.floor(start / counts[0]) % counts[1], Math.floor(start / steps[2])]
    for (let axis = 0; axis < 3; axis++)
      positions.push(low[axis]! + edge * (at[axis]! + (((to ^ from) >> axis) & 1) * t))
    numbers.set(key, numbers.size)
    return numbers.size - 1
  }
  const cutTetrahedron = (cell: number, corners: readonly number[]): void => {
    const inside = corners.filter((c) => values[cell + offsets[c]!]! > 0)
    if (inside.length === 0 || inside.length === 4) return
    const outside = corners.filter((c) => !inside.includes(c))
    const on = (a: number, b: number): number => vertexOn(cell, a, b)
    // seen from outside: an even permutation of the corners keeps the turn
    const even = isEven([...inside, ...outside].map((c) => corners.indexOf(c)))
    const add = (a: number, b: number, c: number): void => {
      if (even) triangles.push(a, b, c)
      else triangles.push(a, c, b)
    }
    if (inside.length === 1) {
      const [p] = inside as [number]
      const [a, b, c] = outside as [number, number, number]
      add(on(p, a), on(p, b), on(p, c))
    } else if (inside.length === 3) {
      const [a, b, c] = inside as [number, number, number]
      const [p] = outside as [number]
      add(on(a, p), on(b, p), on(c, p))
    } else {
      const [a, b] = inside as [number, number]
      const [c, d] = outside as [number, number]
      add(on(a, c), on(a, d), on(b, d))
      add(on(a, c), on(b, d), on(b, c))
    }
  }
  for (let z = 0; z + 1 < counts[2]; z++)
    for (let y = 0; y + 1 < counts[1]; y++)
      for (let x = 0; x + 1 < counts[0]; x++) {
        const cell = x + steps[1] * y + steps[2] * z
        const first = values[cell]! > 0
        let mixed = false
        for (let c = 1; c < 8 && !mixed; c++) mixed = values[cell + offsets[c]!]! > 0 !== first
        if (mixed) for (const corners of TETRAHEDRA) cutTetrahedron(cell, corners)
      }
  return { positions: Float32Array.from(positions), triangles: Uint32Array.from(triangles) }
}

function isEven(permutation: number[]): boolean {
  let swaps = 0
  for (let i = 0; i < permutation.length; i++)
    for (let j = i + 1; j < permutation.length; j++) if (permutation[i]! > permutation[j]!) swaps++
  return swaps % 2 === 0
}
