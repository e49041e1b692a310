import { layouts, MOST_THREADS, type Heap, type Machine } from '@tangle/kernels'
import { perMesh, type Mesh } from './mesh.ts'

/** A flat bounding tree of triangles in the heap, for the kernels of tree.ts. */
export interface Tree {
  bounds: number
  links: number
  vertices: number
  dipoles: number
  stack: number
  /** Mesh triangle of each triangle in leaf order. */
  order: Uint32Array
  /** The same as in `links`, outside the heap. */
  nodes: Int32Array
}

const LEAF = 4

/** The tree's arrays before they are in a heap, made once per mesh. */
interface TreeArrays {
  bounds: Float32Array
  links: Int32Array
  vertices: Float32Array
  dipoles: Float32Array
  order: Uint32Array
}

/**
 * Builds the tree by splitting at the median along the longest side of the centres' box: balanced,
 * so its depth never exceeds the kernels' stack. Boxes and dipoles are then merged upwards.
 */
const treeArrays = perMesh((mesh): TreeArrays => {
  const count = mesh.triangles.length / 3
  const centres = triangleCentres(mesh)
  const order = Uint32Array.from({ length: count }, (_, i) => i)
  const most = Math.max(1, 4 * Math.ceil(count / LEAF))
  const links = new Int32Array(most * 2)
  let nodes = 1
  const split = (node: number, from: number, to: number): void => {
    if (to - from <= LEAF) {
      links[node * 2] = -1 - from
      links[node * 2 + 1] = to - from
      return
    }
    const middle = (from + to) >> 1
    selectMedian(order, centres, longestAxis(centres, order, from, to), from, to, middle)
    const left = nodes
    nodes += 2
    links[node * 2] = left
    links[node * 2 + 1] = left + 1
    split(left, from, middle)
    split(left + 1, middle, to)
  }
  split(0, 0, count)
  const vertices = inLeafOrder(mesh.positions, mesh.triangles, order)
  const { bounds, dipoles } = mergeUpwards(links.subarray(0, nodes * 2), vertices)
  return { bounds, links: links.slice(0, nodes * 2), vertices, dipoles, order }
})

function inLeafOrder(positions: Float32Array, triangles: Uint32Array, order: Uint32Array): Float32Array {
  const vertices = new Float32Array(order.length * 9)
  for (let t = 0; t < order.length; t++) {
    for (let k = 0; k < 3; k++) {
      const v = triangles[order[t]! * 3 + k]! * 3
      for (let axis = 0; axis < 3; axis++) vertices[t * 9 + k * 3 + axis] = positions[v + axis]!
    }
  }
  return vertices
}

/** Fits a tree to vertices that have moved: the same nodes, new bounds. Exact; slower the more they moved. */
export function refitTree(heap: Heap, tree: Tree, positions: Float32Array, triangles: Uint32Array): void {
  const vertices = inLeafOrder(positions, triangles, tree.order)
  const { bounds, dipoles } = mergeUpwards(tree.nodes, vertices)
  heap.f32(tree.vertices, vertices.length).set(vertices)
  heap.f32(tree.bounds, bounds.length).set(bounds)
  heap.f32(tree.dipoles, dipoles.length).set(dipoles)
}

/** Puts the tree of a mesh into a heap. */
export function buildTree(heap: Heap, mesh: Mesh): Tree {
  const { order, ...arrays } = treeArrays(mesh)
  const put = (array: Float32Array | Int32Array): number => {
    const pointer = heap.allocate(array.byteLength)
    heap.u32(pointer, array.length).set(new Uint32Array(array.buffer, array.byteOffset, array.length))
    return pointer
  }
  return {
    bounds: put(arrays.bounds),
    links: put(arrays.links),
    vertices: put(arrays.vertices),
    dipoles: put(arrays.dipoles),
    stack: heap.allocate(MOST_THREADS * layouts.treeStack.SIZE * 4),
    order,
    nodes: arrays.links,
  }
}

