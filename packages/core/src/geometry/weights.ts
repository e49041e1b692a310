/** Places on triangles, given by the weights of their second and third corner. */
import type { Mesh } from './mesh.ts'

/** Places on triangles by the weights of their second and third corner, x, y, z each. */
export function anchored(
  { positions: p, triangles }: Mesh,
  of: Uint32Array,
  weights: Float32Array,
): Float32Array {
  const out = new Float32Array(of.length * 3)
  for (let i = 0; i < of.length; i++) {
    const [a, b, c] = [0, 1, 2].map((k) => triangles[of[i]! * 3 + k]! * 3) as [number, number, number]
    for (let axis = 0; axis < 3; axis++) {
      const origin = p[a + axis]!
      out[i * 3 + axis] =
        origin + (p[b + axis]! - origin) * weights[i * 2]! + (p[c + axis]! - origin) * weights[i * 2 + 1]!
    }
  }
  return out
}

/** Weights of the second and third corner for points on triangles. */
export function weightsAt(
  { positions: p, triangles }: Mesh,
  of: Uint32Array,
  points: Float32Array,
): Float32Array {
  const weights = new Float32Array(of.length * 2)
  for (let i = 0; i < of.length; i++) {
    const [a, b, c] = [0, 1, 2].map((k) => triangles[of[i]! * 3 + k]! * 3) as [number, number, number]
    let [uu, uv, vv, wu, wv] = [0, 0, 0, 0, 0]
    for (let axis = 0; axis < 3; axis++) {
      const u = p[b + axis]! - p[a + axis]!
      const v = p[c + axis]! - p[a + axis]!
      const w = points[i * 3 + axis]! - p[a + axis]!
      uu += u * u
      uv += u * v
      vv += v * v
      wu += w * u
      wv += w * v
    }
    // least squares of w = s·u + t·v
    const whole = uu * vv - uv * uv
    if (whole > 0) weights.set([(wu * vv - wv * uv) / whole, (wv * uu - wu * uv) / whole], i * 2)
  }
  return weights
}
