/** Frames of takes that were made before frames referred to one another: "TGFR", u32 length of the head, the head, raw columns, meshes. */
import { ATTRIBUTES, type AttributeName, type PopulationFrame } from '@tangle/core'
import { MeshoptDecoder } from 'meshoptimizer/decoder'
import { FormatFault } from '../fault.ts'
import type { Decoded } from './cachedFrame.ts'

const MAGIC = 0x52464754
const HEAD_AT = 8

/** Those from before there were attributes of the artist's own say no width and type. */
interface Column {
  name: AttributeName
  bytes: number
  width?: number
  type?: 'u32' | 'f32'
}
interface Head {
  frame: number
  populations: { id: string; count: number; columns: Column[] }[]
  meshes?: { id: string; vertices: number; indices: number; bytes: [positions: number, triangles: number] }[]
}

const dataOf = ({ buffer, byteOffset, byteLength }: Uint8Array): DataView =>
  new DataView(buffer, byteOffset, byteLength)
export const isOld = (bytes: Uint8Array): boolean =>
  bytes.length >= HEAD_AT && dataOf(bytes).getUint32(0, true) === MAGIC

/** @throws FormatFault when the bytes are not a whole frame. */
export function decodeOld(bytes: Uint8Array): Decoded {
  const headLength = dataOf(bytes).getUint32(4, true)
  let head: Head
  try {
    head = JSON.parse(new TextDecoder().decode(bytes.subarray(HEAD_AT, HEAD_AT + headLength))) as Head
  } catch {
    throw new FormatFault(`byte ${HEAD_AT}`, 'the head of the frame is broken')
  }
  let at = HEAD_AT + headLength
  const next = (length: number, what: string): Uint8Array => {
    if (at + length > bytes.length)
      throw new FormatFault(`byte ${bytes.length}`, `the frame ends in "${what}": it is cut off`)
    at += length
    return bytes.subarray(at - length, at)
  }
  const vertices = (count: number, stride: number, length: number, what: string): ArrayBuffer => {
    const raw = new Uint8Array(count * stride)
    const part = next(length, what)
    if (count > 0) MeshoptDecoder.decodeVertexBuffer(raw, count, stride, part)
    return raw.buffer
  }
  const populations = head.populations.map(({ id, count, columns }) => {
    const decoded: PopulationFrame['columns'] = {}
    for (const { name, bytes: length, ...rest } of columns) {
      const { width = 1, type = 'f32' } = { ...ATTRIBUTES[name as 'id'], ...rest }
      const raw = vertices(count, width * 4, length, name)
      decoded[name] = type === 'u32' ? new Uint32Array(raw) : new Float32Array(raw)
    }
    return { id, count, columns: decoded }
  })
  const meshes = (head.meshes ?? []).map(({ id, vertices: count, indices, bytes: [first, second] }) => {
    const positions = new Float32Array(vertices(count, 12, first, id))
    const triangles = new Uint8Array(indices * 4)
    const part = next(second, id)
    if (indices > 0) MeshoptDecoder.decodeIndexSequence(triangles, indices, 4, part)
    return { id, positions, triangles: new Uint32Array(triangles.buffer) }
  })
  return { frame: head.frame, key: head.frame, populations, meshes }
}
