import { linearPart, type Mesh, type VertexData } from '@tangle/core'
import { arePlaces, FormatFault, TOO_FAR } from '../fault.ts'
import { readPly, type PlyElement } from '../ply.ts'
import { Growing } from './lines.ts'
import { triangulate } from './polygons.ts'

/**
 * The vertices and faces of a PLY file, with texture coordinates where its vertices have them; faces may have any
 * number of corners. Without faces it is a set of points.
 */
export function readPlyMesh(bytes: Uint8Array): Mesh {
  const elements = readPly(bytes)
  const vertex = elements.find((e) => e.name === 'vertex')
  const face = elements.find((e) => e.name === 'face')
  const { x, y, z } = vertex?.columns ?? {}
  if (!x || !y || !z) throw new FormatFault('header', 'has no element "vertex" with x, y and z')
  const list = face && (face.lists.vertex_indices ?? face.lists.vertex_index)
  if (face && !list) throw new FormatFault('header', 'has an element "face" without vertex_indices')
  const axes = [x, y, z]
  const positions = new Float32Array(x.length * 3)
  for (let i = 0; i < positions.length; i++) {
    positions[i] = axes[i % 3]![Math.floor(i / 3)]!
    if (!arePlaces(positions[i]!)) throw new FormatFault(`vertex ${Math.floor(i / 3)}`, TOO_FAR)
  }
  const data = dataOf(vertex!)
  if (!face || !list) return { positions, triangles: new Uint32Array(0), ...data }
  const triangles = new Growing(Uint32Array)
  const point = (corner: number, axis: number): number => positions[corner * 3 + axis]!
  for (let i = 0; i < face.count; i++) {
    const corners = Array.from(list.values.subarray(list.start[i], list.start[i + 1]))
    if (corners.length < 3)
      throw new FormatFault(`face ${i}`, `needs at least three corners, but has ${corners.length}`)
    const wrong = corners.find((c) => !(Number.isInteger(c) && c >= 0 && c < x.length))
    if (wrong !== undefined)
      throw new FormatFault(`face ${i}`, `names vertex ${wrong}, but there are ${x.length}, counted from 0`)
    const places = triangulate(corners, point)
    for (let k = 0; k < places.length; k += 3) {
      triangles.push(corners[places[k]!]!, corners[places[k + 1]!]!, corners[places[k + 2]!]!)
    }
  }
  const found = triangles.done()
  const [u, v] = TEXTURE.map(
    ([one, other]) => [vertex!.columns[one!], vertex!.columns[other!]] as const,
  ).find(([one, other]) => one && other) ?? [undefined, undefined]
  if (!u || !v) return { positions, triangles: found, ...data }
  return {
    positions,
    triangles: found,
    ...data,
    uvs: Float32Array.from({ length: found.length * 2 }, (_, k) => (k % 2 === 0 ? u : v)[found[k >> 1]!]!),
  }
}

/** Names that vertices have for texture coordinates; the format fixes none. */
const TEXTURE = [
  ['u', 'v'],
  ['s', 't'],
  ['texture_u', 'texture_v'],
]

/** Properties that are not data: places, directions, texture and the parts of the colour. */
const NOT_DATA = new Set(['x', 'y', 'z', 'nx', 'ny', 'nz', 'red', 'green', 'blue', ...TEXTURE.flat()])

/** What vertices carry besides: every other property by its name, and red, green and blue (0–255, sRGB) as "colour". */
function dataOf({ columns, count }: PlyElement): { data?: Record<string, VertexData> } {
  const data: Record<string, VertexData> = {}
  for (const [name, values] of Object.entries(columns))
    if (!NOT_DATA.has(name)) data[name] = { width: 1, values: Float32Array.from(values) }
  const { red, green, blue } = columns
  if (red && green && blue) {
    const parts = [red, green, blue]
    // colours are bytes, or numbers from 0 to 1
    const most = parts.some((part) => part.some((x) => x > 1)) ? 255 : 1
    const values = Float32Array.from({ length: count * 3 }, (_, k) =>
      linearPart(parts[k % 3]![Math.floor(k / 3)]! / most),
    )
    data.colour = { width: 3, values }
  }
  return Object.keys(data).length > 0 ? { data } : {}
}
