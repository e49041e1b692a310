/**
 * The frame codec (docs/frames.md has it for those who write a reader). A frame says how its numbers differ from what the frame before it lets
 * expect (prediction.ts); every twelfth is a key frame, which needs no other. What is left is compressed by the vertex codec of
 * meshoptimizer. Populations are kept exactly or to an error that the attribute table states (wholes.ts); meshes exactly.
 *
 * Layout: "TGF2", u32 length of the head, u32 CRC-32 of the head, the head (JSON), then the columns in its order, then of each mesh what it says
 * has changed: vertices (the same codec) and triangles (its index sequence codec).
 */
import type { AttributeName } from '@tangle/core'
import crc32 from 'crc-32'
import { FormatFault } from '../fault.ts'
import type { Code } from './wholes.ts'

export const MAGIC = 0x32464754
export const HEAD_AT = 12

/** Bytes of the frame, and their CRC-32. */
export interface Part {
  bytes: number
  sum: number
}
export interface ColumnHead extends Part {
  name: AttributeName
  width: number
  code: Code
}
export interface PopulationHead {
  id: string
  count: number
  columns: ColumnHead[]
}
/** Of what is as in the frame before there are no bytes. */
export interface MeshHead {
  id: string
  vertices: number
  indices: number
  /** The triangle from which on they are faces of a cut. */
  inner?: number
  positions: Part | 'same'
  triangles: Part | 'same'
  /** Of meshes that have them. */
  velocities?: Part
  /** Attributes of particles at vertices, so many numbers each, in the order of their parts. */
  columns?: { name: AttributeName; width: number; part: Part }[]
}
export interface Head {
  frame: number
  /** The key frame that it goes back to, through all frames between; its own number: to none. */
  key: number
  rate: number
  populations: PopulationHead[]
  meshes: MeshHead[]
}

/** @throws FormatFault when the bytes do not begin with a whole head. */
export function headOf(bytes: Uint8Array): Head {
  const data = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < HEAD_AT || data.getUint32(0, true) !== MAGIC)
    throw new FormatFault('byte 0', 'these are not the bytes of a frame')
  const head = bytes.subarray(HEAD_AT, HEAD_AT + data.getUint32(4, true))
  if (crc32.buf(head) !== data.getInt32(8, true))
    throw new FormatFault(`byte ${HEAD_AT}`, 'the head of the frame is broken: its check sum differs')
  return JSON.parse(new TextDecoder().decode(head)) as Head
}
