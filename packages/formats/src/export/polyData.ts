/**
 * PolyData in VTK's XML: a head that says what there is, and then all numbers as they are, each block after its length.
 * Source: VTK File Formats (kitware.com), "XML File Formats": PolyData, appended data, encoding "raw".
 */
import { FormatFault } from '../fault.ts'

type Numbers = Float32Array | Float64Array | Uint32Array | Int32Array | Uint8Array
export interface VtkArray {
  name: string
  components: number
  values: Numbers
}
export interface PolyData {
  /** 3 × f32 each. */
  points: Float32Array
  /** Of each cell the points, and where it ends among them. */
  cells: { kind: 'Verts' | 'Lines' | 'Polys'; connectivity: Int32Array; offsets: Int32Array }
  /** Of points, and of cells. */
  arrays: VtkArray[]
  cellArrays?: VtkArray[]
}

const TYPES = { Float32: Float32Array, Float64: Float64Array, UInt32: Uint32Array, Int32: Int32Array, UInt8: Uint8Array } as const // prettier-ignore
const typeOf = (values: Numbers): string =>
  Object.entries(TYPES).find(([, type]) => values instanceof type)![0]
const escaped = (text: string): string =>
  text.replace(/[&<>"]/g, (one) => `&#${one.charCodeAt(0)};`).replace(/\p{Cc}/gu, ' ')

/** @param time of the frame, as the collection has it; `about` is a remark. */
export function writePolyData(
  { points, cells, arrays, cellArrays = [] }: PolyData,
  time: number,
  about: string,
): Uint8Array {
  const blocks: Numbers[] = []
  let offset = 0
  const element = ({ name, components, values }: VtkArray): string => {
    const at = offset
    blocks.push(values)
    offset += 8 + values.byteLength
    return `<DataArray type="${typeOf(values)}" Name="${escaped(name)}" NumberOfComponents="${components}" format="appended" offset="${at}"/>\n`
  }
  const single = (name: string, values: Int32Array): string => element({ name, components: 1, values })
  const count = (kind: PolyData['cells']['kind']): number => (cells.kind === kind ? cells.offsets.length : 0)
  const head = `<?xml version="1.0"?>
<!-- ${about.replace(/--+/g, '-').replace(/\p{Cc}/gu, ' ')} -->
<VTKFile type="PolyData" version="1.0" byte_order="LittleEndian" header_type="UInt64">
<PolyData>
<FieldData>
<DataArray type="Float64" Name="TimeValue" NumberOfTuples="1" format="ascii">${time}</DataArray>
</FieldData>
<Piece NumberOfPoints="${points.length / 3}" NumberOfVerts="${count('Verts')}" NumberOfLines="${count('Lines')}" NumberOfStrips="0" NumberOfPolys="${count('Polys')}">
<PointData>
${arrays.map(element).join('')}</PointData>
<CellData>
${cellArrays.map(element).join('')}</CellData>
<Points>
${element({ name: 'Points', components: 3, values: points })}</Points>
<${cells.kind}>
${single('connectivity', cells.connectivity)}${single('offsets', cells.offsets)}</${cells.kind}>
</Piece>
</PolyData>
<AppendedData encoding="raw">
_`
  const pieces: Uint8Array[] = [new TextEncoder().encode(head)]
  for (const { buffer, byteOffset, byteLength } of blocks)
    pieces.push(
      new Uint8Array(BigUint64Array.of(BigInt(byteLength)).buffer),
      new Uint8Array(buffer, byteOffset, byteLength),
    )
  pieces.push(new TextEncoder().encode('\n</AppendedData>\n</VTKFile>\n'))
  return joined(pieces)
}

function joined(pieces: Uint8Array[]): Uint8Array {
  const out = new Uint8Array(pieces.reduce((sum, { length }) => sum + length, 0))
  let at = 0
  for (const piece of pieces) {
    out.set(piece, at)
    at += piece.length
  }
  return out
}

/** The blocks of a file that ours has written, by their names. @throws FormatFault where it is none, or cut off. */
export function readPolyData(file: string, bytes: Uint8Array): Map<string, Numbers> {
  const head = new TextDecoder('latin1').decode(bytes.subarray(0, 1 << 16))
  const begin = /<AppendedData encoding="raw">\s*_/.exec(head)
  if (!begin || !head.includes('<VTKFile type="PolyData"'))
    throw new FormatFault(file, 'is no PolyData of VTK that we write')
  const from = begin.index + begin[0].length
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const out = new Map<string, Numbers>()
  for (const [, type, name, offset] of head.matchAll(
    /<DataArray type="(\w+)" Name="([^"]*)" [^>]*offset="(\d+)"/g,
  )) {
    const at = from + Number(offset)
    const length = at + 8 <= bytes.length ? Number(view.getBigUint64(at, true)) : Infinity
    if (at + 8 + length > bytes.length) throw new FormatFault(file, `ends in "${name}": it is cut off`)
    const block = Uint8Array.from(bytes.subarray(at + 8, at + 8 + length))
    out.set(name!, new TYPES[type as keyof typeof TYPES](block.buffer))
  }
  if (!new TextDecoder('latin1').decode(bytes.subarray(-16)).includes('</VTKFile>'))
    throw new FormatFault(file, 'has no end: it is cut off')
  return out
}
