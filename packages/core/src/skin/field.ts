/** Numbers on a grid of which only blocks are kept that something lies in, and the surface where they come to a level. */
import type { Mesh } from '../geometry/mesh.ts'
import { CASES, lowCorner } from './cubes.ts'

/** Nodes along a block. */
const SIZE = 8
const NODES = SIZE ** 3
/** Of a block and the first nodes of those behind it. */
const PADDED = SIZE + 1
/** Most blocks of a field: 1 GB. */
const MOST_BLOCKS = 2 ** 19
/** Blocks are numbered from −HALF on, along each axis. */
const HALF = 2 ** 16
/** Nodes are no farther than this from the one in the middle, along each axis. */
export const FARTHEST = SIZE * (HALF - 1)

export interface Field {
  /** The values of a block that has a node, from its lowest corner on; made if it is not there. */
  blockAt(x: number, y: number, z: number): Float32Array
  /** In nodes; triangles look outwards from what is above the level. */
  surface(level: number): Mesh
}
export { SIZE as BLOCK }

export function createField(most = MOST_BLOCKS): Field {
  const blocks = new Map<number, Float32Array>()
  const keyOf = (bx: number, by: number, bz: number): number =>
    bx + HALF + 2 * HALF * (by + HALF + 2 * HALF * (bz + HALF))
  function blockAt(x: number, y: number, z: number): Float32Array {
    const key = keyOf(Math.floor(x / SIZE), Math.floor(y / SIZE), Math.floor(z / SIZE))
    let block = blocks.get(key)
    if (!block) {
      if (blocks.size >= most)
        throw new Error('A skin this fine would take more than a gigabyte: ask for fewer cells (Look, Skin)')
      blocks.set(key, (block = new Float32Array(NODES)))
    }
    return block
  }
  return {
    blockAt,
    surface: (level) => march(blocks, keyOf, level),
  }
}

/** Numbers that grow. */
function growing<T extends Float32Array | Uint32Array>(make: (length: number) => T) {
  let kept = make(1024)
  let length = 0
  return {
    get length() {
      return length
    },
    push(a: number, b: number, c: number): void {
      if (length + 3 > kept.length) {
        const wider = make(2 * kept.length)
        wider.set(kept)
        kept = wider
      }
      kept[length] = a
      kept[length + 1] = b
      kept[length + 2] = c
      length += 3
    },
    at: (n: number): number => kept[n]!,
    done: (): T => kept.slice(0, length) as T,
  }
}

function march(
  blocks: Map<number, Float32Array>,
  keyOf: (x: number, y: number, z: number) => number,
  level: number,
): Mesh {
  const positions = growing((n) => new Float32Array(n))
  const triangles = growing((n) => new Uint32Array(n))
  // vertices on the three edges that begin at a node, 1 and on
  const crossings = new Map<number, Uint32Array>()
  for (const [key, block] of blocks)
    if (block.some((one) => one >= level)) crossings.set(key, new Uint32Array(0))
  const edgesOf = (key: number): Uint32Array => {
    let edges = crossings.get(key)
    if (!edges?.length) crossings.set(key, (edges = new Uint32Array(3 * NODES)))
    return edges
  }
  const values = new Float32Array(PADDED ** 3)
  for (const key of [...blocks.keys()].sort((a, b) => a - b)) {
    const bx = (key % (2 * HALF)) - HALF
    const by = (Math.floor(key / (2 * HALF)) % (2 * HALF)) - HALF
    const bz = Math.floor(key / (2 * HALF) ** 2) - HALF
    const near = Array.from({ length: 8 }, (_, c) => keyOf(bx + (c & 1), by + ((c >> 1) & 1), bz + (c >> 2)))
    if (!near.some((one) => crossings.has(one))) continue
    pad(
      values,
      near.map((one) => blocks.get(one)),
    )
    const edges = near.map(() => null) as (Uint32Array | null)[]

    /** The vertex on an edge that begins at the node x y z of the block or of those behind it. */
    function vertexAt(x: number, y: number, z: number, axis: number): number {
      const c = (x >> 3) + 2 * (y >> 3) + 4 * (z >> 3)
      const kept = (edges[c] ??= edgesOf(near[c]!))
      const at = 3 * ((x & 7) + SIZE * ((y & 7) + SIZE * (z & 7))) + axis
      if (kept[at]! > 0) return kept[at]! - 1
      const here = x + PADDED * (y + PADDED * z)
      const [a, b] = [values[here]!, values[here + PADDED ** axis]!]
      // not quite at a node, where several would fall together
      const t = Math.min(0.98, Math.max(0.02, (level - a) / (b - a)))
      positions.push(
        bx * SIZE + x + (axis === 0 ? t : 0),
        by * SIZE + y + (axis === 1 ? t : 0),
        bz * SIZE + z + (axis === 2 ? t : 0),
      )
      kept[at] = positions.length / 3
      return kept[at]! - 1
    }

    for (let z = 0; z < SIZE; z++)
      for (let y = 0; y < SIZE; y++)
        for (let x = 0; x < SIZE; x++) {
          let mask = 0
          for (let c = 0; c < 8; c++)
            if (values[x + (c & 1) + PADDED * (y + ((c >> 1) & 1) + PADDED * (z + (c >> 2)))]! >= level)
              mask |= 1 << c
          if (mask === 0 || mask === 255) continue
          for (const { edges: crossed, needsMiddle } of CASES[mask]!) {
            const loop = crossed.map((edge) => {
              const c = lowCorner(edge)
              return vertexAt(x + (c & 1), y + ((c >> 1) & 1), z + (c >> 2), edge >> 2)
            })
            if (needsMiddle) {
              const middle = [0, 1, 2].map((k) => loop.reduce((sum, v) => sum + positions.at(3 * v + k), 0) / loop.length) // prettier-ignore
              positions.push(middle[0]!, middle[1]!, middle[2]!)
              const m = positions.length / 3 - 1
              loop.forEach((v, k) => triangles.push(m, v, loop[(k + 1) % loop.length]!))
            } else for (let k = 1; k + 1 < loop.length; k++) triangles.push(loop[0]!, loop[k]!, loop[k + 1]!)
          }
        }
  }
  return { positions: positions.done(), triangles: triangles.done() }
}

/** A block with the first nodes of its seven neighbours behind it; 0 where there is none. */
function pad(values: Float32Array, near: (Float32Array | undefined)[]): void {
  for (let z = 0; z < PADDED; z++)
    for (let y = 0; y < PADDED; y++)
      for (let x = 0; x < PADDED; x++) {
        const block = near[(x >> 3) + 2 * (y >> 3) + 4 * (z >> 3)]
        values[x + PADDED * (y + PADDED * z)] = block
          ? block[(x & 7) + SIZE * ((y & 7) + SIZE * (z & 7))]!
          : 0
      }
}
