/**
 * The skin of a liquid: the surface of its particles as a closed mesh, by anisotropic kernels (Yu, Turk, "Reconstructing surfaces of particle-based
 * fluids using anisotropic kernels", 2013): each particle is a bell drawn out to where its neighbours lie, flat on a surface and round within; their sum
 * is 1 in the liquid, and the skin lies where it comes to a half.
 */
import { gatherCrowd, type Crowd } from '../geometry/crowd.ts'
import type { Mesh } from '../geometry/mesh.ts'
import { principalVectors } from '../math/quaternion.ts'
import type { Skin } from '../document/types.ts'
import { evenOut } from './even.ts'
import { BLOCK, createField, FARTHEST, type Field } from './field.ts'

/** Neighbours that tell how a particle lies are those within so many widths of it. */
const NEAR = 2
/** The mean square of their distance along an axis, in widths, in the midst of a liquid, each weighed by 1 − (r/NEAR)³: 3/5. */
const EVEN = 0.6
/** How far the bell of a particle in the midst of a liquid reaches, in its widths. */
const REACH = 1.7
/** Axes of a bell, as shares of that. */
const [THINNEST, WIDEST] = [0.3, 1.1]
/** Whoever has fewer neighbours is a drop by itself, as wide as it is. */
const FEW = 6
const ALONE = 0.55
/** Of (1 − q²)³ in space: 1 over its volume. */
const BELL = 315 / (64 * Math.PI)
/** Where the skin lies, and how much lower the more places are smoothed, which draws them in: balls and tanks then keep their volume. */
const LEVEL = 0.5
const LEVEL_PER_SMOOTHING = 0.38
/** So many places tell where its middle is. */
const SAMPLE = 1024
/** Rounds in which vertices are evened out, since cells leave slivers. */
const EVENINGS = 2

/** The name of the mesh among those of a frame. */
export const skinId = (population: string): string => `${population}.skin`

export interface SkinMesh extends Mesh {
  /** What was to be carried, at its vertices: that of the particles near. */
  carried: Float32Array[]
}

/** The skin of particles at `position` (m, 3 each) of `radius` (m), with whatever numbers of theirs, so many each; empty where there are none. */
export function skinOf(
  { cells, smoothing }: Skin,
  position: Float32Array,
  radius: Float32Array,
  numbers: Float32Array[] = [],
): SkinMesh {
  const count = radius.length
  const none = new Float32Array(0)
  if (count === 0) return { positions: none, triangles: new Uint32Array(0), carried: numbers.map(() => none) }
  const width = 2 * middleOf(radius)
  const cell = width / cells
  const middle = [0, 1, 2].map((axis) => cell * Math.round(middleOf(sampled(position, axis)) / cell))
  const crowd = gatherCrowd(position.map((x, k) => x - middle[k % 3]!), NEAR * width) // prettier-ignore
  const field = createField()
  const bell = { x: 0, y: 0, z: 0, axes: new Float64Array(9), reach: new Float64Array(3) }
  for (let i = 0; i < count; i++) {
    shapeBell(bell, crowd, i, 2 * radius[i]!, NEAR * width, smoothing)
    // what has flown off for good is left out
    if (Math.max(Math.abs(bell.x), Math.abs(bell.y), Math.abs(bell.z)) > FARTHEST * cell - 2 * width) continue
    splat(field, bell, (2 * radius[i]!) ** 3, cell)
  }
  const { positions, triangles } = field.surface(LEVEL - LEVEL_PER_SMOOTHING * smoothing)
  evenOut({ positions, triangles }, EVENINGS)
  for (let k = 0; k < positions.length; k++) positions[k]! *= cell
  const carried = carry(crowd, positions, numbers, REACH * width)
  for (let k = 0; k < positions.length; k++) positions[k] = middle[k % 3]! + positions[k]!
  return { positions, triangles, carried }
}

/** Some of their places along an axis. */
function sampled(position: Float32Array, axis: number): Float32Array {
  const stride = Math.ceil(position.length / 3 / SAMPLE)
  return Float32Array.from({ length: Math.floor((position.length / 3 - 1) / stride) + 1 }, (_, n) => position[3 * n * stride + axis]!) // prettier-ignore
}

function middleOf(values: Float32Array): number {
  const sorted = values.slice().sort()
  return sorted[sorted.length >> 1]!
}

interface Bell {
  x: number
  y: number
  z: number
  /** Unit vectors, one after another, and how far it reaches along them, m. */
  axes: Float64Array
  reach: Float64Array
}

function shapeBell(
  bell: Bell,
  crowd: Crowd,
  i: number,
  width: number,
  near: number,
  smoothing: number,
): void {
  const { position } = crowd
  const [x, y, z] = [position[i * 3]!, position[i * 3 + 1]!, position[i * 3 + 2]!]
  let [sum, found] = [1, 0]
  let [sx, sy, sz] = [0, 0, 0]
  let [xx, xy, xz, yy, yz, zz] = [0, 0, 0, 0, 0, 0]
  const all = crowd.findNear(x, y, z)
  const others = crowd.near
  for (let n = 0; n < all; n++) {
    const j = others[n]!
    if (j === i) continue
    const dx = position[j * 3]! - x
    const dy = position[j * 3 + 1]! - y
    const dz = position[j * 3 + 2]! - z
    const q = (dx * dx + dy * dy + dz * dz) / (near * near)
    if (q >= 1) continue
    const w = 1 - q * Math.sqrt(q)
    found++
    sum += w
    sx += w * dx
    sy += w * dy
    sz += w * dz
    xx += w * dx * dx
    xy += w * dx * dy
    xz += w * dx * dz
    yy += w * dy * dy
    yz += w * dy * dz
    zz += w * dz * dz
  }
  const [mx, my, mz] = [sx / sum, sy / sum, sz / sum]
  bell.x = x + smoothing * mx
  bell.y = y + smoothing * my
  bell.z = z + smoothing * mz
  if (found < FEW) {
    bell.axes.set([1, 0, 0, 0, 1, 0, 0, 0, 1])
    bell.reach.fill(ALONE * REACH * width)
    return
  }
  const { values, vectors } = principalVectors([
    xx / sum - mx * mx,
    yy / sum - my * my,
    zz / sum - mz * mz,
    xy / sum - mx * my,
    yz / sum - my * mz,
    xz / sum - mz * mx,
  ])
  vectors.forEach((axis, k) => bell.axes.set(axis, k * 3))
  for (let k = 0; k < 3; k++) {
    const share = Math.sqrt(Math.max(0, values[k]!) / EVEN) / width
    bell.reach[k] = REACH * width * Math.min(WIDEST, Math.max(THINNEST, share))
  }
}

