/**
 * The frame codec: all particles of one frame as bytes, without loss. Each column is compressed by
 * the vertex codec of meshoptimizer (29 bytes a particle where 41 are raw; 700 MB/s to decode).
 *
 * Layout: "TGFR", u32 length of a JSON header, the header, then the columns in its order.
 */
import { COLUMNS, isWhole, type ColumnName, type PopulationFrame } from '@tangle/core'
import { MeshoptDecoder } from 'meshoptimizer/decoder'
import { MeshoptEncoder } from 'meshoptimizer/encoder'
import { FormatFault } from './fault.ts'

/** The columns a take keeps: what playing and exporting read. */
export const CACHED: ColumnName[] = [
  'id',
  'phase',
  'position',
  'velocity',
  'age',
  'lifespan',
  'radius',
  'travelled',
]
const MAGIC = 0x52464754

interface Header {
  frame: number
  populations: { id: string; count: number; columns: { name: ColumnName; bytes: number }[] }[]
}
export interface CachedFrame {
  frame: number
  populations: PopulationFrame[]
}

export const codecReady = (): Promise<void> =>
  Promise.all([MeshoptDecoder.ready, MeshoptEncoder.ready]).then(() => undefined)

/** Encodes a frame. `codecReady` must have resolved. */
export function encodeFrame(frame: number, populations: PopulationFrame[]): Uint8Array {
  const parts: Uint8Array[] = []
  const header: Header = {
    frame,
    populations: populations.map(({ id, count, columns }) => ({
      id,
      count,
      columns: CACHED.filter((name) => columns[name]).map((name) => {
        const values = columns[name]!
        // the encoder's memory is not shared: it copies from an array of its own
        const raw = new Uint8Array(values.byteLength)
        raw.set(new Uint8Array(values.buffer, values.byteOffset, values.byteLength))
        const part =
          count === 0 ? raw : MeshoptEncoder.encodeVertexBuffer(raw, count, COLUMNS[name].width * 4)
        parts.push(part)
        return { name, bytes: part.length }
      }),
    })),
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
  const populations = header.populations.map(({ id, count, columns }) => {
    const decoded: PopulationFrame['columns'] = {}
    for (const { name, bytes: length } of columns) {
      const { width } = COLUMNS[name]
      const raw = new Uint8Array(count * width * 4)
      if (at + length > bytes.length)
        throw new FormatFault(`byte ${bytes.length}`, `the frame ends in "${name}": it is cut off`)
      if (count > 0) MeshoptDecoder.decodeVertexBuffer(raw, count, width * 4, bytes.subarray(at, at + length))
      at += length
      decoded[name] = isWhole(name) ? new Uint32Array(raw.buffer) : new Float32Array(raw.buffer)
    }
    return { id, count, columns: decoded }
  })
  return { frame: header.frame, populations }
}
