import { layouts, MOST_THREADS, type Heap, type Machine } from '@tangle/kernels'
import { perMesh, type Mesh } from './mesh.ts'

/** A flat bounding tree of triangles in the heap, for the kernels of tree.ts; pointers, but for what it says. */
export interface Tree {
  quads: number
  vertices: number
  dipoles: number
  stack: number
  /** To fit it: numbers of the corners of each triangle in leaf order (3 × u32), and sums of children. */
  corners: number
  sums: number
  /** How many quads and triangles it has. */
  quadCount: number
  count: number
  /** Mesh triangle of each triangle in leaf order (u32). */
  order: number
}

const LEAF = 4
const { treeDipole, treeQuad, treeStack, treeSums, treeTriangle } = layouts

/** What of a tree does not depend on where its vertices are. */
interface Branches {
  /** What the children of each quad are, four a quad; see `treeQuad`. */
  children: Int32Array
  order: Uint32Array
}

/** Splits at the median along the longest side of the centres' box: balanced, so its depth never exceeds the stack. */
const branchesOf = perMesh((mesh): Branches => {
  const count = mesh.triangles.length / 3
  const centres = triangleCentres(mesh)
  const order = Uint32Array.from({ length: count }, (_, i) => i)
  const children: number[] = []
  const leaf = (from: number, to: number): number => -1 - (8 * from + (to - from))
  const halves = (from: number, to: number): [number, number][] => {
    if (to - from <= LEAF) return [[from, to]]
    const middle = (from + to) >> 1
    selectMedian(order, centres, longestAxis(centres, order, from, to), from, to, middle)
    return [
      [from, middle],
      [middle, to],
    ]
  }
  const split = (from: number, to: number): number => {
    const quad = children.length / 4
    children.push(leaf(0, 0), leaf(0, 0), leaf(0, 0), leaf(0, 0))
    const parts = halves(from, to).flatMap(([a, b]) => halves(a, b))
    parts.forEach(([a, b], lane) => {
      children[quad * 4 + lane] = b - a <= LEAF ? leaf(a, b) : split(a, b)
    })
    return quad
  }
  split(0, count)
  return { children: Int32Array.from(children), order }
})

/** Builds the tree of a mesh in a heap. */
export function buildTree(machine: Machine, mesh: Mesh): Tree {
  const { heap } = machine
  const { children, order } = branchesOf(mesh)
  const [quadCount, count] = [children.length / 4, order.length]
  const tree: Tree = {
    quads: heap.allocate(quadCount * treeQuad.SIZE * 4),
    vertices: heap.allocate(count * treeTriangle.SIZE * 4),
    dipoles: heap.allocate(quadCount * treeDipole.SIZE * 4),
    stack: heap.allocate(MOST_THREADS * treeStack.SIZE * 4),
    corners: heap.allocate(count * 12),
    sums: heap.allocate(quadCount * treeSums.SIZE * 4),
    order: heap.allocate(count * 4),
    quadCount,
    count,
  }
  heap.u32(tree.order, count).set(order)
  const codes = heap.u32(tree.quads, quadCount * treeQuad.SIZE)
  for (let quad = 0; quad < quadCount; quad++)
    codes.set(children.subarray(quad * 4, quad * 4 + 4), quad * treeQuad.SIZE + treeQuad.child)
  const corners = heap.u32(tree.corners, count * 3)
  for (let k = 0; k < count * 3; k++) corners[k] = mesh.triangles[order[Math.floor(k / 3)]! * 3 + (k % 3)]!
  const positions = heap.allocate(mesh.positions.byteLength)
  heap.f32(positions, mesh.positions.length).set(mesh.positions)
  refitTree(machine, tree, positions)
  heap.free(positions)
  return tree
}

/** Fits a tree to vertices that have moved (3 × f32): the same branches, new boxes. Exact; slower the more they moved. */
export function refitTree(machine: Machine, tree: Tree, positions: number): void {
  const { quads, vertices, sums, corners, dipoles, quadCount, count } = tree
  machine.run('fitTriangles', count, { corners, positions, vertices })
  machine.run('fitLeaves', quadCount, { quads, vertices, sums })
  machine.call('fitQuads', { count: quadCount, quads, sums, dipoles })
}

