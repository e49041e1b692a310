import type { Mesh } from '@tangle/core'
import { arePlaces, atLine, FormatFault, TOO_FAR } from '../fault.ts'
import { Growing, linesOf, wordsOf } from './lines.ts'
import { triangulate } from './polygons.ts'

/**
 * Wavefront OBJ: `v`, `vt` and `f` lines; groups, objects, materials and normals are passed over. Faces may have any number of corners, and negative numbers count from the end.
 */
export function readObj(bytes: Uint8Array): Mesh {
  const positions = new Growing(Float32Array)
  const triangles = new Growing(Uint32Array)
  const textures = new Growing(Float32Array)
  const uvs = new Growing(Float32Array)
  // texture coordinates count only where every corner has them
  let textured = true
  const point = (corner: number, axis: number): number => positions.at(corner * 3 + axis)
  let joined = ''
  for (const [text, number] of linesOf(bytes)) {
    // a line that ends with a backslash goes on in the next
    if (text.endsWith('\\')) {
      joined += `${text.slice(0, -1)} `
      continue
    }
    const words = wordsOf(joined + text)
    joined = ''
    if (words[0] === 'v') {
      const [x, y, z] = [Number(words[1]), Number(words[2]), Number(words[3])]
      if (!Number.isFinite(x + y + z)) {
        throw atLine(number, `a vertex needs three numbers, but this has "${words.slice(1, 5).join(' ')}"`)
      }
      if (!arePlaces(x, y, z)) throw atLine(number, `the vertex ${TOO_FAR}`)
      positions.push(x, y, z)
    } else if (words[0] === 'vt') {
      const [u, v] = [Number(words[1]), Number(words[2] ?? 0)]
      if (!Number.isFinite(u + v))
        throw atLine(
          number,
          `a texture coordinate needs numbers, but this has "${words.slice(1, 4).join(' ')}"`,
        )
      textures.push(u, v)
    } else if (words[0] === 'f') {
      const corners = cornersOf(words, positions.length / 3, number)
      const places = triangulate(corners, point)
      for (let k = 0; k < places.length; k += 3) {
        triangles.push(corners[places[k]!]!, corners[places[k + 1]!]!, corners[places[k + 2]!]!)
      }
      const known = textures.length / 2
      const texture: number[] | null = textured && known > 0 ? textureOf(words, known, number) : null
      textured &&= texture !== null
      if (texture)
        for (const place of places)
          uvs.push(textures.at(texture[place]! * 2), textures.at(texture[place]! * 2 + 1))
    }
  }
  if (positions.length === 0)
    throw new FormatFault('', 'this OBJ has no vertices: is it an OBJ file, and is it complete?')
  const withUvs = textured && uvs.length > 0 ? { uvs: uvs.done() } : {}
  return { positions: positions.done(), triangles: triangles.done(), ...withUvs }
}

/** The texture coordinates that the corners of a face name, counted from 0; null where one names none. */
function textureOf(words: string[], known: number, line: number): number[] | null {
  const out: number[] = []
  for (let i = 1; i < words.length && !words[i]!.startsWith('#'); i++) {
    const written = words[i]!.split('/')[1]
    if (!written) return null
    const index = wholeNumber(written)
    const place = index < 0 ? known + index : index - 1
    if (!(place >= 0 && place < known))
      throw atLine(line, `the face names texture coordinate ${written}, but there are ${known} so far`)
    out.push(place)
  }
  return out
}

/** NaN for what is not written as a whole number, such as 1e5 or 3.7. */
const wholeNumber = (text: string): number => (/^[+-]?\d+$/.test(text) ? Number(text) : NaN)

/** The vertices of a face, counted from 0; `known` have been read so far. */
function cornersOf(words: string[], known: number, line: number): number[] {
  const corners: number[] = []
  for (let i = 1; i < words.length && !words[i]!.startsWith('#'); i++) {
    // the numbers after a slash are of texture coordinates and normals
    const index = wholeNumber(words[i]!.split('/')[0]!)
    const vertex = index < 0 ? known + index : index - 1
    if (!Number.isInteger(index) || index === 0) {
      throw atLine(line, `"${words[i]}" is not a vertex number; they start at 1`)
    }
    if (vertex < 0 || vertex >= known) {
      throw atLine(line, `the face names vertex ${index}, but there are ${known} so far`)
    }
    corners.push(vertex)
  }
  if (corners.length < 3)
    throw atLine(line, `a face needs at least three corners, but this has ${corners.length}`)
  return corners
}
