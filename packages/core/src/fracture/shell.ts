/**
 * A *shell*: a closed skin around a mesh, at a gap from it and of a thickness. It is where the distance to the mesh, outside, is from gap
 * to gap + thickness: a level set over a grid, so that it does not cut itself where the mesh is concave.
 */
import type { Manifold, ManifoldToplevel } from 'manifold-3d'
import type { Machine } from '@tangle/kernels'
import { meshFacts, type Mesh } from '../geometry/mesh.ts'
import { buildTree, closestPoints, freeTree, windingNumbers, type Tree } from '../geometry/tree.ts'
import type { Vector } from '../math/vector.ts'
import type { ShellSource } from '../document/types.ts'
import { isosurface } from './isosurface.ts'

/** Most points of the grid: 256 MB. */
const MOST_POINTS = 64e6
/** Triangles that change the shell by less than this share of its thickness are joined. */
const SIMPLER = 0.05
/** The gap that comes out may fall short by this share of what was asked for. */
const SHORT = 0.02
const TRIES = 3

export interface ShellTools {
  manifold: ManifoldToplevel
  machine: Machine
  progress?(share: number): void
}

/**
 * The shell of a mesh in world size.
 * @throws Error that says what to change
 */
export function shellOf({ manifold, machine, progress }: ShellTools, mesh: Mesh, source: ShellSource): Mesh {
  if (mesh.triangles.length === 0) throw new Error('it has no triangles: a shell needs a surface')
  const { gap, thickness, detail } = source
  const tree = buildTree(machine, mesh)
  try {
    const edge = thickness / detail
    const grid = distanceGrid(machine, mesh, tree, edge, gap + thickness + 3 * edge)
    progress?.(0.5)
    // rounding by the grid brings the shell nearer: it is asked for farther off until the gap is what was asked for
    let asked = gap
    for (let turn = 1; ; turn++) {
      const solid = levelSet(manifold, grid, edge, asked, thickness)
      const made = solid.getMesh()
      const shell: Mesh = {
        positions: made.vertProperties.slice(),
        triangles: Uint32Array.from(made.triVerts),
      }
      solid.delete()
      if (shell.triangles.length === 0)
        throw new Error('no shell comes out: a finer detail or a thicker shell helps')
      const least = nearest(machine, tree, shell)
      progress?.(0.5 + 0.5 * (turn / TRIES))
      if (least >= gap * (1 - SHORT) || turn === TRIES) return shell
      asked += gap - least
    }
  } finally {
    freeTree(machine.heap, tree)
  }
}

/** Distances to a mesh on a grid, negative inside; far where they do not matter. */
interface Grid {
  low: Vector
  counts: Vector
  edge: number
  values: Float32Array
}
const FAR_OFF = 1e6

function distanceGrid(machine: Machine, mesh: Mesh, tree: Tree, edge: number, band: number): Grid {
  const { low: from, high } = meshFacts(mesh)
  const low = from.map((x) => x - band - edge) as Vector
  const counts = low.map((x, axis) => Math.ceil((high[axis]! + band + edge - x) / edge) + 1) as Vector
  const total = counts[0] * counts[1] * counts[2]
  if (!(total <= MOST_POINTS))
    throw new Error(
      `its grid would have ${Math.round(total / 1e6)} million points, more than ${MOST_POINTS / 1e6}: a thicker shell or a lower detail needs fewer`,
    )
  const values = new Float32Array(total).fill(FAR_OFF)
  const near = bandOf(mesh, { low, counts, edge, values }, band)
  const CHUNK = 65536
  for (let at = 0; at < near.length; at += CHUNK) {
    const some = near.subarray(at, at + CHUNK)
    const { distances } = closestPoints(machine, tree, placesOf({ low, counts, edge }, some))
    some.forEach((cell, k) => (values[cell] = distances[k]!))
  }
  const grid = { low, counts, edge, values }
  const isClosed = meshFacts(mesh).openEdges === 0
  const asked = isClosed ? oneOfEachSide(grid, near) : { asked: near, follows: null }
  for (let at = 0; at < asked.asked.length; at += CHUNK) {
    const some = asked.asked.subarray(at, at + CHUNK)
    const winding = windingNumbers(machine, tree, placesOf(grid, some))
    some.forEach((cell, k) => {
      if (winding[k]! <= 0.5) return
      values[cell] = -values[cell]!
      for (const other of asked.follows?.get(cell) ?? []) values[other] = -values[other]!
    })
  }
  return grid
}

