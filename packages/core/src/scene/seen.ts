/** Where rays have met meshes, for masks that ask for it. Grows as a shot is computed; part of a snapshot. */
import type { Machine } from '@tangle/kernels'
import { writeVector, vectorOf } from '../math/vector.ts'

/** The places that a mask knows, on its mesh in its own frame and the size of the first frame, m; and the ends of the substeps they are of. */
export interface SeenPlaces {
  mask: string
  places: Float32Array
  frames: Float64Array
}

/** Points by columns: pointers, f32 each. */
export interface PointColumns {
  x: number
  y: number
  z: number
}

export interface Seen {
  /** Whether anybody asks what has been seen of a mesh. */
  isAsked(mesh: string): boolean
  /** Rays of the substep that ends at a frame have met a mesh there. */
  add(mesh: string, places: Float32Array, frame: number): void
  /**
   * For points near the mesh of a mask 1 where a ray has met it before a frame, falling to 0 at its soft width. Rays of the substep that ends at the
   * frame are left out: so the values of a frame are the same whenever they are asked for.
   */
  write(mask: string, points: PointColumns, count: number, frame: number, out: number): void
  tables(): SeenPlaces[]
  restore(tables: SeenPlaces[]): void
  dispose(): void
}

/** A mask that asks: how far from where a ray has met its mesh it falls to 0, m. */
export interface SeenMask {
  id: string
  mesh: string
  soft: number
}

/** Of places nearer to one another than this part of the soft width, the first is kept. */
const APART = 0.25

export function createSeen(machine: Machine, masks: SeenMask[]): Seen {
  const sets = masks.map((mask) => createPlaces(machine, mask))
  const of = (id: string): ReturnType<typeof createPlaces> => sets.find(({ mask }) => mask.id === id)!
  return {
    isAsked: (mesh) => masks.some((one) => one.mesh === mesh),
    add(mesh, places, frame) {
      for (const one of sets) if (one.mask.mesh === mesh) one.add(places, frame)
    },
    write: (id, points, count, frame, out) => of(id).write(points, count, frame, out),
    tables: () => sets.map(({ mask, table }) => ({ mask: mask.id, ...table() })),
    restore(tables) {
      for (const one of sets) one.restore(tables.find(({ mask }) => mask === one.mask.id))
    },
    dispose() {
      for (const one of sets) one.dispose()
    },
  }
}

/** The places of one mask, in cells as wide as it is soft. */
function createPlaces(machine: Machine, mask: SeenMask) {
  const { heap } = machine
  const perMetre = 1 / mask.soft
  let places = new Float32Array(0)
  let frames = new Float64Array(0)
  let grid: { pointers: number[]; buckets: number } | null = null

  function dispose(): void {
    for (const pointer of grid?.pointers ?? []) heap.free(pointer)
    grid = null
  }
  function makeGrid(): { pointers: number[]; buckets: number } {
    const count = frames.length
    const buckets = 2 ** Math.max(6, Math.ceil(Math.log2(count + 1)))
    const [position, stamps, first, keys, order] = [count * 12, count * 8, (buckets + 1) * 4, count * 4, count * 4].map((bytes) => heap.allocate(Math.max(4, bytes))) as [number, number, number, number, number] // prettier-ignore
    heap.f32(position, count * 3).set(places)
    machine.run('cellKeys', count, { position, perMetre, mask: buckets - 1, keys })
    machine.call('sortCells', { count, keys, buckets, first, order })
    const sorted = [heap.f32(position, count * 3), heap.f64(stamps, count)] as const
    heap.u32(order, count).forEach((from, to) => {
      writeVector(sorted[0], to, vectorOf(places, from))
      sorted[1][to] = frames[from]!
    })
    for (const pointer of [keys, order]) heap.free(pointer)
    return { pointers: [position, stamps, first], buckets }
  }
  function write({ x, y, z }: PointColumns, count: number, frame: number, out: number): void {
    grid ??= makeGrid()
    const [at, stamps, first] = grid.pointers as [number, number, number]
    const set = { places: at, frames: stamps, first, perMetre, mask: grid.buckets - 1 }
    machine.run('maskNearPlaces', count, { x, y, z, ...set, frame, out })
  }
  /** The numbers of places that are not near known ones, nor near earlier ones among them. */
  function fresh(added: Float32Array): number[] {
    const count = added.length / 3
    const [x, y, z, out] = [0, 1, 2, 3].map(() => heap.allocate(count * 4)) as [
      number,
      number,
      number,
      number,
    ]
    ;[x, y, z].forEach((pointer, axis) => {
      const column = heap.f32(pointer, count)
      for (let k = 0; k < count; k++) column[k] = added[k * 3 + axis]!
    })
    write({ x, y, z }, count, Infinity, out)
    const near = heap.f32(out, count).slice()
    for (const pointer of [x, y, z, out]) heap.free(pointer)
    const taken = new Set<string>()
    return [...near.keys()].filter((k) => {
      if (near[k]! > 1 - APART) return false
      const cell = vectorOf(added, k).map((c) => Math.floor((c * perMetre) / APART)).join() // prettier-ignore
      return !taken.has(cell) && taken.add(cell)
    })
  }
  return {
    mask,
    write,
    dispose,
    add(added: Float32Array, frame: number): void {
      const kept = fresh(added)
      if (kept.length === 0) return
      const count = frames.length
      const [more, stamps] = [new Float32Array((count + kept.length) * 3), new Float64Array(count + kept.length).fill(frame)] // prettier-ignore
      more.set(places)
      stamps.set(frames)
      kept.forEach((k, n) => writeVector(more, count + n, vectorOf(added, k)))
      ;[places, frames] = [more, stamps]
      dispose()
    },
    table: () => ({ places: places.slice(), frames: frames.slice() }),
    restore(table?: Pick<SeenPlaces, 'places' | 'frames'>): void {
      ;[places, frames] = [table?.places.slice() ?? new Float32Array(0), table?.frames.slice() ?? new Float64Array(0)] // prettier-ignore
      dispose()
    },
  }
}

/** What was seen in the frame that ends at a moment. */
export const seenIn = (tables: SeenPlaces[], frame: number): SeenPlaces[] =>
  tables.map(({ mask, places, frames }) => {
    const from = frames.findIndex((at) => at > frame - 1)
    return from < 0
      ? { mask, places: new Float32Array(0), frames: new Float64Array(0) }
      : { mask, places: places.slice(from * 3), frames: frames.slice(from) }
  })

/** What was seen in one frame after the other, as one. */
export const joinSeen = (frames: SeenPlaces[][]): SeenPlaces[] =>
  (frames[0] ?? []).map(({ mask }) => {
    const parts = frames.flatMap((tables) => tables.filter((one) => one.mask === mask))
    const count = parts.reduce((sum, { frames: some }) => sum + some.length, 0)
    const [places, stamps] = [new Float32Array(count * 3), new Float64Array(count)]
    let at = 0
    for (const part of parts) {
      places.set(part.places, at * 3)
      stamps.set(part.frames, at)
      at += part.frames.length
    }
    return { mask, places, frames: stamps }
  })
