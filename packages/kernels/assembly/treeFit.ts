/** Fits a tree of triangles (tree.ts) to vertices: boxes and far fields of every quad, from the leaves up. */
import { treeDipole, treeQuad, treeSums, treeTriangle } from './layouts'
import { readF32, readF64, readI32, squareRoot, writeF32, writeF64, writeI32 } from './machine'
import { childOf, countOf, firstOf } from './tree'

/** Below any box, and above. */
const FAR: f64 = 3.0e38

/** The corners of triangles from a mesh's vertices: 3 × u32 numbers of them for each, in the order of the leaves. */
export function fitTriangles(start: i32, end: i32, corners: usize, positions: usize, vertices: usize): void {
  for (let k = start * 3; k < end * 3; k++) {
    const v = readI32(corners, k) * 3
    for (let axis = 0; axis < 3; axis++) writeF32(vertices, k * 3 + axis, readF32(positions, v + axis))
  }
}

function sumAt(quad: i32, lane: i32): i32 {
  return (quad * 4 + lane) * treeSums.SIZE
}

/** Boxes and sums of the children of quads that are leaves. `sums`: treeSums for each child. */
export function fitLeaves(start: i32, end: i32, quads: usize, vertices: usize, sums: usize): void {
  for (let quad = start; quad < end; quad++) {
    for (let lane = 0; lane < 4; lane++) {
      const child = childOf(quads, quad, lane)
      if (child < 0) fitLeaf(quads, quad, lane, child, vertices, sums)
    }
  }
}
function fitLeaf(quads: usize, quad: i32, lane: i32, leaf: i32, vertices: usize, sums: usize): void {
  const box = quad * treeQuad.SIZE + lane
  for (let axis = 0; axis < 3; axis++) {
    writeF32(quads, box + treeQuad.lowX + 4 * axis, FAR)
    writeF32(quads, box + treeQuad.highX + 4 * axis, -FAR)
  }
  const s = sumAt(quad, lane)
  for (let k = 0; k < treeSums.SIZE; k++) writeF64(sums, s + k, 0.0)
  const first = firstOf(leaf)
  const end = first + countOf(leaf)
  for (let t = first; t < end; t++) {
    const o = t * treeTriangle.SIZE
    const ux = readF32(vertices, o + treeTriangle.bx) - readF32(vertices, o + treeTriangle.ax)
    const uy = readF32(vertices, o + treeTriangle.by) - readF32(vertices, o + treeTriangle.ay)
    const uz = readF32(vertices, o + treeTriangle.bz) - readF32(vertices, o + treeTriangle.az)
    const vx = readF32(vertices, o + treeTriangle.cx) - readF32(vertices, o + treeTriangle.ax)
    const vy = readF32(vertices, o + treeTriangle.cy) - readF32(vertices, o + treeTriangle.ay)
    const vz = readF32(vertices, o + treeTriangle.cz) - readF32(vertices, o + treeTriangle.az)
    const nx = 0.5 * (uy * vz - uz * vy)
    const ny = 0.5 * (uz * vx - ux * vz)
    const nz = 0.5 * (ux * vy - uy * vx)
    // a triangle without area still has a place
    const area = squareRoot(nx * nx + ny * ny + nz * nz) + 1.0e-30
    add(sums, s + treeSums.normalX, nx)
    add(sums, s + treeSums.normalX + 1, ny)
    add(sums, s + treeSums.normalX + 2, nz)
    add(sums, s + treeSums.area, area)
    for (let axis = 0; axis < 3; axis++) {
      const a = readF32(vertices, o + treeTriangle.ax + axis)
      const b = readF32(vertices, o + treeTriangle.bx + axis)
      const c = readF32(vertices, o + treeTriangle.cx + axis)
      add(sums, s + treeSums.centreX + axis, (area * (a + b + c)) / 3.0)
      widen(quads, box + 4 * axis, a < b ? (a < c ? a : c) : b < c ? b : c, a > b ? (a > c ? a : c) : b > c ? b : c)
    }
  }
}
function add(column: usize, i: i32, value: f64): void {
  writeF64(column, i, readF64(column, i) + value)
}
/** Widens the box of a child along an axis. */
function widen(quads: usize, at: i32, low: f64, high: f64): void {
  if (low < readF32(quads, at + treeQuad.lowX)) writeF32(quads, at + treeQuad.lowX, low)
  if (high > readF32(quads, at + treeQuad.highX)) writeF32(quads, at + treeQuad.highX, high)
}

/** The other children from their own, and the far field of all: `count` quads, of which children have higher numbers. */
export function fitQuads(count: i32, quads: usize, sums: usize, dipoles: usize): void {
  for (let quad = count - 1; quad >= 0; quad--) {
    for (let lane = 0; lane < 4; lane++) {
      const child = childOf(quads, quad, lane)
      if (child >= 0) gatherChild(quads, quad, lane, child, sums)
      writeDipole(quads, quad, lane, sums, dipoles)
    }
  }
}
function gatherChild(quads: usize, quad: i32, lane: i32, child: i32, sums: usize): void {
  const box = quad * treeQuad.SIZE + lane
  const its = child * treeQuad.SIZE
  for (let axis = 0; axis < 3; axis++) {
    writeF32(quads, box + treeQuad.lowX + 4 * axis, FAR)
    writeF32(quads, box + treeQuad.highX + 4 * axis, -FAR)
    for (let k = 0; k < 4; k++) {
      widen(quads, box + 4 * axis, readF32(quads, its + treeQuad.lowX + 4 * axis + k), readF32(quads, its + treeQuad.highX + 4 * axis + k))
    }
  }
  const s = sumAt(quad, lane)
  for (let k = 0; k < treeSums.SIZE; k++) {
    let sum = 0.0
    for (let one = 0; one < 4; one++) sum += readF64(sums, sumAt(child, one) + k)
    writeF64(sums, s + k, sum)
  }
}
/** The area-weighted centre of a child, the distance from it to the farthest corner of its box, the sum of area vectors. */
function writeDipole(quads: usize, quad: i32, lane: i32, sums: usize, dipoles: usize): void {
  const s = sumAt(quad, lane)
  const box = quad * treeQuad.SIZE + lane
  const at = quad * treeDipole.SIZE + lane
  const area = readF64(sums, s + treeSums.area)
  let squared = 0.0
  for (let axis = 0; axis < 3; axis++) {
    const centre = area > 0.0 ? readF64(sums, s + treeSums.centreX + axis) / area : 0.0
    const above = readF32(quads, box + treeQuad.highX + 4 * axis) - centre
    const below = centre - readF32(quads, box + treeQuad.lowX + 4 * axis)
    const most = area > 0.0 ? (above > below ? above : below) : 0.0
    squared += most * most
    writeF32(dipoles, at + treeDipole.x + 4 * axis, centre)
    writeF32(dipoles, at + treeDipole.normalX + 4 * axis, readF64(sums, s + treeSums.normalX + axis))
  }
  writeF32(dipoles, at + treeDipole.radius, squareRoot(squared))
}

/** Mesh triangles of triangles in the order of a tree's leaves, in place; who has none gets the first. */
export function nameTriangles(start: i32, end: i32, triangle: usize, order: usize, count: i32): void {
  for (let i = start; i < end; i++) {
    const leaf = readI32(triangle, i)
    writeI32(triangle, i, leaf >= 0 && leaf < count ? readI32(order, leaf) : 0)
  }
}
