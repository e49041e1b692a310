import type { MeshFrame, PopulationFrame } from '@tangle/core'
import crc32 from 'crc-32'
import { MeshoptDecoder } from 'meshoptimizer/decoder'
import { FormatFault } from '../fault.ts'
import type { Decoded } from './cachedFrame.ts'
import { HEAD_AT, headOf, type MeshHead, type Part, type PopulationHead } from './head.ts'
import { decodeOld, isOld } from './oldFrame.ts'
import { createCoder } from './coder.ts'
import { isSliced, joinSlices, slicesIn } from './slices.ts'

/** Which frame these are the bytes of, and the key frame that it goes back to. @throws FormatFault */
export function frameHead(bytes: Uint8Array): { frame: number; key: number } {
  if (isSliced(bytes)) return earliest(slicesIn(bytes).map(frameHead))
  if (isOld(bytes)) {
    const { frame } = decodeOld(bytes)
    return { frame, key: frame }
  }
  return headOf(bytes)
}

/**
 * Decodes a frame; `before` is the frame before it, decoded, which all but key frames need.
 * @throws FormatFault when the bytes are not a whole frame, are damaged, or need another frame than `before`.
 */
export function decodeFrame(bytes: Uint8Array, before: Decoded | null = null): Decoded {
  if (isSliced(bytes)) return decodeSlices(slicesIn(bytes), before)
  if (isOld(bytes)) return decodeOld(bytes)
  const { frame, key, rate, populations, meshes } = headOf(bytes)
  const last = key === frame ? null : before
  if (key !== frame && (last?.frame !== frame - 1 || last.key !== key))
    throw new FormatFault(`frame ${frame}`, `needs frame ${frame - 1} to be read first, from frame ${key} on`)
  let at = HEAD_AT + new DataView(bytes.buffer, bytes.byteOffset).getUint32(4, true)
  const next = ({ bytes: length, sum }: Part, what: string): Uint8Array => {
    if (at + length > bytes.length)
      throw new FormatFault(`byte ${bytes.length}`, `the frame ends in "${what}": it is cut off`)
    const part = bytes.subarray(at, at + length)
    if (crc32.buf(part) !== sum)
      throw new FormatFault(`byte ${at}`, `"${what}" is broken: its check sum differs`)
    at += length
    return part
  }
  return {
    frame,
    key,
    populations: populations.map((one) => decodePopulation(one, rate, last, next)),
    meshes: meshes.map((one) =>
      decodeMesh(
        one,
        last?.meshes.find(({ id }) => id === one.id),
        next,
      ),
    ),
  }
}

function decodeSlices(bytes: Uint8Array[], before: Decoded | null): Decoded {
  const slices = bytes.map((slice, k) => decodeFrame(slice, before?.slices?.[k] ?? null))
  return { ...joinSlices(slices), key: earliest(slices).key, slices }
}

/** Slices have their key frames at the same frames: all begin at the first one. */
const earliest = <One extends { key: number }>(all: One[]): One =>
  all.reduce((first, one) => (one.key < first.key ? one : first))

type Next = (part: Part, what: string) => Uint8Array

function decodePopulation(
  { id, count, columns }: PopulationHead,
  rate: number,
  last: Decoded | null,
  next: Next,
): PopulationFrame {
  const decoded: PopulationFrame['columns'] = {}
  const coder = createCoder(id, count, last, rate)
  try {
    for (const { name, width, code, ...part } of columns)
      decoded[name] = coder.decode(name, next(part, name), width, code)
    return { id, count, columns: decoded }
  } finally {
    coder.release()
  }
}

function decodeVertices(part: Uint8Array, count: number, width = 3): Float32Array {
  const numbers = new Float32Array(count * width)
  if (count > 0) MeshoptDecoder.decodeVertexBuffer(new Uint8Array(numbers.buffer), count, 4 * width, part)
  return numbers
}

function decodeMesh(head: MeshHead, before: MeshFrame | undefined, next: Next): MeshFrame {
  const { id, inner, vertices, indices, positions, triangles, velocities, columns } = head
  const missing = (): never => {
    throw new FormatFault(`mesh ${id}`, 'is said to be as in the frame before, which has none')
  }
  // parts come in this order
  const places =
    positions === 'same' ? (before?.positions ?? missing()) : decodeVertices(next(positions, id), vertices)
  const corners =
    triangles === 'same' ? (before?.triangles ?? missing()) : decodeIndices(next(triangles, id), indices)
  return {
    id,
    positions: places,
    triangles: corners,
    ...(inner === undefined ? {} : { inner }),
    ...(velocities ? { velocities: decodeVertices(next(velocities, id), vertices) } : {}),
    ...(columns
      ? {
          columns: Object.fromEntries(
            columns.map(({ name, width, part }) => [name, decodeVertices(next(part, id), vertices, width)]),
          ),
        }
      : {}),
  }
}

function decodeIndices(part: Uint8Array, count: number): Uint32Array {
  const raw = new Uint8Array(count * 4)
  if (count > 0) MeshoptDecoder.decodeIndexSequence(raw, count, 4, part)
  return new Uint32Array(raw.buffer)
}
