import type { Heap } from '@tangle/kernels'

/** Blocks of the heap by name, made and filled when they are first asked for. */
export interface Blocks {
  of(name: string, bytes: number, fill?: (pointer: number) => void): number
  /** Takes over a block that was made elsewhere. */
  once(name: string, make: () => number): number
  dispose(): void
}

export function createBlocks(heap: Heap): Blocks {
  const blocks = new Map<string, number>()
  function once(name: string, make: () => number): number {
    const known = blocks.get(name)
    if (known !== undefined) return known
    const pointer = make()
    blocks.set(name, pointer)
    return pointer
  }
  return {
    once,
    of: (name, bytes, fill) =>
      once(name, () => {
        const pointer = heap.allocate(bytes)
        fill?.(pointer)
        return pointer
      }),
    dispose() {
      for (const pointer of blocks.values()) heap.free(pointer)
      blocks.clear()
    },
  }
}
