/** The bytes of a crate on their way out: whoever writes says what, and takes the pieces that are ready. */
export type Value = readonly [high: number, low: number]

export type CrateBytes = ReturnType<typeof createBytes>

export function createBytes() {
  const pieces: Uint8Array[] = []
  let at = 0
  const emit = (bytes: Uint8Array): void => {
    pieces.push(bytes)
    at += bytes.length
  }
  /** So many numbers of so many bytes each. */
  const emitEach = <T>(
    all: readonly T[],
    bytes: number,
    put: (view: DataView, at: number, one: T) => void,
  ): void => {
    const out = new Uint8Array(all.length * bytes)
    const view = new DataView(out.buffer)
    all.forEach((one, n) => put(view, n * bytes, one))
    emit(out)
  }
  const emitSizes = (...sizes: number[]): void =>
    emitEach(sizes, 8, (view, offset, size) => view.setBigUint64(offset, BigInt(size), true))
  return {
    pieces,
    get at() {
      return at
    },
    emit,
    emitSizes,
    emitWords: (words: readonly number[]): void =>
      emitEach(words, 4, (view, offset, word) => view.setUint32(offset, word, true)),
    emitDoubles: (doubles: readonly number[]): void =>
      emitEach(doubles, 8, (view, offset, double) => view.setFloat64(offset, double, true)),
    emitValues: (values: readonly Value[]): void => emit(bytesOfValues(values)),
    /** Bytes after their number. */
    emitCounted(bytes: Uint8Array): void {
      emitSizes(bytes.length)
      emit(bytes)
    },
    /** Numbers begin at multiples of eight, so that readers may use them where they are. Returns where that is. */
    align(): number {
      emit(new Uint8Array((8 - (at % 8)) % 8))
      return at
    },
  }
}

export function bytesOfValues(values: readonly Value[]): Uint8Array {
  const out = new Uint8Array(values.length * 8)
  const view = new DataView(out.buffer)
  values.forEach(([high, low], n) => {
    view.setUint32(n * 8, low, true)
    view.setUint32(n * 8 + 4, high, true)
  })
  return out
}
