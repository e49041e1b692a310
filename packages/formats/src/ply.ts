import { atByte, atLine, FormatFault } from './fault.ts'
import { linesOf } from './meshes/lines.ts'

/**
 * PLY as Greg Turk's paper describes it (1994): ascii and binary of both byte orders, any elements
 * with any properties.
 */
export interface PlyElement {
  name: string
  count: number
  /** Numbers per property; lists stand in `lists`. */
  columns: Record<string, Float64Array>
  lists: Record<string, { start: Uint32Array; values: Float64Array }>
}

interface Property {
  name: string
  type: string
  countType?: string
}
interface Header {
  format: string
  elements: { name: string; count: number; properties: Property[] }[]
  body: number
  lines: number
}

const SIZES: Record<string, number> = {
  int8: 1,
  uint8: 1,
  int16: 2,
  uint16: 2,
  int32: 4,
  uint32: 4,
  float32: 4,
  float64: 8,
}
const ALIASES: Record<string, string> = {
  char: 'int8',
  uchar: 'uint8',
  short: 'int16',
  ushort: 'uint16',
  int: 'int32',
  uint: 'uint32',
  float: 'float32',
  double: 'float64',
}
const FORMATS = ['ascii', 'binary_little_endian', 'binary_big_endian']

export function readPly(bytes: Uint8Array): PlyElement[] {
  const header = readHeader(bytes)
  const elements = header.elements.map(
    (e) => ({ ...e, columns: {}, lists: {} }) as PlyElement & { properties: Property[] },
  )
  const next = header.format === 'ascii' ? asciiNumbers(bytes, header) : binaryNumbers(bytes, header)
  for (const element of elements) {
    // a count that the file cannot hold is refused before memory is taken for it
    if (element.count > bytes.length)
      throw new FormatFault(
        'header',
        `says ${element.count} of "${element.name}", more than the file has bytes`,
      )
    const growing = new Map<string, number[]>()
    for (const p of element.properties) {
      if (p.countType) {
        element.lists[p.name] = { start: new Uint32Array(element.count + 1), values: new Float64Array() }
        growing.set(p.name, [])
      } else element.columns[p.name] = new Float64Array(element.count)
    }
    for (let i = 0; i < element.count; i++) {
      for (const p of element.properties) {
        if (!p.countType) {
          element.columns[p.name]![i] = next(p.type, element.name, i)
          continue
        }
        const length = next(p.countType, element.name, i)
        if (length < 0 || length > 1e6)
          throw new FormatFault(`${element.name} ${i}`, `has a list of ${length} entries`)
        const values = growing.get(p.name)!
        for (let k = 0; k < length; k++) values.push(next(p.type, element.name, i))
        element.lists[p.name]!.start[i + 1] = values.length
      }
    }
    for (const [name, values] of growing) element.lists[name]!.values = Float64Array.from(values)
  }
  return elements
}

function readHeader(bytes: Uint8Array): Header {
  const text = new TextDecoder('latin1').decode(bytes.subarray(0, 1 << 16))
  const end = /(^|[\r\n])end_header[ \t]*(\r\n|\n|\r)/.exec(text)
  if (!/^ply\s/.test(text)) throw atByte(0, 'a PLY file starts with "ply"')
  if (!end) throw new FormatFault('header', 'has no "end_header": the file is cut off or is not a PLY')
  const lines = text.slice(0, end.index + end[1]!.length).split(/\r\n|\n|\r/)
  const header: Header = { format: '', elements: [], body: end.index + end[0].length, lines: lines.length }
  lines.forEach((line, i) => {
    const words = line.trim().split(/\s+/)
    if (words[0] === 'format') {
      if (!FORMATS.includes(words[1]!))
        throw atLine(i + 1, `the format "${words[1]}" is not one of ${FORMATS.join(', ')}`)
      header.format = words[1]!
    } else if (words[0] === 'element') {
      const count = Number(words[2])
      if (!Number.isInteger(count) || count < 0) throw atLine(i + 1, `"${words[2]}" is not a count`)
      header.elements.push({ name: words[1]!, count, properties: [] })
    } else if (words[0] === 'property') {
      const list = words[1] === 'list'
      const type = typeOf(words[list ? 3 : 1]!, i + 1)
      const name = words[list ? 4 : 2]!
      if (header.elements.length === 0) throw atLine(i + 1, 'a property stands before any element')
      header.elements
        .at(-1)!
        .properties.push(list ? { name, type, countType: typeOf(words[2]!, i + 1) } : { name, type })
    }
  })
  if (!header.format) throw new FormatFault('header', 'has no "format" line')
  return header
}

