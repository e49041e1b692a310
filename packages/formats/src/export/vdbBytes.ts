/** The bytes of an OpenVDB file on their way out, little-endian. */

export const VDB_MAGIC = 0x56444220
export const VDB_VERSION = 224
/** Values are zipped, and only those of active voxels are there. */
export const ZIP_AND_MASK = 3
/** Mask codes of a node: what is inactive is 0. */
export const NO_INACTIVE = 0
/** Voxels along a node: of the root's children, and of theirs. */
export const [UPPER, LOWER] = [4096, 128]

export type VdbBytes = ReturnType<typeof createVdbBytes>
/** A text, three whole numbers, or one of 64 bits. */
type Metadata = Record<string, string | number[] | bigint>

export function createVdbBytes() {
  const pieces: Uint8Array[] = []
  let at = 0
  const bytes = (some: Uint8Array): void => {
    pieces.push(some)
    at += some.length
  }
  const words = (...some: number[]): void => bytes(new Uint8Array(Int32Array.from(some).buffer))
  const longs = (...some: bigint[]): void => bytes(new Uint8Array(BigInt64Array.from(some).buffer))
  /** A text after its length. */
  function string(text: string): void {
    const encoded = new TextEncoder().encode(text)
    words(encoded.length)
    bytes(encoded)
  }
  return {
    get at() {
      return at
    },
    bytes,
    words,
    longs,
    string,
    floats: (...some: number[]): void => bytes(new Uint8Array(Float32Array.from(some).buffer)),
    doubles: (...some: number[]): void => bytes(new Uint8Array(Float64Array.from(some).buffer)),
    /** Room for numbers of 64 bits that are known later. */
    later(size: number) {
      const room = new Uint8Array(size)
      bytes(room)
      return {
        put: (n: number, value: number): void =>
          new DataView(room.buffer).setBigInt64(n * 8, BigInt(value), true),
      }
    },
    metadata(all: Metadata): void {
      words(Object.keys(all).length)
      for (const [name, value] of Object.entries(all)) {
        string(name)
        if (typeof value === 'string') {
          string('string')
          string(value)
        } else if (typeof value === 'bigint') {
          string('int64')
          words(8)
          longs(value)
        } else {
          string('vec3i')
          words(12)
          words(...value)
        }
      }
    },
    whole(): Uint8Array {
      const out = new Uint8Array(at)
      let offset = 0
      for (const piece of pieces) {
        out.set(piece, offset)
        offset += piece.length
      }
      return out
    },
  }
}
