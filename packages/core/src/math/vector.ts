import { cosine, radians, sine } from './functions.ts'

export type Vector = [number, number, number]
/** Affine map, row by row: three rows of (x, y, z, offset). */
export type Affine = Float64Array

/** Number k of the vectors in an array. */
export const vectorOf = (array: Float32Array | Float64Array, k: number): Vector => [
  array[k * 3]!,
  array[k * 3 + 1]!,
  array[k * 3 + 2]!,
]
export function writeVector(array: Float32Array | Float64Array, k: number, [x, y, z]: Vector): void {
  array[k * 3] = x
  array[k * 3 + 1] = y
  array[k * 3 + 2] = z
}
export const add = (a: Vector, b: Vector): Vector => [a[0] + b[0], a[1] + b[1], a[2] + b[2]]
export const subtract = (a: Vector, b: Vector): Vector => [a[0] - b[0], a[1] - b[1], a[2] - b[2]]
export const scale = (a: Vector, s: number): Vector => [a[0] * s, a[1] * s, a[2] * s]
export const dot = (a: Vector, b: Vector): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2]
export const cross = (a: Vector, b: Vector): Vector => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
]
export const length = (a: Vector): number => Math.sqrt(dot(a, a))
/** Unit vector along a; `otherwise` when a is too short to have a direction. */
export function unit(a: Vector, otherwise: Vector = [0, 1, 0]): Vector {
  const l = length(a)
  return l > 1e-12 ? scale(a, 1 / l) : otherwise
}

/**
 * World from local: scale, then rotation about x, y, z in that order (degrees), then position.
 * Throws nothing: a zero scale flattens.
 */
export function affine(position: Vector, rotation: Vector, size: Vector): Affine {
  const [a, b, c] = rotation.map(radians) as Vector
  const [sa, ca, sb, cb, sc, cc] = [sine(a), cosine(a), sine(b), cosine(b), sine(c), cosine(c)]
  // Rz·Ry·Rx
  const m = [
    [cc * cb, cc * sb * sa - sc * ca, cc * sb * ca + sc * sa],
    [sc * cb, sc * sb * sa + cc * ca, sc * sb * ca - cc * sa],
    [-sb, cb * sa, cb * ca],
  ] as const
  const out = new Float64Array(12)
  for (let row = 0; row < 3; row++) {
    for (let column = 0; column < 3; column++) out[row * 4 + column] = m[row]![column]! * size[column]!
    out[row * 4 + 3] = position[row]!
  }
  return out
}

export const transform = (m: Affine, p: Vector): Vector => [
  m[0]! * p[0] + m[1]! * p[1] + m[2]! * p[2] + m[3]!,
  m[4]! * p[0] + m[5]! * p[1] + m[6]! * p[2] + m[7]!,
  m[8]! * p[0] + m[9]! * p[1] + m[10]! * p[2] + m[11]!,
]

/** The map whose every entry lies between those of a and b: points move on straight lines. */
export function between(a: Affine, b: Affine, t: number): Affine {
  return a.map((value, i) => value + (b[i]! - value) * t)
}

/** The inverse of a map; of a flat one, the inverse of a slightly thicker one. */
export function inverse(m: Affine): Affine {
  const [a, b, c] = [0, 4, 8].map((o) => [m[o]!, m[o + 1]!, m[o + 2]!]) as [Vector, Vector, Vector]
  const volume = dot(a, cross(b, c))
  const share = 1 / (Math.abs(volume) > 1e-30 ? volume : 1e-30)
  const columns = [cross(b, c), cross(c, a), cross(a, b)]
  const out = new Float64Array(12)
  for (let row = 0; row < 3; row++) {
    let offset = 0
    for (let k = 0; k < 3; k++) {
      const value = columns[k]![row]! * share
      out[row * 4 + k] = value
      offset -= value * m[k * 4 + 3]!
    }
    out[row * 4 + 3] = offset
  }
  return out
}

/** The map that does b first, then a. */
export function multiply(a: Affine, b: Affine): Affine {
  const out = new Float64Array(12)
  for (let row = 0; row < 3; row++) {
    for (let column = 0; column < 4; column++) {
      let sum = column === 3 ? a[row * 4 + 3]! : 0
      for (let k = 0; k < 3; k++) sum += a[row * 4 + k]! * b[k * 4 + column]!
      out[row * 4 + column] = sum
    }
  }
  return out
}