function typeOf(word: string, line: number): string {
  const type = ALIASES[word] ?? word
  if (!(type in SIZES)) throw atLine(line, `"${word}" is not a type`)
  return type
}

type Next = (type: string, element: string, index: number) => number

function binaryNumbers(bytes: Uint8Array, header: Header): Next {
  const data = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const little = header.format === 'binary_little_endian'
  let at = header.body
  return (type, element, index) => {
    const start = at
    at += SIZES[type]!
    if (at > bytes.length) throw atByte(bytes.length, `the file ends in ${element} ${index}: it is cut off`)
    switch (type) {
      case 'int8':
        return data.getInt8(start)
      case 'uint8':
        return data.getUint8(start)
      case 'int16':
        return data.getInt16(start, little)
      case 'uint16':
        return data.getUint16(start, little)
      case 'int32':
        return data.getInt32(start, little)
      case 'uint32':
        return data.getUint32(start, little)
      case 'float32':
        return data.getFloat32(start, little)
      default:
        return data.getFloat64(start, little)
    }
  }
}

function asciiNumbers(bytes: Uint8Array, header: Header): Next {
  const lines = linesOf(bytes, header.body, header.lines + 1)
  let words: string[] = []
  let at = 0
  let line = header.lines
  return (_, element, index) => {
    while (at >= words.length) {
      const { value, done } = lines.next()
      if (done) throw atLine(line + 1, `the file ends in ${element} ${index}: it is cut off`)
      line = value[1]
      words = value[0].trim().split(/\s+/).filter(Boolean)
      at = 0
    }
    const word = words[at++]!
    const number = Number(word)
    if (Number.isNaN(number)) throw atLine(line, `"${word}" is not a number`)
    return number
  }
}

/** One property of a vertex: its name, type and values. */
export type PlyColumn = { name: string; values: Float32Array | Uint32Array | Int32Array | Uint8Array }

/**
 * A binary little-endian PLY of vertices, and of triangles if there are any, with a number each. All columns have the same length.
 */
export function writePly(
  columns: PlyColumn[],
  comments: string[],
  triangles?: Uint32Array,
  edges?: Uint32Array,
  faceColumn?: { name: string; values: Uint8Array },
): Uint8Array {
  const count = columns[0]?.values.length ?? 0
  const faces = (triangles?.length ?? 0) / 3
  const type = ({ values }: PlyColumn): string =>
    values instanceof Float32Array
      ? 'float'
      : values instanceof Uint32Array
        ? 'uint'
        : values instanceof Int32Array
          ? 'int'
          : 'uchar'
  const header = [
    'ply',
    'format binary_little_endian 1.0',
    ...comments.map((c) => `comment ${c}`),
    `element vertex ${count}`,
    ...columns.map((c) => `property ${type(c)} ${c.name}`),
    ...(triangles ? [`element face ${faces}`, 'property list uchar uint vertex_indices'] : []),
    ...(faceColumn ? [`property uchar ${faceColumn.name}`] : []),
    ...(edges ? [`element edge ${edges.length / 2}`, 'property uint vertex1', 'property uint vertex2'] : []),
    'end_header',
    '',
  ].join('\n')
  const head = new TextEncoder().encode(header)
  const faceBytes = faceColumn ? 14 : 13
  const stride = columns.reduce((sum, c) => sum + c.values.BYTES_PER_ELEMENT, 0)
  const out = new Uint8Array(head.length + count * stride + faces * faceBytes + (edges?.byteLength ?? 0))
  out.set(head)
  const data = new DataView(out.buffer)
  let offset = head.length
  for (const { values } of columns) {
    for (let i = 0, at = offset; i < count; i++, at += stride) {
      if (values instanceof Float32Array) data.setFloat32(at, values[i]!, true)
      else if (values instanceof Uint32Array) data.setUint32(at, values[i]!, true)
      else if (values instanceof Int32Array) data.setInt32(at, values[i]!, true)
      else out[at] = values[i]!
    }
    offset += values.BYTES_PER_ELEMENT
  }
  for (let t = 0, at = head.length + count * stride; t < faces; t++, at += faceBytes) {
    out[at] = 3
    if (faceColumn) out[at + 13] = faceColumn.values[t]!
    for (let k = 0; k < 3; k++) data.setUint32(at + 1 + k * 4, triangles![t * 3 + k]!, true)
  }
  edges?.forEach((vertex, k) =>
    data.setUint32(head.length + count * stride + faces * faceBytes + k * 4, vertex, true),
  )
  return out
}
