/** Principal axes of a symmetric 3×3 matrix by Jacobi's turns (Golub, Van Loan, "Matrix Computations", §8.5). */

const a = new Float64Array(9)
const values = new Float64Array(3)

/** Unit vectors into `axes`, one after another; returns what belongs to each. */
export function principalAxes(
  xx: number,
  xy: number,
  xz: number,
  yy: number,
  yz: number,
  zz: number,
  axes: Float64Array,
): Float64Array {
  a.set([xx, xy, xz, xy, yy, yz, xz, yz, zz])
  axes.set([1, 0, 0, 0, 1, 0, 0, 0, 1])
  const enough = 1e-12 * (xx * xx + yy * yy + zz * zz)
  for (let sweep = 0; sweep < 12; sweep++) {
    if (a[1]! ** 2 + a[2]! ** 2 + a[5]! ** 2 <= enough) break
    turn(0, 1, axes)
    turn(0, 2, axes)
    turn(1, 2, axes)
  }
  values.set([a[0]!, a[4]!, a[8]!])
  return values
}

/** Turns in the plane of two axes so that their common part vanishes. */
function turn(p: number, q: number, axes: Float64Array): void {
  const apq = a[p * 3 + q]!
  if (apq === 0) return
  const theta = (a[q * 4]! - a[p * 4]!) / (2 * apq)
  const t = (theta < 0 ? -1 : 1) / (Math.abs(theta) + Math.sqrt(theta * theta + 1))
  const c = 1 / Math.sqrt(t * t + 1)
  const s = t * c
  a[p * 4]! -= t * apq
  a[q * 4]! += t * apq
  a[p * 3 + q] = a[q * 3 + p] = 0
  const r = 3 - p - q
  const [rp, rq] = [a[r * 3 + p]!, a[r * 3 + q]!]
  a[r * 3 + p] = a[p * 3 + r] = c * rp - s * rq
  a[r * 3 + q] = a[q * 3 + r] = s * rp + c * rq
  for (let k = 0; k < 3; k++) {
    const [up, uq] = [axes[p * 3 + k]!, axes[q * 3 + k]!]
    axes[p * 3 + k] = c * up - s * uq
    axes[q * 3 + k] = s * up + c * uq
  }
}
