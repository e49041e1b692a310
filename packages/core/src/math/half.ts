/** Half-precision floats (IEEE 754 binary16), rounded to the nearest. */
const float = new Float32Array(1)
const word = new Uint32Array(float.buffer)

export function toHalf(value: number): number {
  float[0] = value
  const bits = word[0]!
  const sign = (bits >>> 16) & 0x8000
  const exponent = ((bits >>> 23) & 0xff) - 112
  const mantissa = bits & 0x7fffff
  if (exponent >= 31) return sign | 0x7bff // beyond the largest: the largest
  if (exponent <= 0) {
    if (exponent < -10) return sign
    const shift = 14 - exponent
    return sign | (((mantissa | 0x800000) + (1 << (shift - 1))) >>> shift)
  }
  const rounded = (exponent << 10) + ((mantissa + 0x1000) >>> 13)
  return sign | Math.min(rounded, 0x7bff)
}

export function fromHalf(half: number): number {
  const exponent = (half >>> 10) & 31
  const mantissa = half & 1023
  const size = exponent === 0 ? mantissa * 2 ** -24 : (1024 + mantissa) * 2 ** (exponent - 25)
  return half & 0x8000 ? -size : size
}
