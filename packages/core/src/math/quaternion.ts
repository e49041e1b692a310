/** Unit quaternions x, y, z, w, in f64. */
import { cross, dot, scale, add, type Affine, type Vector } from './vector.ts'

export type Quaternion = [number, number, number, number]
export const UNTURNED: Quaternion = [0, 0, 0, 1]

export const quaternionOf = (array: Float32Array | Float64Array, k: number): Quaternion => [
  array[k * 4]!,
  array[k * 4 + 1]!,
  array[k * 4 + 2]!,
  array[k * 4 + 3]!,
]

/** Does b first, then a. */
export const compose = (a: Quaternion, b: Quaternion): Quaternion => [
  a[3] * b[0] + a[0] * b[3] + a[1] * b[2] - a[2] * b[1],
  a[3] * b[1] - a[0] * b[2] + a[1] * b[3] + a[2] * b[0],
  a[3] * b[2] + a[0] * b[1] - a[1] * b[0] + a[2] * b[3],
  a[3] * b[3] - a[0] * b[0] - a[1] * b[1] - a[2] * b[2],
]
export const conjugate = ([x, y, z, w]: Quaternion): Quaternion => [-x, -y, -z, w]

export function unitQuaternion(q: Quaternion): Quaternion {
  const l = Math.sqrt(q[0] ** 2 + q[1] ** 2 + q[2] ** 2 + q[3] ** 2)
  return l > 1e-12 ? [q[0] / l, q[1] / l, q[2] / l, q[3] / l] : [0, 0, 0, 1]
}

/** The vector turned. */
export function rotate(q: Quaternion, v: Vector): Vector {
  const axis: Vector = [q[0], q[1], q[2]]
  const t = scale(cross(axis, v), 2)
  return add(add(v, scale(t, q[3])), cross(axis, t))
}

/**
 * The turn by an angular velocity that lasts: its rotation vector, radians. Sine and cosine by their series, which is exact to f64 for
 * up to a radian; larger turns are halved first.
 */
export function turnBy(rotation: Vector): Quaternion {
  const squared = dot(rotation, rotation)
  if (squared > 1) {
    const half = turnBy(scale(rotation, 0.5))
    return compose(half, half)
  }
  const s = squared / 4
  // sin(θ/2)/θ and cos(θ/2) in s = (θ/2)²
  const sine = 0.5 * (1 - (s / 6) * (1 - (s / 20) * (1 - (s / 42) * (1 - (s / 72) * (1 - s / 110)))))
  const cosine = 1 - (s / 2) * (1 - (s / 12) * (1 - (s / 30) * (1 - (s / 56) * (1 - s / 90))))
  return unitQuaternion([rotation[0] * sine, rotation[1] * sine, rotation[2] * sine, cosine])
}

/** The rotation of a map without its scale; a mirrored one is taken as its mirror image in x. */
export function rotationOf(m: Affine): Quaternion {
  const columns = [0, 1, 2].map((c) => [m[c]!, m[4 + c]!, m[8 + c]!]) as [Vector, Vector, Vector]
  const [x, y, z] = columns.map((c) => scale(c, 1 / Math.max(1e-30, Math.sqrt(dot(c, c))))) as [Vector, Vector, Vector] // prettier-ignore
  return fromAxes(dot(x, cross(y, z)) < 0 ? scale(x, -1) : x, y, z)
}

/**
 * The turn that takes the axes of space to three at right angles.
 * Source: Shepperd, "Quaternion from rotation matrix" (1978).
 */
export function fromAxes(x: Vector, y: Vector, z: Vector): Quaternion {
  const trace = x[0] + y[1] + z[2]
  if (trace > 0) return unitQuaternion([y[2] - z[1], z[0] - x[2], x[1] - y[0], 1 + trace])
  if (x[0] >= y[1] && x[0] >= z[2])
    return unitQuaternion([1 + x[0] - y[1] - z[2], y[0] + x[1], z[0] + x[2], y[2] - z[1]])
  if (y[1] >= z[2]) return unitQuaternion([y[0] + x[1], 1 + y[1] - x[0] - z[2], z[1] + y[2], z[0] - x[2]])
  return unitQuaternion([z[0] + x[2], z[1] + y[2], 1 + z[2] - x[0] - y[1], x[1] - y[0]])
}

/**
 * Principal values and axes of a symmetric matrix xx, yy, zz, xy, yz, zx by Jacobi's rotations.
 * Source: Golub, Van Loan, "Matrix computations", 8.5.
 */
export function principalVectors(symmetric: number[]): { values: Vector; vectors: [Vector, Vector, Vector] } {
  const [xx, yy, zz, xy, yz, zx] = symmetric as [number, number, number, number, number, number]
  const a = [
    [xx, xy, zx],
    [xy, yy, yz],
    [zx, yz, zz],
  ] as number[][]
  const v = [
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ] as number[][]
  for (let sweep = 0; sweep < 24; sweep++) {
    const off = Math.abs(a[0]![1]!) + Math.abs(a[1]![2]!) + Math.abs(a[0]![2]!)
    if (off <= 1e-15 * (Math.abs(a[0]![0]!) + Math.abs(a[1]![1]!) + Math.abs(a[2]![2]!))) break
    for (const [p, q] of [[0, 1], [1, 2], [0, 2]] as const) rotateAway(a, v, p, q) // prettier-ignore
  }
  return {
    values: [a[0]![0]!, a[1]![1]!, a[2]![2]!],
    vectors: [0, 1, 2].map((c) => v.map((row) => row[c]!)) as [Vector, Vector, Vector],
  }
}
/** The same as the turn that brings x, y and z there. */
export function principalAxes(symmetric: number[]): { values: Vector; axes: Quaternion } {
  const { values, vectors } = principalVectors(symmetric)
  const [x, y, z] = vectors
  return { values, axes: fromAxes(dot(x, cross(y, z)) < 0 ? scale(x, -1) : x, y, z) }
}

function rotateAway(a: number[][], v: number[][], p: number, q: number): void {
  const apq = a[p]![q]!
  if (apq === 0) return
  const tau = (a[q]![q]! - a[p]![p]!) / (2 * apq)
  const t = Math.sign(tau || 1) / (Math.abs(tau) + Math.sqrt(1 + tau * tau))
  const c = 1 / Math.sqrt(1 + t * t)
  const s = t * c
  for (let k = 0; k < 3; k++) {
    const [kp, kq] = [a[k]![p]!, a[k]![q]!]
    a[k]![p] = c * kp - s * kq
    a[k]![q] = s * kp + c * kq
  }
  for (let k = 0; k < 3; k++) {
    const [pk, qk] = [a[p]![k]!, a[q]![k]!]
    a[p]![k] = c * pk - s * qk
    a[q]![k] = s * pk + c * qk
  }
  for (let k = 0; k < 3; k++) {
    const [kp, kq] = [v[k]![p]!, v[k]![q]!]
    v[k]![p] = c * kp - s * kq
    v[k]![q] = s * kp + c * kq
  }
}
