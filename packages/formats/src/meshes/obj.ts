import type { Mesh } from '@tangle/core'
import { atLine, FormatFault } from '../fault.ts'
import { Growing, linesOf } from './lines.ts'
import { triangulate } from './polygons.ts'

/**
 * Wavefront OBJ: `v` and `f` lines; groups, objects, materials, normals and texture coordinates are
 * passed over. Faces may have any number of corners, and negative numbers count from the end.
 */
export function readObj(bytes: Uint8Array): Mesh {
  const positions = new Growing(Float32Array)
  const triangles = new Growing(Uint32Array)
  const point = (corner: number, axis: number): number => positions.at(corner * 3 + axis)
  let joined = ''
  for (const [text, number] of linesOf(bytes)) {
    // a line that ends with a backslash goes on in the next
    if (text.endsWith('\\')) {
      joined += `${text.slice(0, -1)} `
      continue
    }
    const words = (joined + text).trim().split(/\s+/)
    joined = ''
    if (words[0] === 'v') {
      const vertex = [Number(words[1]), Number(words[2]), Number(words[3])]
      if (words.length < 4 || !vertex.every(Number.isFinite))
        throw atLine(number, `a vertex needs three numbers, but this has "${words.slice(1, 5).join(' ')}"`)
      positions.push(...vertex)
    } else if (words[0] === 'f') {
      const corners = words.slice(1).filter((word) => !word.startsWith('#'))
      if (corners.length < 3)
        throw atLine(number, `a face needs at least three corners, but this has ${corners.length}`)
      const known = positions.length / 3
      const vertices = corners.map((corner) => {
        const index = parseInt(corner, 10)
        const vertex = index < 0 ? known + index : index - 1
        if (!Number.isInteger(index) || index === 0)
          throw atLine(number, `"${corner}" is not a vertex number; they start at 1`)
        if (vertex < 0 || vertex >= known)
          throw atLine(number, `the face names vertex ${index}, but there are ${known} so far`)
        return vertex
      })
      for (const k of triangulate(vertices, point)) triangles.push(vertices[k]!)
    }
  }
  if (positions.length === 0)
    throw new FormatFault('', 'this OBJ has no vertices: is it an OBJ file, and is it complete?')
  return { positions: positions.done(), triangles: triangles.done() }
}