export function freeTree(heap: Heap, tree: Tree): void {
  const { quads, vertices, dipoles, stack, corners, sums, order } = tree
  for (const pointer of [quads, vertices, dipoles, stack, corners, sums, order]) heap.free(pointer)
}

/** Generalised winding number of each point (x, y, z …): above ½ is inside, also for open scans. */
export function windingNumbers(machine: Machine, tree: Tree, points: Float32Array): Float32Array {
  const { heap } = machine
  const count = points.length / 3
  const input = heap.allocate(points.byteLength)
  const output = heap.allocate(count * 4)
  heap.f32(input, points.length).set(points)
  machine.run('windingNumbers', count, {
    queries: input,
    quads: tree.quads,
    vertices: tree.vertices,
    dipoles: tree.dipoles,
    stack: tree.stack,
    out: output,
  })
  const out = heap.f32(output, count).slice()
  heap.free(input)
  heap.free(output)
  return out
}

/** Metres: farther than any surface. */
export const FAR = 1e150

export interface Closest {
  /** x, y, z of the closest surface point per query. */
  points: Float32Array
  /** Metres. */
  distances: Float32Array
  /** Triangle of the mesh. */
  triangles: Uint32Array
}

/** Closest surface point of each query point (x, y, z …). */
export function closestPoints(machine: Machine, tree: Tree, queries: Float32Array): Closest {
  const { heap } = machine
  const count = queries.length / 3
  const input = heap.allocate(queries.byteLength)
  const point = heap.allocate(queries.byteLength)
  const distance = heap.allocate(count * 4)
  const triangle = heap.allocate(count * 4)
  heap.f32(input, queries.length).set(queries)
  machine.run('closestPoints', count, {
    queries: input,
    quads: tree.quads,
    vertices: tree.vertices,
    stack: tree.stack,
    outPoint: point,
    outDistance: distance,
    outTriangle: triangle,
    limit: FAR,
  })
  nameTriangles(machine, tree, triangle, count)
  const out = {
    points: heap.f32(point, count * 3).slice(),
    distances: heap.f32(distance, count).slice(),
    triangles: heap.u32(triangle, count).slice(),
  }
  for (const pointer of [input, point, distance, triangle]) heap.free(pointer)
  return out
}

/** Takes triangles (u32) from the order of a tree's leaves to that of its mesh, in place; those of nobody to the first. */
export const nameTriangles = (
  machine: Machine,
  { order, count }: Tree,
  triangle: number,
  rows: number,
): void => machine.run('nameTriangles', rows, { triangle, order, count })

function triangleCentres(mesh: Mesh): Float32Array {
  const centres = new Float32Array(mesh.triangles.length)
  for (let t = 0; t < centres.length / 3; t++) {
    for (let k = 0; k < 3; k++) {
      for (let axis = 0; axis < 3; axis++) {
        const i = t * 3 + axis
        centres[i] = centres[i]! + mesh.positions[mesh.triangles[t * 3 + k]! * 3 + axis]! / 3
      }
    }
  }
  return centres
}

function longestAxis(centres: Float32Array, order: Uint32Array, from: number, to: number): number {
  const low = [Infinity, Infinity, Infinity]
  const high = [-Infinity, -Infinity, -Infinity]
  for (let i = from; i < to; i++) {
    for (let axis = 0; axis < 3; axis++) {
      const x = centres[order[i]! * 3 + axis]!
      if (x < low[axis]!) low[axis] = x
      if (x > high[axis]!) high[axis] = x
    }
  }
  const size = [0, 1, 2].map((axis) => high[axis]! - low[axis]!)
  return size.indexOf(Math.max(...size))
}

/** Hoare's selection: puts the element that belongs at `middle` there, smaller ones before it. */
function selectMedian(
  order: Uint32Array,
  centres: Float32Array,
  axis: number,
  from: number,
  to: number,
  middle: number,
): void {
  let low = from
  let high = to - 1
  const at = (i: number): number => centres[order[i]! * 3 + axis]!
  while (low < high) {
    const pivot = at((low + high) >> 1)
    let i = low
    let j = high
    while (i <= j) {
      while (at(i) < pivot) i++
      while (at(j) > pivot) j--
      if (i <= j) {
        const swap = order[i]!
        order[i] = order[j]!
        order[j] = swap
        i++
        j--
      }
    }
    if (middle <= j) high = j
    else if (middle >= i) low = i
    else return
  }
}