/**
 * Points of a band of which to ask the side, and who follows each: between two points beside one another that are both farther than half an
 * edge from a closed surface it does not pass, so regions of such points lie on one side.
 */
function oneOfEachSide({ counts, edge, values }: Grid, near: Uint32Array) {
  const seen = new Uint8Array(values.length)
  const steps = [1, counts[0], counts[0] * counts[1]]
  const asked: number[] = []
  const follows = new Map<number, number[]>()
  const isFree = (cell: number): boolean => values[cell]! > edge / 2 && values[cell]! < FAR_OFF
  for (const first of near) {
    if (seen[first]) continue
    seen[first] = 1
    asked.push(first)
    if (!isFree(first)) continue
    const region = [first]
    for (let k = 0; k < region.length; k++)
      for (const step of steps)
        for (const other of [region[k]! - step, region[k]! + step]) {
          if (seen[other] !== 0 || !isFree(other)) continue
          seen[other] = 1
          region.push(other)
        }
    follows.set(first, region.slice(1))
  }
  return { asked: Uint32Array.from(asked), follows }
}

const placesOf = (grid: Omit<Grid, 'values'>, cells: Uint32Array): Float32Array => {
  const out = new Float32Array(cells.length * 3)
  cells.forEach((cell, k) => out.set(placeOf(grid, cell), k * 3))
  return out
}

const placeOf = ({ low, counts, edge }: Omit<Grid, 'values'>, cell: number): Vector => [
  low[0] + edge * (cell % counts[0]),
  low[1] + edge * (Math.floor(cell / counts[0]) % counts[1]),
  low[2] + edge * Math.floor(cell / (counts[0] * counts[1])),
]

/** Points of the grid within a band of the boxes of triangles. */
function bandOf(
  { positions, triangles }: Mesh,
  { low, counts, edge, values }: Grid,
  band: number,
): Uint32Array {
  const marks = new Uint8Array(values.length)
  for (let t = 0; t < triangles.length; t += 3) {
    const [from, to] = [Math.min, Math.max].map((of) =>
      [0, 1, 2].map((axis) => of(...[0, 1, 2].map((k) => positions[triangles[t + k]! * 3 + axis]!))),
    ) as [Vector, Vector]
    const [a, b] = [
      from.map((x, i) => Math.max(0, Math.floor((x - band - low[i]!) / edge))),
      to.map((x, i) => Math.min(counts[i]! - 1, Math.ceil((x + band - low[i]!) / edge))),
    ] as [Vector, Vector]
    for (let z = a[2]; z <= b[2]; z++)
      for (let y = a[1]; y <= b[1]; y++) {
        const row = counts[0] * (y + counts[1] * z)
        marks.fill(1, row + a[0], row + b[0] + 1)
      }
  }
  let n = 0
  for (const mark of marks) n += mark
  const out = new Uint32Array(n)
  n = 0
  marks.forEach((mark, cell) => mark && (out[n++] = cell))
  return out
}

/** The solid in which the distance is from gap to gap + thickness. */
function levelSet(
  manifold: ManifoldToplevel,
  { low, counts, values }: Grid,
  edge: number,
  gap: number,
  thickness: number,
): Manifold {
  const middle = gap + thickness / 2
  const inside = values.map((d) => thickness / 2 - Math.abs(d - middle))
  const { positions, triangles } = isosurface(inside, low, counts, edge)
  const mesh = new manifold.Mesh({ numProp: 3, vertProperties: positions, triVerts: triangles })
  const rough = manifold.Manifold.ofMesh(mesh)
  const simple = rough.simplify(SIMPLER * thickness)
  rough.delete()
  return simple
}

/** Least distance of a shell's vertices from the mesh. */
function nearest(machine: Machine, tree: Tree, { positions }: Mesh): number {
  const { points } = closestPoints(machine, tree, positions)
  let least = Infinity
  for (let k = 0; k < positions.length; k += 3)
    least = Math.min(least, (positions[k]! - points[k]!) ** 2 + (positions[k + 1]! - points[k + 1]!) ** 2 + (positions[k + 2]! - points[k + 2]!) ** 2) // prettier-ignore
  return Math.sqrt(least)
}
