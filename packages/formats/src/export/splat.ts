/**
 * Particles as a fog in space: each spreads over the voxels about it by a tent as wide as it is (a voxel at least), whose weights sum to 1, so that
 * nothing is lost or gained. Density is the share of a voxel's volume that particles fill, by their opacity; what they carry is the mean of those
 * in a voxel by the same weights. Voxels are kept in blocks of 8³, where there is something.
 * Source: the cloud-in-cell scheme, Birdsall and Fuss, "Clouds-in-clouds, clouds-in-cells physics for many-body plasma simulation" (1969).
 */
import type { PopulationFrame } from '@tangle/core'
import { FormatFault } from '../fault.ts'

/** Voxels along a block. */
export const BLOCK = 8
const VOXELS = BLOCK ** 3
/** More memory than this is not taken for the blocks of a frame, bytes. */
const MOST_BYTES = 2 ** 30
/** Radii of more voxels than this take too long. */
const WIDEST = 24

export interface Fog {
  /** Length of a voxel; its middle is at whole multiples. */
  voxel: number
  /** Blocks by their place, in blocks: VOXELS values of each grid, one part after the other. */
  blocks: Map<string, FogBlock>
}
export interface FogBlock {
  at: [number, number, number]
  /** By grid, as they were asked for; the first is density. */
  values: Float32Array[]
}
/** What particles carry into voxels. */
export interface Carried {
  name: string
  width: 1 | 3
  values: ArrayLike<number>
}

/** @throws FormatFault where voxels are so small that it would not end. */
export function splat(
  { id, count, columns }: PopulationFrame,
  radius: Float32Array,
  carried: Carried[],
  voxel: number,
  mostBytes = MOST_BYTES,
): Fog {
  const position = columns.position as Float32Array
  const opacity = columns.opacity as Float32Array | undefined
  const widths = [1, ...carried.map(({ width }) => width)]
  const bytes = widths.reduce((sum, width) => sum + width, 0) * VOXELS * 4
  const blocks = new Map<string, FogBlock>()
  const blockAt = (x: number, y: number, z: number): FogBlock => {
    const key = `${x} ${y} ${z}`
    const found = blocks.get(key)
    if (found) return found
    if ((blocks.size + 1) * bytes > mostBytes)
      throw new FormatFault(id, `its voxels of ${voxel} m do not fit into memory: choose larger ones (voxel)`)
    const made: FogBlock = { at: [x, y, z], values: widths.map((width) => new Float32Array(VOXELS * width)) }
    blocks.set(key, made)
    return made
  }
  for (let i = 0; i < count; i++) {
    const reach = Math.max(1, radius[i]! / voxel)
    if (reach > WIDEST)
      throw new FormatFault(id, `particles of ${radius[i]} m are more than ${WIDEST} voxels of ${voxel} m wide: choose larger ones (voxel)`) // prettier-ignore
    const filled = ((4 / 3) * Math.PI * radius[i]! ** 3 * (opacity?.[i] ?? 1)) / voxel ** 3
    const [xs, ys, zs] = [0, 1, 2].map((axis) => tent(position[i * 3 + axis]! / voxel, reach)) as [Tent, Tent, Tent] // prettier-ignore
    xs.weights.forEach((wx, a) =>
      ys.weights.forEach((wy, b) =>
        zs.weights.forEach((wz, c) => {
          const weight = filled * wx * wy * wz
          if (weight === 0) return
          const [x, y, z] = [xs.first + a, ys.first + b, zs.first + c]
          const block = blockAt(Math.floor(x / BLOCK), Math.floor(y / BLOCK), Math.floor(z / BLOCK))
          const at = voxelIn(x, y, z)
          block.values[0]![at]! += weight
          carried.forEach(({ width, values }, n) => {
            const grid = block.values[n + 1]!
            for (let k = 0; k < width; k++) grid[at * width + k]! += weight * values[i * width + k]!
          })
        }),
      ),
    )
  }
  for (const { values } of blocks.values()) divide(values, widths)
  return { voxel, blocks }
}

/** The number of a voxel in its block, x slowest. */
export const voxelIn = (x: number, y: number, z: number): number => (mod(x) * BLOCK + mod(y)) * BLOCK + mod(z)
const mod = (x: number): number => ((x % BLOCK) + BLOCK) % BLOCK

interface Tent {
  first: number
  weights: number[]
}
/** Weights of the voxels about a place along an axis; they sum to 1. */
function tent(middle: number, reach: number): Tent {
  const first = Math.ceil(middle - reach)
  const weights: number[] = []
  for (let x = first; x <= middle + reach; x++) weights.push(Math.max(0, 1 - Math.abs(x - middle) / reach))
  const sum = weights.reduce((all, one) => all + one, 0)
  return { first, weights: weights.map((weight) => weight / sum) }
}

/** Sums by weight become means. */
function divide([density, ...carried]: Float32Array[], [, ...widths]: number[]): void {
  carried.forEach((grid, n) => {
    const width = widths[n]!
    for (let i = 0; i < grid.length; i++) {
      const weight = density![Math.floor(i / width)]!
      grid[i] = weight > 0 ? grid[i]! / weight : 0
    }
  })
}
