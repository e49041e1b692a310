/**
 * The one place that hands out memory under the columns: blocks of one growing WebAssembly memory, in four sizes an
 * octave, kept in free lists by size. Pointers are byte offsets, 64-byte aligned. Behind each block is room for what
 * kernels of four lanes write past the end: three elements of up to three numbers.
 */

export interface GrowingMemory {
  readonly buffer: ArrayBufferLike
  grow(pages: number): number
}

export interface Heap {
  readonly memory: GrowingMemory
  /** A block of at least `bytes`, with whatever was in it before. Throws when the memory is full. */
  allocate(bytes: number): number
  free(pointer: number): void
  /** Gives everything back at once. */
  reset(): void
  /** Bytes handed out now. */
  readonly used: number
  f32(pointer: number, length: number): Float32Array
  f64(pointer: number, length: number): Float64Array
  u32(pointer: number, length: number): Uint32Array
}

const PAGE = 65536
/** Bytes behind a block that kernels may write. */
const SLACK = 48
/** Below this are the control block of the pool (4 KiB) and what the kernels have as constants (`--memoryBase` in scripts/build.mjs). */
export const HEAP_BASE = 8192

export class OutOfMemory extends Error {
  readonly code = 'out-of-memory'
  constructor(bytes: number) {
    super(
      `No memory left for ${Math.ceil(bytes / 2 ** 20)} MB more: lower the particle count, the preview share or the lifespan`,
    )
  }
}

/** The next larger of 64, 128, 192, 256, 320, 384, 448, 512, 640, …: multiples of 64 of which none is a quarter too large. */
function blockSize(bytes: number): number {
  const step = Math.max(64, 2 ** (Math.floor(Math.log2(bytes)) - 2))
  return Math.ceil(bytes / step) * step
}

export function createHeap(memory: GrowingMemory): Heap {
  const free = new Map<number, number[]>()
  const sizes = new Map<number, number>()
  let top = HEAP_BASE
  let used = 0
  return {
    memory,
    get used() {
      return used
    },
    allocate(bytes) {
      const size = blockSize(bytes + SLACK)
      let pointer = free.get(size)?.pop()
      if (pointer === undefined) {
        const missing = top + size - memory.buffer.byteLength
        if (missing > 0) {
          try {
            memory.grow(Math.ceil(missing / PAGE))
          } catch {
            throw new OutOfMemory(size)
          }
        }
        pointer = top
        top += size
      }
      sizes.set(pointer, size)
      used += size
      return pointer
    },
    free(pointer) {
      const size = sizes.get(pointer)
      if (size === undefined) return
      sizes.delete(pointer)
      used -= size
      const list = free.get(size)
      if (list) list.push(pointer)
      else free.set(size, [pointer])
    },
    reset() {
      free.clear()
      sizes.clear()
      top = HEAP_BASE
      used = 0
    },
    f32: (pointer, length) => new Float32Array(memory.buffer, pointer, length),
    f64: (pointer, length) => new Float64Array(memory.buffer, pointer, length),
    u32: (pointer, length) => new Uint32Array(memory.buffer, pointer, length),
  }
}

/** A part of a heap whose blocks are given back at once, whatever state its user was left in. */
export interface ScopedHeap extends Heap {
  release(): void
}

export function scopeOf(heap: Heap): ScopedHeap {
  const own = new Set<number>()
  const release = (): void => {
    for (const pointer of own) heap.free(pointer)
    own.clear()
  }
  return {
    memory: heap.memory,
    get used() {
      return heap.used
    },
    allocate(bytes) {
      const pointer = heap.allocate(bytes)
      own.add(pointer)
      return pointer
    },
    free(pointer) {
      if (own.delete(pointer)) heap.free(pointer)
    },
    reset: release,
    release,
    f32: heap.f32,
    f64: heap.f64,
    u32: heap.u32,
  }
}
