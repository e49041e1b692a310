/**
 * A frame whose particles were computed in slices: the frames of all slices in a row. They are put together as they are read; each particle is in one
 * of them, and what the slices have in common, as meshes, is in the first.
 *
 *     0–3   "TGFS"
 *     4–7   u32: how many slices
 *     then  u32 each: bytes of each slice
 *     then  the slices, each a frame of its own
 */
import type { PopulationFrame } from '@tangle/core'
import { FormatFault } from '../fault.ts'
import type { CachedFrame } from './cachedFrame.ts'

const MAGIC = [0x54, 0x47, 0x46, 0x53] // "TGFS"
const HEAD = 8

export const isSliced = (bytes: Uint8Array): boolean => MAGIC.every((byte, k) => bytes[k] === byte)

/** Bytes of a frame from those of its slices. */
export function inOne(slices: Uint8Array[]): Uint8Array {
  const from = HEAD + 4 * slices.length
  const out = new Uint8Array(slices.reduce((sum, { length }) => sum + length, from))
  const head = new DataView(out.buffer)
  out.set(MAGIC)
  head.setUint32(4, slices.length, true)
  let at = from
  slices.forEach((slice, k) => {
    head.setUint32(HEAD + 4 * k, slice.length, true)
    out.set(slice, at)
    at += slice.length
  })
  return out
}

/** Bytes of each slice of a frame. @throws FormatFault */
export function slicesIn(bytes: Uint8Array): Uint8Array[] {
  const head = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const cutOff = (): never => {
    throw new FormatFault(`byte ${bytes.length}`, 'the frame is cut off in its slices')
  }
  if (bytes.length < HEAD) cutOff()
  const count = head.getUint32(4, true)
  if (bytes.length < HEAD + 4 * count) cutOff()
  let at = HEAD + 4 * count
  return Array.from({ length: count }, (_, k) => {
    const length = head.getUint32(HEAD + 4 * k, true)
    if (at + length > bytes.length) cutOff()
    at += length
    return bytes.subarray(at - length, at)
  })
}

/** Puts the slices of a frame together: particles by their ids, which rise in each. */
export function joinSlices(slices: CachedFrame[]): CachedFrame {
  const [first] = slices as [CachedFrame]
  return {
    frame: first.frame,
    populations: first.populations.map((_, n) => joinPopulation(slices.map((one) => one.populations[n]!))),
    meshes: first.meshes,
  }
}

function joinPopulation(slices: PopulationFrame[]): PopulationFrame {
  const [{ id, columns: like }] = slices as [PopulationFrame]
  const count = slices.reduce((sum, one) => sum + one.count, 0)
  const runs = runsOf(slices.map(({ columns }) => columns.id as Uint32Array))
  const names = Object.keys(like) as (keyof typeof like)[]
  const columns = Object.fromEntries(
    names.map((name) => {
      const parts = slices.map((one) => one.columns[name]!)
      // one that is empty does not tell how wide it is
      const fullest = slices.reduce((most, one, k) => (one.count > slices[most]!.count ? k : most), 0)
      const width = count === 0 ? 0 : parts[fullest]!.length / slices[fullest]!.count
      const Column = parts[0]!.constructor as typeof Float32Array
      const out = new Column(count * width)
      let at = 0
      for (const { slice, from, to } of runs) {
        out.set(parts[slice]!.subarray(from * width, to * width), at)
        at += (to - from) * width
      }
      return [name, out]
    }),
  )
  return { id, count, columns }
}

/** Rows that follow one another, from one slice. */
interface Run {
  slice: number
  from: number
  to: number
}

/** Rising rows of ids, merged: which rows to take from which slice, in order. */
function runsOf(ids: Uint32Array[]): Run[] {
  const at = ids.map(() => 0)
  const next = (k: number): number => ids[k]![at[k]!] ?? Infinity
  const runs: Run[] = []
  for (;;) {
    let [slice, least, second] = [0, Infinity, Infinity]
    ids.forEach((_, k) => {
      const id = next(k)
      if (id < least) [slice, least, second] = [k, id, least]
      else if (id < second) second = id
    })
    if (least === Infinity) return runs
    const from = at[slice]!
    while (next(slice) < second) at[slice]!++
    runs.push({ slice, from, to: at[slice]! })
  }
}
