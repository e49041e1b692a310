/**
 * The frame codec: all particles of one frame as bytes, without loss. Each column is compressed by
 * the vertex codec of meshoptimizer (29 bytes a particle where 41 are raw; 700 MB/s to decode).
 *
 * Layout: "TGFR", u32 length of a JSON header, the header, then the columns in its order, then of each mesh
 * its vertices (the same codec) and triangles (its index sequence codec).
 */
import { ATTRIBUTES, ownId, type AttributeName, type MeshFrame, type PopulationFrame } from '@tangle/core'
import { MeshoptDecoder } from 'meshoptimizer/decoder'
import { MeshoptEncoder } from 'meshoptimizer/encoder'
import { FormatFault } from './fault.ts'

const MAGIC = 0x52464754

/** A column of a frame. Frames from before there were attributes of the artist's own say no width and type. */
interface Column {
  name: AttributeName
  bytes: number
  width?: number
  type?: 'u32' | 'f32'
}
interface Header {
  frame: number
  populations: { id: string; count: number; columns: Column[] }[]
  meshes?: { id: string; vertices: number; indices: number; bytes: [positions: number, triangles: number] }[]
}
export interface CachedFrame {
  frame: number
  populations: PopulationFrame[]
  /** What is left of meshes that are eaten, in the world. */
  meshes: MeshFrame[]
}

export const codecReady = (): Promise<void> =>
  Promise.all([MeshoptDecoder.ready, MeshoptEncoder.ready]).then(() => undefined)

/** Encodes a frame. `codecReady` must have resolved. */
export function encodeFrame(
  frame: number,
  populations: PopulationFrame[],
  meshes: MeshFrame[] = [],
): Uint8Array {
  const parts: Uint8Array[] = []
  const keep = (part: Uint8Array): number => {
    parts.push(part)
    return part.length
  }
  const header: Header = {
    frame,
    populations: populations.map(({ id, count, columns }) => ({
      id,
      count,
      columns: carried(columns).map(([name, values]) => {
        const width = widthOf(name, values, count)
        const type = values instanceof Uint32Array ? 'u32' : 'f32'
        return { name, width, type, bytes: keep(encodeVertices(values, count, width * 4)) }
      }),
    })),
    meshes: meshes.map(({ id, positions, triangles }) => {
      const vertices = positions.length / 3
      const indices = triangles.length
      const bytes: [number, number] = [
        keep(encodeVertices(positions, vertices, 12)),
        keep(
          indices === 0 ? new Uint8Array() : MeshoptEncoder.encodeIndexSequence(own(triangles), indices, 4),
        ),
      ]
      return { id, vertices, indices, bytes }
    }),
  }
  const head = new TextEncoder().encode(JSON.stringify(header))
  const out = new Uint8Array(8 + head.length + parts.reduce((sum, part) => sum + part.length, 0))
  new DataView(out.buffer).setUint32(0, MAGIC, true)
  new DataView(out.buffer).setUint32(4, head.length, true)
  out.set(head, 8)
  let at = 8 + head.length
  for (const part of parts) {
    out.set(part, at)
    at += part.length
  }
  return out
}

/** The attributes that a frame carries: those that the table lets frames keep, and the artist's own. */
function carried(columns: PopulationFrame['columns']): [AttributeName, Float32Array | Uint32Array][] {
  const names = Object.keys(columns) as AttributeName[]
  const all = names.flatMap((name) => (columns[name] ? [[name, columns[name]] as const] : []))
  return all.filter(([name]) => ownId(name) !== null || ATTRIBUTES[name as 'id'].frames) as never
}
const widthOf = (name: AttributeName, values: ArrayLike<number>, count: number): number =>
  ownId(name) === null ? ATTRIBUTES[name as 'id'].width : count === 0 ? 1 : values.length / count

/** The encoder's memory is not shared: it copies from an array of its own. */
function own(values: Float32Array | Uint32Array): Uint8Array {
  const raw = new Uint8Array(values.byteLength)
  raw.set(new Uint8Array(values.buffer, values.byteOffset, values.byteLength))
  return raw
}
const encodeVertices = (values: Float32Array | Uint32Array, count: number, stride: number): Uint8Array =>
  count === 0 ? new Uint8Array() : MeshoptEncoder.encodeVertexBuffer(own(values), count, stride)

/** Decodes a frame. @throws FormatFault when the bytes are not a whole frame. */
export function decodeFrame(bytes: Uint8Array): CachedFrame {
  const data = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  if (bytes.length < 8 || data.getUint32(0, true) !== MAGIC)
    throw new FormatFault('byte 0', 'these are not the bytes of a frame')
  const headLength = data.getUint32(4, true)
  let header: Header
  try {
    header = JSON.parse(new TextDecoder().decode(bytes.subarray(8, 8 + headLength))) as Header
  } catch {
    throw new FormatFault('byte 8', 'the header of the frame is broken')
  }
  let at = 8 + headLength
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
  const populations = header.populations.map(({ id, count, columns }) => {
    const decoded: PopulationFrame['columns'] = {}
    for (const { name, bytes: length, ...rest } of columns) {
      const { width = 1, type = 'f32' } = { ...ATTRIBUTES[name as 'id'], ...rest }
      const raw = vertices(count, width * 4, length, name)
      decoded[name] = type === 'u32' ? new Uint32Array(raw) : new Float32Array(raw)
    }
    return { id, count, columns: decoded }
  })
  const meshes = (header.meshes ?? []).map(({ id, vertices: count, indices, bytes: [first, second] }) => {
    const positions = new Float32Array(vertices(count, 12, first, id))
    const triangles = new Uint8Array(indices * 4)
    const part = next(second, id)
    if (indices > 0) MeshoptDecoder.decodeIndexSequence(triangles, indices, 4, part)
    return { id, positions, triangles: new Uint32Array(triangles.buffer) }
  })
  return { frame: header.frame, populations, meshes }
}