export function freeTree(heap: Heap, tree: Tree): void {
  for (const pointer of [tree.bounds, tree.links, tree.vertices, tree.dipoles, tree.stack]) heap.free(pointer)
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
    links: tree.links,
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
    bounds: tree.bounds,
    links: tree.links,
    vertices: tree.vertices,
    stack: tree.stack,
    outPoint: point,
    outDistance: distance,
    outTriangle: triangle,
    limit: FAR,
  })
  const out = {
    points: heap.f32(point, count * 3).slice(),
    distances: heap.f32(distance, count).slice(),
    triangles: heap.u32(triangle, count).map((t) => tree.order[t]!),
  }
  for (const pointer of [input, point, distance, triangle]) heap.free(pointer)
  return out
}

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

/**
 * Box and dipole of every node, from the leaves up: children have higher numbers than their parents.
 * A dipole is the far field of the triangles: their area-weighted centre, the distance from it to
 * the farthest corner of the box, and the sum of their area vectors.
 */
function mergeUpwards(links: Int32Array, vertices: Float32Array): Pick<TreeArrays, 'bounds' | 'dipoles'> {
  const nodes = links.length / 2
  const bounds = new Float32Array(nodes * 6)
  const dipoles = new Float32Array(nodes * 7)
  const areas = new Float64Array(nodes)
  /** Centre × area and area vector, in f64. */
  const sums = new Float64Array(nodes * 6)
  for (let node = nodes - 1; node >= 0; node--) {
    const left = links[node * 2]!
    const right = links[node * 2 + 1]!
    const b = node * 6
    if (left < 0) measureLeaf(vertices, -1 - left, right, bounds, sums, areas, node)
    else {
      for (let k = 0; k < 3; k++) {
        const [low, other] = [bounds[left * 6 + k]!, bounds[right * 6 + k]!]
        bounds[b + k] = low < other ? low : other
        const [high, one] = [bounds[left * 6 + 3 + k]!, bounds[right * 6 + 3 + k]!]
        bounds[b + 3 + k] = high > one ? high : one
      }
      for (let k = 0; k < 6; k++) sums[b + k] = sums[left * 6 + k]! + sums[right * 6 + k]!
      areas[node] = areas[left]! + areas[right]!
    }
    let squared = 0
    for (let axis = 0; axis < 3; axis++) {
      const centre = sums[b + axis]! / areas[node]!
      squared += Math.max(bounds[b + 3 + axis]! - centre, centre - bounds[b + axis]!) ** 2
      dipoles[node * 7 + axis] = centre
      dipoles[node * 7 + 4 + axis] = sums[b + 3 + axis]!
    }
    dipoles[node * 7 + 3] = Math.sqrt(squared)
  }
  return { bounds, dipoles }
}

function measureLeaf(
  vertices: Float32Array,
  first: number,
  count: number,
  bounds: Float32Array,
  sums: Float64Array,
  areas: Float64Array,
  node: number,
): void {
  const b = node * 6
  for (let axis = 0; axis < 3; axis++) {
    bounds[b + axis] = Infinity
    bounds[b + 3 + axis] = -Infinity
  }
  for (let o = first * 9; o < (first + count) * 9; o += 9) {
    // in plain locals: this runs for every triangle that has moved
    const [ax, ay, az] = [vertices[o]!, vertices[o + 1]!, vertices[o + 2]!]
    const ux = vertices[o + 3]! - ax
    const uy = vertices[o + 4]! - ay
    const uz = vertices[o + 5]! - az
    const vx = vertices[o + 6]! - ax
    const vy = vertices[o + 7]! - ay
    const vz = vertices[o + 8]! - az
    const nx = (uy * vz - uz * vy) / 2
    const ny = (uz * vx - ux * vz) / 2
    const nz = (ux * vy - uy * vx) / 2
    // a triangle without area still has a place
    const area = Math.sqrt(nx * nx + ny * ny + nz * nz) + 1e-30
    areas[node] = areas[node]! + area
    sums[b + 3] = sums[b + 3]! + nx
    sums[b + 4] = sums[b + 4]! + ny
    sums[b + 5] = sums[b + 5]! + nz
    for (let k = 0; k < 9; k++) {
      const axis = k % 3
      const x = vertices[o + k]!
      sums[b + axis] = sums[b + axis]! + (area * x) / 3
      if (x < bounds[b + axis]!) bounds[b + axis] = x
      if (x > bounds[b + 3 + axis]!) bounds[b + 3 + axis] = x
    }
  }
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
