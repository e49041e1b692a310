/** The materials of a mesh's own file with their pictures, on triangles that leave Tangle as they came. */
import { sourceKey, turnedOver, type Mesh, type MeshFrame, type MeshLook, type Shot } from '@tangle/core'
import type { FileMaterial } from '../meshes/glbPaint.ts'
import { fileMaterialsOf } from '../meshes/index.ts'

/** Triangles of one material, with vertices parted where texture coordinates are. */
export interface PaintedPart {
  material: FileMaterial
  /** Of each vertex the one of the mesh. */
  from: Uint32Array
  /** u and v of each vertex on the picture, v from the top; null where the mesh has none. */
  uvs: Float32Array<ArrayBuffer> | null
  triangles: Uint32Array<ArrayBuffer>
}

/**
 * The parts of a mesh of a frame, or of an instance, by the materials of its file; null where its look is another one, or its triangles are not
 * those of the file any more: cut, eaten, made finer.
 */
export function paintedPartsOf(
  shot: Shot,
  id: string,
  sources: Map<string, Mesh>,
  { positions, triangles, inner }: Pick<MeshFrame, 'positions' | 'triangles' | 'inner'>,
): PaintedPart[] | null {
  const written = shot.meshes.find((one) => one.id === id)
  const source = written && sources.get(sourceKey(written.source, shot))
  if (written?.look.colours !== 'materials' || !source || inner !== undefined) return null
  const isWhole = positions.length === source.positions.length && triangles.length === source.triangles.length
  const parts = isWhole ? partsOf(source) : []
  if (parts.length === 0) return null
  // a mirrored mesh comes with its corners in the other order
  const isTurned = triangles.some((v, c) => v !== source.triangles[c])
  return isTurned ? parts.map((part) => ({ ...part, triangles: turnedOver(part.triangles) as PaintedPart['triangles'] })) : parts // prettier-ignore
}

const known = new WeakMap<Mesh, PaintedPart[]>()
function partsOf(mesh: Mesh): PaintedPart[] {
  const found = known.get(mesh) ?? makeParts(mesh)
  known.set(mesh, found)
  return found
}

function makeParts(mesh: Mesh): PaintedPart[] {
  const { triangles, materials, uvs } = mesh
  const files = fileMaterialsOf(mesh)
  if (!materials) return []
  return files.flatMap((material, n): PaintedPart[] => {
    const own = Array.from(materials.keys()).filter((t) => materials[t] === n)
    if (own.length === 0) return []
    const numbers = new Map<string, number>()
    const [from, at]: [number[], number[]] = [[], []]
    const corners = own.flatMap((t) => [0, 1, 2].map((k) => t * 3 + k))
    const used = corners.map((c) => {
      const [u, v] = uvs ? placeOn(material, uvs[c * 2]!, uvs[c * 2 + 1]!) : [0, 0]
      const name = `${triangles[c]} ${u} ${v}`
      const number = numbers.get(name) ?? from.length
      if (number === from.length) {
        numbers.set(name, number)
        from.push(triangles[c]!)
        at.push(u, v)
      }
      return number
    })
    return [
      { material, from: Uint32Array.from(from), uvs: uvs ? Float32Array.from(at) : null, triangles: Uint32Array.from(used) }, // prettier-ignore
    ]
  })
}

/** Where texture coordinates are on the picture of a material, v from the top. */
function placeOn({ transform: [a, b, c, d, e, f] }: FileMaterial, u: number, v: number): [number, number] {
  const down = 1 - v
  return [a * u + b * down + c, d * u + e * down + f]
}

/** Rows of `width` numbers, those of the vertices of a part. */
export function rowsFrom(
  values: ArrayLike<number>,
  from: Uint32Array,
  width: number,
): Float32Array<ArrayBuffer> {
  const out = new Float32Array(from.length * width)
  from.forEach((v, i) => {
    for (let k = 0; k < width; k++) out[i * width + k] = values[v * width + k]!
  })
  return out
}

/** How light goes through what a file's material is on. */
export const alphaModeOf = (
  look: MeshLook,
  { cutOut, picture }: FileMaterial,
): 'BLEND' | 'MASK' | 'OPAQUE' => (look.opacity < 1 ? 'BLEND' : cutOut && picture ? 'MASK' : 'OPAQUE')
