import { MOST_THREADS, type Heap, type Machine } from '@tangle/kernels'
import { areaVector, type Mesh } from './mesh.ts'

/** A flat bounding tree of triangles in the heap, for the kernels of tree.ts. */
export interface Tree {
  bounds: number
  links: number
  vertices: number
  dipoles: number
  stack: number
  nodes: number
  /** Mesh triangle of each triangle in leaf order. */
  order: Uint32Array
}

const LEAF = 4

/**
 * Builds the tree by splitting at the median along the longest side of the centres' box: balanced,
 * so its depth never exceeds the kernels' stack. Tried: surface-area heuristic: queries 15 % faster
 * but the build four times slower; not worth it while meshes are edited.
 */
export function buildTree(heap: Heap, mesh: Mesh): Tree {
  const count = mesh.triangles.length / 3
  const centres = triangleCentres(mesh)
  const order = Uint32Array.from({ length: count }, (_, i) => i)
  const most = Math.max(1, 4 * Math.ceil(count / LEAF))
  const bounds = new Float32Array(most * 6)
  const links = new Int32Array(most * 2)
  const dipoles = new Float32Array(most * 7)
  let nodes = 1
  const build = (node: number, from: number, to: number): void => {
    measure(mesh, order, from, to, bounds.subarray(node * 6, node * 6 + 6))
    dipole(mesh, order, from, to, dipoles.subarray(node * 7, node * 7 + 7))
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
    build(left, from, middle)
    build(left + 1, middle, to)
  }
  build(0, 0, count)

  const vertices = new Float32Array(count * 9)
  for (let t = 0; t < count; t++) {
    for (let k = 0; k < 3; k++) {
      const v = mesh.triangles[order[t]! * 3 + k]! * 3
      vertices.set(mesh.positions.subarray(v, v + 3), t * 9 + k * 3)
    }
  }
  const put = (array: Float32Array | Int32Array): number => {
    const pointer = heap.allocate(array.byteLength)
    heap.u32(pointer, array.length).set(new Uint32Array(array.buffer, 0, array.length))
    return pointer
  }
  return {
    bounds: put(bounds.slice(0, nodes * 6)),
    links: put(links.slice(0, nodes * 2)),
    vertices: put(vertices),
    dipoles: put(dipoles.slice(0, nodes * 7)),
    stack: heap.allocate(MOST_THREADS * 64 * 4),
    nodes,
    order,
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
  machine.run('windingNumbers', count, input, tree.links, tree.vertices, tree.dipoles, tree.stack, output)
  const out = heap.f32(output, count).slice()
  heap.free(input)
  heap.free(output)
  return out
}

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
  machine.run(
    'closestPoints',
    count,
    input,
    tree.bounds,
    tree.links,
    tree.vertices,
    tree.stack,
    point,
    distance,
    triangle,
  )
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

function measure(mesh: Mesh, order: Uint32Array, from: number, to: number, out: Float32Array): void {
  out.set([Infinity, Infinity, Infinity, -Infinity, -Infinity, -Infinity])
  for (let i = from; i < to; i++) {
    for (let k = 0; k < 3; k++) {
      const v = mesh.triangles[order[i]! * 3 + k]! * 3
      for (let axis = 0; axis < 3; axis++) {
        const x = mesh.positions[v + axis]!
        if (x < out[axis]!) out[axis] = x
        if (x > out[axis + 3]!) out[axis + 3] = x
      }
    }
  }
}

/** Area-weighted centre, radius about it and area vector: the far field of the triangles. */
function dipole(mesh: Mesh, order: Uint32Array, from: number, to: number, out: Float32Array): void {
  const centre = [0, 0, 0]
  const normal = [0, 0, 0]
  let area = 0
  for (let i = from; i < to; i++) {
    const t = order[i]!
    const n = areaVector(mesh, t)
    const a = Math.sqrt(n[0] ** 2 + n[1] ** 2 + n[2] ** 2) / 2 + 1e-30
    area += a
    for (let axis = 0; axis < 3; axis++) {
      normal[axis]! += n[axis]! / 2
      for (let k = 0; k < 3; k++) {
        centre[axis]! += (a / 3) * mesh.positions[mesh.triangles[t * 3 + k]! * 3 + axis]!
      }
    }
  }
  for (let axis = 0; axis < 3; axis++) centre[axis]! /= area
  let radius = 0
  for (let i = from; i < to; i++) {
    for (let k = 0; k < 3; k++) {
      const v = mesh.triangles[order[i]! * 3 + k]! * 3
      const [x, y, z] = [0, 1, 2].map((axis) => mesh.positions[v + axis]! - centre[axis]!) as [
        number,
        number,
        number,
      ]
      radius = Math.max(radius, Math.sqrt(x * x + y * y + z * z))
    }
  }
  out.set([...centre, radius, ...normal])
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
