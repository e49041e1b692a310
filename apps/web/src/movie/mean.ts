/** The mean of pictures, in light rather than in the numbers that stand for it. */
import { linearPart, srgbPart } from '@tangle/core'

/** Steps of light that are told apart on the way back: a quarter of the smallest step of a byte. */
const STEPS = 16384
const toLight = Float32Array.from({ length: 256 }, (_, byte) => linearPart(byte / 255))
const toByte = Uint8Array.from({ length: STEPS + 1 }, (_, step) => Math.round(255 * srgbPart(step / STEPS)))

/** sRGB with alpha, so many pixels of each picture. */
export function createMean(pixels: number) {
  const sum = new Float32Array(pixels * 4)
  let count = 0
  return {
    add(rgba: ArrayLike<number>): void {
      count++
      for (let k = 0; k < sum.length; k += 4) {
        const alpha = rgba[k + 3]! / 255
        // what is seen through gives less of its colour
        sum[k]! += toLight[rgba[k]!]! * alpha
        sum[k + 1]! += toLight[rgba[k + 1]!]! * alpha
        sum[k + 2]! += toLight[rgba[k + 2]!]! * alpha
        sum[k + 3]! += alpha
      }
    },
    /** Writes the mean, and begins anew. */
    write(rgba: Uint8ClampedArray): void {
      for (let k = 0; k < sum.length; k += 4) {
        const alpha = sum[k + 3]!
        for (let c = 0; c < 3; c++)
          rgba[k + c] = alpha > 0 ? toByte[Math.round((sum[k + c]! / alpha) * STEPS)]! : 0
        rgba[k + 3] = Math.round((alpha / count) * 255)
      }
      sum.fill(0)
      count = 0
    },
  }
}