/** Adds volume·W of a bell to the nodes within it, row by row: in a row W is a cube of a square in x. */
function splat(field: Field, { x, y, z, axes, reach }: Bell, volume: number, cell: number): void {
  const height = (volume * BELL) / (reach[0]! * reach[1]! * reach[2]!)
  // |A(n − at)|² of a node n, with A = Σ (axis ⊗ axis)/reach², times the cell squared; and how far it reaches
  let [xx, xy, xz, yy, yz, zz] = [0, 0, 0, 0, 0, 0]
  let [wideX, wideY, wideZ] = [0, 0, 0]
  for (let k = 0; k < 3; k++) {
    const [a, b, c] = [axes[k * 3]!, axes[k * 3 + 1]!, axes[k * 3 + 2]!]
    const square = (cell / reach[k]!) ** 2
    xx += a * a * square
    xy += a * b * square
    xz += a * c * square
    yy += b * b * square
    yz += b * c * square
    zz += c * c * square
    wideX += (a * a) / square
    wideY += (b * b) / square
    wideZ += (c * c) / square
  }
  const [atX, atY, atZ] = [x / cell, y / cell, z / cell]
  const [halfX, halfY, halfZ] = [Math.sqrt(wideX), Math.sqrt(wideY), Math.sqrt(wideZ)]
  // one node further down, so that cells of the surface begin in blocks that are there
  const lowX = Math.floor(atX - halfX) - 1
  const lowY = Math.floor(atY - halfY) - 1
  const lowZ = Math.floor(atZ - halfZ) - 1
  const [highX, highY, highZ] = [Math.ceil(atX + halfX), Math.ceil(atY + halfY), Math.ceil(atZ + halfZ)]
  for (let bz = lowZ & ~(BLOCK - 1); bz <= highZ; bz += BLOCK)
    for (let by = lowY & ~(BLOCK - 1); by <= highY; by += BLOCK)
      for (let bx = lowX & ~(BLOCK - 1); bx <= highX; bx += BLOCK) {
        const block = field.blockAt(bx, by, bz)
        const [y1, z1] = [Math.min(by + BLOCK - 1, highY), Math.min(bz + BLOCK - 1, highZ)]
        for (let nz = Math.max(bz, lowZ); nz <= z1; nz++)
          for (let ny = Math.max(by, lowY); ny <= y1; ny++) {
            const [dy, dz] = [ny - atY, nz - atZ]
            const b = xy * dy + xz * dz
            const c = yy * dy * dy + 2 * yz * dy * dz + zz * dz * dz - 1
            const inside = b * b - xx * c
            if (inside <= 0) continue
            const half = Math.sqrt(inside) / xx
            const middle = atX - b / xx
            const x0 = Math.max(bx, Math.ceil(middle - half))
            const x1 = Math.min(bx + BLOCK - 1, Math.floor(middle + half))
            const row = BLOCK * (ny - by + BLOCK * (nz - bz)) - bx
            for (let nx = x0; nx <= x1; nx++) {
              const dx = nx - atX
              const left = -(xx * dx + 2 * b) * dx - c
              block[row + nx]! += height * left * left * left
            }
          }
      }
}

/** What places have of the particles within reach of them, the nearer the more. */
function carry(crowd: Crowd, places: Float32Array, numbers: Float32Array[], reach: number): Float32Array[] {
  const { position } = crowd
  const [count, all] = [places.length / 3, position.length / 3]
  const widths = numbers.map((values) => values.length / all)
  const out = widths.map((width) => new Float32Array(count * width))
  for (let v = 0; v < count; v++) {
    const [x, y, z] = [places[v * 3]!, places[v * 3 + 1]!, places[v * 3 + 2]!]
    const found = crowd.findNear(x, y, z)
    const others = crowd.near
    let sum = 0
    for (let n = 0; n < found; n++) {
      const j = others[n]!
      const dx = position[j * 3]! - x
      const dy = position[j * 3 + 1]! - y
      const dz = position[j * 3 + 2]! - z
      const left = 1 - (dx * dx + dy * dy + dz * dz) / (reach * reach)
      if (left <= 0) continue
      const w = left * left * left
      sum += w
      for (let k = 0; k < out.length; k++) {
        const [to, from, width] = [out[k]!, numbers[k]!, widths[k]!]
        for (let part = 0; part < width; part++) to[v * width + part]! += w * from[j * width + part]!
      }
    }
    if (sum === 0) continue
    for (let k = 0; k < out.length; k++)
      for (let at = v * widths[k]!; at < (v + 1) * widths[k]!; at++) out[k]![at]! /= sum
  }
  return out
}
