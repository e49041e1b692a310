import type { MeshFrame, PopulationFrame } from '@tangle/core'

/**
 * 64-bit hash of what every written format carries of a population: ids, positions and, where they are
 * kept, velocities and radii, so that a file read back can be compared with what was meant to be in it.
 * Mixing: MurmurHash3 x86_32 by Austin Appleby (public domain), twice with different seeds.
 */
export function contentsHash({ columns }: PopulationFrame): string {
  return hashOf([columns.id, columns.position, columns.velocity, columns.radius])
}

/** The same of a mesh: its vertices and triangles. */
export const meshHash = ({ positions, triangles }: MeshFrame): string => hashOf([positions, triangles])

export function hashOf(columns: (Float32Array | Uint32Array | undefined)[]): string {
  let low = 1
  let high = 2
  for (const column of columns) {
    if (!column) continue
    const words = new Uint32Array(column.buffer, column.byteOffset, column.length)
    low = hashWords(words, low)
    high = hashWords(words, high)
  }
  return [high, low].map((word) => (word >>> 0).toString(16).padStart(8, '0')).join('')
}

function hashWords(words: Uint32Array, seed: number): number {
  let h = seed
  for (let i = 0; i < words.length; i++) {
    let k = Math.imul(words[i]!, 0xcc9e2d51)
    k = Math.imul((k << 15) | (k >>> 17), 0x1b873593)
    h ^= k
    h = (Math.imul((h << 13) | (h >>> 19), 5) + 0xe6546b64) | 0
  }
  h ^= words.length << 2
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b)
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35)
  return h ^ (h >>> 16)
}
