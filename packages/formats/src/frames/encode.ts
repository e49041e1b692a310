import type { AttributeName, MeshFrame, PopulationFrame, Precision } from '@tangle/core'
import crc32 from 'crc-32'
import { MeshoptEncoder } from 'meshoptimizer/encoder'
import type { CachedFrame, Decoded } from './cachedFrame.ts'
import { createCoder, inCodedOrder, keptAs } from './coder.ts'
import {
  HEAD_AT,
  MAGIC,
  type ColumnHead,
  type Head,
  type MeshHead,
  type Part,
  type PopulationHead,
} from './head.ts'
import { codeOf, spanOf, type Column } from './wholes.ts'

/** From one key frame to the next. */
const KEY_EVERY = 12

export interface Encoding {
  /** Frames per second. */
  rate: number
  /** The frame before, as it was encoded; null: there is none, so this is a key frame. */
  before: Decoded | null
  /** How a population is kept; without it all are kept exactly. */
  precision?: (population: string) => Precision
}

/** Encodes a frame. `codecReady` must have resolved. Returns it as it will be read back, too. */
export function encodeFrame(
  { frame, populations, meshes }: CachedFrame,
  { rate, before: last, precision }: Encoding,
): { bytes: Uint8Array; decoded: Decoded } {
  const before = last && last.frame === frame - 1 && frame - last.key < KEY_EVERY ? last : null
  const parts: Uint8Array[] = []
  const keep: Keep = (part) => {
    parts.push(part)
    return { bytes: part.length, sum: crc32.buf(part) }
  }
  const coded = populations.map((one) =>
    encodePopulation(one, precision?.(one.id) ?? 'exact', rate, before, keep),
  )
  const shown = meshes.map((one) => encodeMesh(one, before?.meshes, keep))
  const head: Head = {
    frame,
    key: before?.key ?? frame,
    rate,
    populations: coded.map((one) => one.head),
    meshes: shown.map((one) => one.head),
  }
  return {
    bytes: joined(head, parts),
    decoded: {
      frame,
      key: head.key,
      populations: coded.map((one) => one.decoded),
      meshes: shown.map((one) => one.decoded),
    },
  }
}

function joined(head: Head, parts: Uint8Array[]): Uint8Array {
  const json = new TextEncoder().encode(JSON.stringify(head))
  const out = new Uint8Array(HEAD_AT + json.length + parts.reduce((sum, part) => sum + part.length, 0))
  const data = new DataView(out.buffer)
  data.setUint32(0, MAGIC, true)
  data.setUint32(4, json.length, true)
  data.setInt32(8, crc32.buf(json), true)
  out.set(json, HEAD_AT)
  let at = HEAD_AT + json.length
  for (const part of parts) {
    out.set(part, at)
    at += part.length
  }
  return out
}

type Keep = (part: Uint8Array) => Part

function encodePopulation(
  { id, count, columns }: PopulationFrame,
  precision: Precision,
  rate: number,
  last: Decoded | null,
  keep: Keep,
): { head: PopulationHead; decoded: PopulationFrame } {
  const names = (Object.keys(columns) as AttributeName[]).filter(
    (name) => columns[name] && keptAs(name) !== null,
  )
  const span = spanOf(columns.position as Float32Array | undefined)
  const decoded: PopulationFrame['columns'] = {}
  const coder = createCoder(id, count, last, rate)
  try {
    const heads = inCodedOrder(names).map((name): ColumnHead => {
      const values = columns[name]! // names are those of columns that are there
      const width = count === 0 ? 1 : values.length / count
      const code = codeOf(values, precision === 'exact' ? 'exact' : keptAs(name)!, { span, rate })
      const { bytes, column } = coder.encode(name, values, code)
      decoded[name] = column
      return { name, width, code, ...keep(bytes) }
    })
    return { head: { id, count, columns: heads }, decoded: { id, count, columns: decoded } }
  } finally {
    coder.release()
  }
}

function encodeMesh(
  { id, positions, triangles, inner, velocities, columns }: MeshFrame,
  before: MeshFrame[] = [],
  keep: Keep,
): { head: MeshHead; decoded: MeshFrame } {
  const [vertices, indices] = [positions.length / 3, triangles.length]
  const last = before.find((one) => one.id === id)
  const marked = inner === undefined ? {} : { inner }
  const named = Object.entries(columns ?? {}) as [AttributeName, Float32Array][]
  const [stood, kept] = [same(positions, last?.positions), same(triangles, last?.triangles)]
  return {
    head: {
      id,
      vertices,
      indices,
      ...marked,
      positions: stood ? 'same' : keep(encodeVertices(positions, vertices, 12)),
      triangles: kept ? 'same' : keep(encodeIndices(triangles)),
      ...(velocities ? { velocities: keep(encodeVertices(velocities, vertices, 12)) } : {}),
      ...(columns
        ? { columns: named.map(([name, values]) => columnHead(name, values, vertices, keep)) }
        : {}),
    },
    decoded: {
      id,
      ...marked,
      positions: stood ? last!.positions : positions.slice(),
      triangles: kept ? last!.triangles : triangles.slice(),
      ...(velocities ? { velocities: velocities.slice() } : {}),
      ...(columns
        ? { columns: Object.fromEntries(named.map(([name, values]) => [name, values.slice()])) }
        : {}),
    },
  }
}

function columnHead(name: AttributeName, values: Float32Array, vertices: number, keep: Keep) {
  const width = vertices === 0 ? 1 : values.length / vertices
  return { name, width, part: keep(encodeVertices(values, vertices, 4 * width)) }
}

/** To the bit: 0 is not −0. */
function same(a: Column, b: Column | undefined): boolean {
  if (a.length !== b?.length) return false
  const [one, other] = [a, b].map(
    ({ buffer, byteOffset, length }) => new Int32Array(buffer, byteOffset, length),
  )
  return one!.every((word, i) => word === other![i])
}

/** The encoder's memory is not shared: it copies from an array of its own. */
function bytesOf({ buffer, byteOffset, byteLength }: Column): Uint8Array {
  const raw = new Uint8Array(byteLength)
  raw.set(new Uint8Array(buffer, byteOffset, byteLength))
  return raw
}
const encodeVertices = (values: Column, count: number, stride: number): Uint8Array =>
  count === 0 ? new Uint8Array() : MeshoptEncoder.encodeVertexBuffer(bytesOf(values), count, stride)

const encodeIndices = (triangles: Uint32Array): Uint8Array =>
  triangles.length === 0
    ? new Uint8Array()
    : MeshoptEncoder.encodeIndexSequence(bytesOf(triangles), triangles.length, 4)
