/**
 * Philox 4×32-10, the same numbers as the kernel of that name (packages/kernels/assembly/random.ts).
 * Source: Salmon, Moraes, Dror, Shaw, "Parallel random numbers: as easy as 1, 2, 3" (SC 2011).
 */

/** What a draw is for. Two streams of one particle are independent. */
export const STREAM = {
  share: 1,
  /** Radius, lifespan, density and speed: the four numbers of one draw. */
  attributes: 2,
  surface: 5,
  volume: 6,
  aim: 7,
  vertex: 9,
  gradients: 10,
  cue: 11,
  response: 12,
  spin: 13,
  density: 14,
  sweep: 15,
  pairing: 16,
  wander: 17,
  places: 18,
  /** In the kernel of colliders. */
  deflection: 19,
  link: 20,
  /** Which way newborn particles are turned. */
  turned: 21,
  instance: 22,
  tumble: 23,
  /** Attributes that the artist added. */
  own: 24,
  /** Seeds of a fracture, and the roughness of its faces. */
  fracture: 25,
  /** How strong a bond is. */
  bond: 26,
  /** Where and whether particles bear others, and what those are called by. */
  offspring: 27,
  /** Who stays where they are thinned out. */
  thin: 28,
  /** Who splashes. */
  splash: 29,
} as const

/** High and low 32 bits of a product of unsigned numbers. */
function multiplyHigh(a: number, b: number): number {
  const a1 = a >>> 16
  const a0 = a & 0xffff
  const b1 = b >>> 16
  const b0 = b & 0xffff
  const middle = a1 * b0 + ((a0 * b0) >>> 16)
  const carry = (middle & 0xffff) + a0 * b1
  return (a1 * b1 + Math.floor(middle / 65536) + Math.floor(carry / 65536)) >>> 0
}

/** Four 32-bit words from a 128-bit counter and a 64-bit key. */
export function philox(
  counter: readonly [number, number, number, number],
  key: readonly [number, number],
): [number, number, number, number] {
  let [c0, c1, c2, c3] = counter
  let [k0, k1] = key
  for (let round = 0; round < 10; round++) {
    const high0 = multiplyHigh(0xd2511f53, c0 >>> 0)
    const low0 = Math.imul(0xd2511f53, c0)
    const high1 = multiplyHigh(0xcd9e8d57, c2 >>> 0)
    const low1 = Math.imul(0xcd9e8d57, c2)
    c0 = high1 ^ c1 ^ k0
    c1 = low1
    c2 = high0 ^ c3 ^ k1
    c3 = low0
    k0 = (k0 + 0x9e3779b9) | 0
    k1 = (k1 + 0xbb67ae85) | 0
  }
  return [c0 >>> 0, c1 >>> 0, c2 >>> 0, c3 >>> 0]
}

const toUnit = (word: number): number => (word + 0.5) * 2.3283064365386963e-10

/** Four numbers in (0, 1), never 0 and never 1, for a particle, a stream and a draw of that stream. */
export function randoms(
  seed: number,
  id: number,
  stream: number,
  draw = 0,
): [number, number, number, number] {
  const words = philox([id, stream, draw, 0], [seed, 0])
  return [toUnit(words[0]), toUnit(words[1]), toUnit(words[2]), toUnit(words[3])]
}

/** One number in (0, 1). */
export const random = (seed: number, id: number, stream: number): number => randoms(seed, id, stream)[0]

/** A number from a text, to give every population and influence a seed of its own (FNV-1a, 32 bits). */
export function seedFrom(seed: number, text: string): number {
  let h = 0x811c9dc5 ^ seed
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193)
  return h | 0
}
