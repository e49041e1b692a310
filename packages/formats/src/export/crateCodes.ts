/**
 * How the crate of Universal Scene Description packs numbers: whole ones as differences, in one, two or four bytes each, and bytes as LZ4 blocks.
 * Source: OpenUSD, pxr/usd/sdf/integerCoding.h and crateFile.cpp; LZ4 block format description. Blocks are written as literals alone, which every
 * reader takes; read are those and, as they should be, matches.
 */

/** What a difference takes: nothing, being the commonest, or so many bytes; for 32 bits and for 64. */
const SIZES = { 4: [0, 1, 2, 4], 8: [0, 2, 4, 8] } as const
export type WordBytes = keyof typeof SIZES

const fits = (value: number, bytes: number): boolean =>
  bytes === 8 || (value >= -(2 ** (8 * bytes - 1)) && value < 2 ** (8 * bytes - 1))

/** Whole numbers as differences, packed. Those of 32 bits may be signed or not, which is the same in their bits. */
export function packIntegers(values: ArrayLike<number>, word: WordBytes): Uint8Array {
  const { length } = values
  const wrap = word === 4 ? (value: number): number => value | 0 : (value: number): number => value
  const differences = new Float64Array(length)
  const counts = new Map<number, number>()
  let before = 0
  for (let i = 0; i < length; i++) {
    const difference = wrap(values[i]! - before)
    differences[i] = difference
    counts.set(difference, (counts.get(difference) ?? 0) + 1)
    before = values[i]!
  }
  let common = 0
  for (const [difference, count] of counts) if (count > (counts.get(common) ?? 0)) common = difference
  const sizes = SIZES[word]
  const codesAt = word
  const codes = (length * 2 + 7) >> 3
  const out = new Uint8Array(word + codes + length * word)
  const view = new DataView(out.buffer)
  const put = (at: number, value: number, bytes: number): void => {
    if (bytes === 1) view.setInt8(at, value)
    else if (bytes === 2) view.setInt16(at, value, true)
    else if (bytes === 4) view.setInt32(at, value, true)
    else view.setBigInt64(at, BigInt(value), true)
  }
  put(0, common, word)
  let at = codesAt + codes
  for (let i = 0; i < length; i++) {
    const difference = differences[i]!
    const code = difference === common ? 0 : 1 + sizes.slice(1).findIndex((bytes) => fits(difference, bytes))
    out[codesAt + (i >> 2)]! |= code << (2 * (i & 3))
    if (code > 0) put(at, difference, sizes[code]!)
    at += sizes[code]!
  }
  return packBytes(out.subarray(0, at))
}

/** @throws RangeError where the bytes end too early. */
export function unpackIntegers(packed: Uint8Array, length: number, word: WordBytes): Float64Array {
  const codes = (length * 2 + 7) >> 3
  const bytes = unpackBytes(packed, word + codes + length * word)
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const get = (at: number, size: number): number => {
    if (size === 1) return view.getInt8(at)
    if (size === 2) return view.getInt16(at, true)
    return size === 4 ? view.getInt32(at, true) : Number(view.getBigInt64(at, true))
  }
  const common = get(0, word)
  const out = new Float64Array(length)
  let at = word + codes
  let value = 0
  for (let i = 0; i < length; i++) {
    const size = SIZES[word][(bytes[word + (i >> 2)]! >> (2 * (i & 3))) & 3]!
    value += size === 0 ? common : get(at, size)
    if (word === 4) value |= 0
    out[i] = value
    at += size
  }
  return out
}

/** Bytes as one block of literals. The first byte says that there is one block. */
export function packBytes(bytes: Uint8Array): Uint8Array {
  const { length } = bytes
  const more = length < 15 ? 0 : 1 + Math.floor((length - 15) / 255)
  const out = new Uint8Array(2 + more + length)
  out[1] = Math.min(length, 15) << 4
  if (more > 0) {
    out.fill(255, 2, 1 + more)
    out[1 + more] = (length - 15) % 255
  }
  out.set(bytes, 2 + more)
  return out
}

/** Bytes of one block, `most` at most. */
export function unpackBytes(packed: Uint8Array, most: number): Uint8Array {
  if (packed[0] !== 0) throw new RangeError('blocks of several parts are not read')
  const out = new Uint8Array(most)
  let [from, to] = [1, 0]
  const lengthOf = (nibble: number): number => {
    let length = nibble
    if (nibble < 15) return length
    for (let byte = 255; byte === 255; length += byte) byte = packed[from++] ?? 0
    return length
  }
  while (from < packed.length) {
    const token = packed[from++]!
    const literals = lengthOf(token >> 4)
    if (from + literals > packed.length || to + literals > most) throw new RangeError('a block is cut off')
    out.set(packed.subarray(from, from + literals), to)
    from += literals
    to += literals
    if (from >= packed.length) break
    const back = packed[from]! | (packed[from + 1]! << 8)
    from += 2
    const matched = lengthOf(token & 15) + 4
    if (back === 0 || back > to || to + matched > most) throw new RangeError('a block is broken')
    for (let k = 0; k < matched; k++, to++) out[to] = out[to - back]!
  }
  return out.subarray(0, to)
}
