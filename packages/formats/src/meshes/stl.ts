import type { Mesh } from '@tangle/core'
import { atByte, atLine, FormatFault } from '../fault.ts'
import { Growing, linesOf } from './lines.ts'

const HEADER = 84
const FACET = 50

/** STL, binary or ascii. A binary file is known by its length, for its header may say anything. */
export function readStl(bytes: Uint8Array): Mesh {
  const data = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const said = bytes.length >= HEADER ? data.getUint32(80, true) : -1
  const isText = new TextDecoder('latin1')
    .decode(bytes.subarray(0, 2048))
    .trimStart()
    .toLowerCase()
    .startsWith('solid')
  if (
    said >= 0 &&
    bytes.length >= HEADER + said * FACET &&
    !(isText && bytes.length !== HEADER + said * FACET)
  )
    return readBinary(data, said)
  if (isText) return readText(bytes)
  if (bytes.length < HEADER)
    throw atByte(bytes.length, 'the file ends in the header of an STL: it is cut off')
  throw atByte(
    80,
    `says ${said} triangles, which takes ${HEADER + said * FACET} bytes, but the file has ${bytes.length}: it is cut off`,
  )
}

function readBinary(data: DataView, count: number): Mesh {
  const positions = new Float32Array(count * 9)
  for (let t = 0; t < count; t++) {
    for (let k = 0; k < 9; k++) {
      const at = HEADER + t * FACET + 12 + k * 4
      const value = data.getFloat32(at, true)
      if (!Number.isFinite(value)) throw atByte(at, `triangle ${t} has a coordinate that is not a number`)
      positions[t * 9 + k] = value
    }
  }
  return soup(positions)
}

function readText(bytes: Uint8Array): Mesh {
  const positions = new Growing(Float32Array)
  let corners = 0
  let ended = false
  for (const [line, number] of linesOf(bytes)) {
    const words = line.trim().split(/\s+/)
    const word = words[0]!.toLowerCase()
    if (word === 'vertex') {
      const [x, y, z] = [Number(words[1]), Number(words[2]), Number(words[3])]
      if (!Number.isFinite(x + y + z)) {
        throw atLine(number, `a vertex needs three numbers, but this has "${words.slice(1).join(' ')}"`)
      }
      positions.push(x, y, z)
      corners++
    } else if (word === 'endloop') {
      if (corners !== 3) throw atLine(number, `a facet needs three corners, but this has ${corners}`)
      corners = 0
    } else if (word === 'endsolid') ended = true
  }
  if (corners !== 0 || !ended)
    throw new FormatFault('end of file', 'there is no "endsolid": the file is cut off')
  return soup(positions.done())
}

const soup = (positions: Float32Array): Mesh => ({
  positions,
  triangles: Uint32Array.from({ length: positions.length / 3 }, (_, i) => i),
})
