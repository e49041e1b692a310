/** Fits a tree of triangles (tree.ts) to vertices: boxes and far fields of every quad, from the leaves up. */
import {
  add4, addI4, and4, any4, divide4, gather4, length4, less4, lessI4, load4, loadI4, maximum4,
  minimum4, multiply4, multiplyI4, select4, shiftRight4, splat4, splatI4, squareRoot4, store4, subtract4, where4, xor4, F4, I4,
} from './lanes'
import { treeDipole, treeQuad, treeSums, treeTriangle } from './layouts'
import { readF32, readI32, writeF32, writeI32 } from './machine'
import { readRows, rowW, rowX, rowY, rowZ } from './rows'

/** Below any box, and above. */
const FAR: f64 = 3.0e38
/** Where children are that hold nothing: no point comes so near to them that what they add, nothing, could not be divided by its distance. */
const AWAY: f64 = 1.0e12
/** Triangles that a leaf may have. */
const MOST_IN_LEAF: i32 = 4

/** The corners of triangles from a mesh's vertices: 3 × u32 numbers of them for each, in the order of the leaves. */
export function fitTriangles(start: i32, end: i32, corners: usize, positions: usize, vertices: usize): void {
  for (let k = start * 3; k < end * 3; k++) {
    const v = readI32(corners, k) * 3
    for (let axis = 0; axis < 3; axis++) writeF32(vertices, k * 3 + axis, readF32(positions, v + axis))
  }
}

/**
 * Boxes and sums of the children of quads that are leaves, four children at a time; what it writes of others, `fitQuads` replaces.
 * `sums`: treeSums of each quad.
 */
export function fitLeaves(start: i32, end: i32, quads: usize, vertices: usize, sums: usize): void {
  for (let quad = start; quad < end; quad++) {
    const children = loadI4(quads, quad * treeQuad.SIZE + treeQuad.child)
    if (any4(lessI4(children, splatI4(0)))) fitFour(quads, quad, children, vertices, sums)
  }
}

function fitFour(quads: usize, quad: i32, children: I4, vertices: usize, sums: usize): void {
  const none = splat4(0.0)
  const leaf = lessI4(children, splatI4(0))
  // −1 − leaf is 8·first + count
  const code = and4(leaf, xor4(children, splatI4(-1)))
  const first = shiftRight4(code, 3)
  const counts = and4(code, splatI4(7))
  let lowX = splat4(FAR)
  let lowY = lowX
  let lowZ = lowX
  let highX = splat4(-FAR)
  let highY = highX
  let highZ = highX
  let centreX = none
  let centreY = none
  let centreZ = none
  let normalX = none
  let normalY = none
  let normalZ = none
  let area = none
  for (let k = 0; k < MOST_IN_LEAF; k++) {
    const there = lessI4(splatI4(k), counts)
    if (!any4(there)) break
    const at = multiplyI4(and4(there, addI4(first, splatI4(k))), splatI4(treeTriangle.SIZE))
    const ax = gather4(vertices, at)
    const ay = gather4(vertices, addI4(at, splatI4(treeTriangle.ay)))
    const az = gather4(vertices, addI4(at, splatI4(treeTriangle.az)))
    const bx = gather4(vertices, addI4(at, splatI4(treeTriangle.bx)))
    const by = gather4(vertices, addI4(at, splatI4(treeTriangle.by)))
    const bz = gather4(vertices, addI4(at, splatI4(treeTriangle.bz)))
    const cx = gather4(vertices, addI4(at, splatI4(treeTriangle.cx)))
    const cy = gather4(vertices, addI4(at, splatI4(treeTriangle.cy)))
    const cz = gather4(vertices, addI4(at, splatI4(treeTriangle.cz)))
    lowX = select4(there, minimum4(lowX, minimum4(ax, minimum4(bx, cx))), lowX)
    lowY = select4(there, minimum4(lowY, minimum4(ay, minimum4(by, cy))), lowY)
    lowZ = select4(there, minimum4(lowZ, minimum4(az, minimum4(bz, cz))), lowZ)
    highX = select4(there, maximum4(highX, maximum4(ax, maximum4(bx, cx))), highX)
    highY = select4(there, maximum4(highY, maximum4(ay, maximum4(by, cy))), highY)
    highZ = select4(there, maximum4(highZ, maximum4(az, maximum4(bz, cz))), highZ)
    const ux = subtract4(bx, ax)
    const uy = subtract4(by, ay)
    const uz = subtract4(bz, az)
    const vx = subtract4(cx, ax)
    const vy = subtract4(cy, ay)
    const vz = subtract4(cz, az)
    const half = splat4(0.5)
    const nx = multiply4(half, subtract4(multiply4(uy, vz), multiply4(uz, vy)))
    const ny = multiply4(half, subtract4(multiply4(uz, vx), multiply4(ux, vz)))
    const nz = multiply4(half, subtract4(multiply4(ux, vy), multiply4(uy, vx)))
    // a triangle without area still has a place
    const own = where4(there, add4(length4(nx, ny, nz), splat4(1.0e-30)))
    const third = multiply4(own, splat4(1.0 / 3.0))
    normalX = add4(normalX, where4(there, nx))
    normalY = add4(normalY, where4(there, ny))
    normalZ = add4(normalZ, where4(there, nz))
    area = add4(area, own)
    centreX = add4(centreX, multiply4(third, add4(ax, add4(bx, cx))))
    centreY = add4(centreY, multiply4(third, add4(ay, add4(by, cy))))
    centreZ = add4(centreZ, multiply4(third, add4(az, add4(bz, cz))))
  }
  const box = quad * treeQuad.SIZE
  store4(quads, box + treeQuad.lowX, lowX)
  store4(quads, box + treeQuad.lowY, lowY)
  store4(quads, box + treeQuad.lowZ, lowZ)
  store4(quads, box + treeQuad.highX, highX)
  store4(quads, box + treeQuad.highY, highY)
  store4(quads, box + treeQuad.highZ, highZ)
  const s = quad * treeSums.SIZE
  store4(sums, s + treeSums.centreX, centreX)
  store4(sums, s + treeSums.centreY, centreY)
  store4(sums, s + treeSums.centreZ, centreZ)
  store4(sums, s + treeSums.normalX, normalX)
  store4(sums, s + treeSums.normalY, normalY)
  store4(sums, s + treeSums.normalZ, normalZ)
  store4(sums, s + treeSums.area, area)
}

/** The other children from their own, and the far field of all: `count` quads, of which children have higher numbers. */
export function fitQuads(count: i32, quads: usize, sums: usize, dipoles: usize): void {
  for (let quad = count - 1; quad >= 0; quad--) {
    const children = loadI4(quads, quad * treeQuad.SIZE + treeQuad.child)
    const inner = lessI4(splatI4(-1), children)
    if (any4(inner)) gatherChildren(quads, quad, inner, and4(inner, children), sums)
    writeDipoles(quads, quad, sums, dipoles)
  }
}

/** Those of four children that are quads themselves (`inner`), from theirs. */
function gatherChildren(quads: usize, quad: i32, inner: I4, children: I4, sums: usize): void {
  const own = quad * treeQuad.SIZE
  for (let k = 0; k < 12; k += 4) {
    readRows(quads, rowIn(children, treeQuad.SIZE, treeQuad.lowX + k))
    const low = minimum4(minimum4(rowX, rowY), minimum4(rowZ, rowW))
    store4(quads, own + treeQuad.lowX + k, select4(inner, low, load4(quads, own + treeQuad.lowX + k)))
    readRows(quads, rowIn(children, treeQuad.SIZE, treeQuad.highX + k))
    const high = maximum4(maximum4(rowX, rowY), maximum4(rowZ, rowW))
    store4(quads, own + treeQuad.highX + k, select4(inner, high, load4(quads, own + treeQuad.highX + k)))
  }
  const s = quad * treeSums.SIZE
  for (let k = 0; k < treeSums.SIZE; k += 4) {
    readRows(sums, rowIn(children, treeSums.SIZE, k))
    const sum = add4(add4(rowX, rowY), add4(rowZ, rowW))
    store4(sums, s + k, select4(inner, sum, load4(sums, s + k)))
  }
}
/** In a table of rows of four, the row of some number of each of four records of `size` numbers. */
function rowIn(records: I4, size: i32, at: i32): I4 {
  return addI4(multiplyI4(records, splatI4(size >> 2)), splatI4(at >> 2))
}

/** The area-weighted centres of the children, the distance from each to the farthest corner of its box, the sums of area vectors. */
function writeDipoles(quads: usize, quad: i32, sums: usize, dipoles: usize): void {
  const s = quad * treeSums.SIZE
  const box = quad * treeQuad.SIZE
  const at = quad * treeDipole.SIZE
  const area = load4(sums, s + treeSums.area)
  const none = splat4(0.0)
  const there = less4(none, area)
  let squared = none
  for (let k = 0; k < 12; k += 4) {
    const centre = select4(there, divide4(load4(sums, s + treeSums.centreX + k), area), splat4(AWAY))
    const above = subtract4(load4(quads, box + treeQuad.highX + k), centre)
    const below = subtract4(centre, load4(quads, box + treeQuad.lowX + k))
    const most = where4(there, maximum4(above, below))
    squared = add4(squared, multiply4(most, most))
    store4(dipoles, at + treeDipole.x + k, centre)
    store4(dipoles, at + treeDipole.normalX + k, load4(sums, s + treeSums.normalX + k))
  }
  store4(dipoles, at + treeDipole.radius, squareRoot4(squared))
}

/** Mesh triangles of triangles in the order of a tree's leaves, in place; who has none gets the first. */
export function nameTriangles(start: i32, end: i32, triangle: usize, order: usize, count: i32): void {
  for (let i = start; i < end; i++) {
    const leaf = readI32(triangle, i)
    writeI32(triangle, i, leaf >= 0 && leaf < count ? readI32(order, leaf) : 0)
  }
}
