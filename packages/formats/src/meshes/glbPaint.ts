/** What the surfaces of a GLB are painted with: base colours and their pictures (glTF 2.0, §3.9.2). */
import type { Material, Texture } from '@gltf-transform/core'
import { EXTTextureWebP, KHRTextureTransform, type Transform } from '@gltf-transform/extensions'
import type { Mesh } from '@tangle/core'

/** A material of a mesh file, as far as it is drawn. */
export interface FileMaterial {
  name: string
  /** Linear RGB; the picture is multiplied by it. */
  colour: [number, number, number]
  /** As it is in the file: PNG, JPEG or WebP, its first row at v = 1. */
  picture: { type: string; bytes: Uint8Array<ArrayBuffer> } | null
  /** From texture coordinates, v counted from the top, to places on the picture: a, b, c, d, e, f of (a·u + b·v + c, d·u + e·v + f). */
  transform: [number, number, number, number, number, number]
  /** Whether it is not there where its picture is see-through. */
  cutOut: boolean
}

/** A mesh with the materials that its triangles name. */
export type FileMesh = Mesh & { fileMaterials?: FileMaterial[] }

/** Extensions of glTF that say how pictures lie. */
export const PAINTING = [KHRTextureTransform, EXTTextureWebP]

/** The material of the triangles up to a number. */
export interface Painted {
  material: Material | null
  end: number
}

const AS_IT_IS: FileMaterial['transform'] = [1, 0, 0, 0, 1, 0]
const PICTURES = ['image/png', 'image/jpeg', 'image/webp']
const MOST = 0xffff

/** Materials of triangles; nothing where all of the file is plain white. */
export function materialsOf(painted: Painted[]): Pick<FileMesh, 'materials' | 'fileMaterials'> {
  const distinct = [...new Set(painted.map(({ material }) => material))]
  // materials that share a picture share its bytes
  const pictures = new Map<Texture, FileMaterial['picture']>()
  const pictureOf = (texture: Texture): FileMaterial['picture'] => {
    if (!pictures.has(texture)) pictures.set(texture, readPicture(texture))
    return pictures.get(texture)!
  }
  const fileMaterials = distinct.map((material) => fileMaterial(material, pictureOf))
  const isPlain = fileMaterials.every(({ colour, picture }) => !picture && colour.every((x) => x === 1))
  if (isPlain || distinct.length > MOST) return {}
  const materials = new Uint16Array(painted.at(-1)?.end ?? 0)
  let from = 0
  for (const { material, end } of painted) {
    materials.fill(distinct.indexOf(material), from, end)
    from = end
  }
  return { materials, fileMaterials }
}

function fileMaterial(
  material: Material | null,
  pictureOf: (texture: Texture) => FileMaterial['picture'],
): FileMaterial {
  const [r, g, b] = material?.getBaseColorFactor() ?? [1, 1, 1]
  const info = material?.getBaseColorTextureInfo()
  // other sets of coordinates than the first are not read
  const texture = info?.getTexCoord() === 0 ? (material?.getBaseColorTexture() ?? null) : null
  const transform = info?.getExtension<Transform>('KHR_texture_transform')
  return {
    name: material?.getName() ?? '',
    colour: [r!, g!, b!],
    picture: texture && pictureOf(texture),
    transform: transform ? placed(transform) : AS_IT_IS,
    cutOut: (material?.getAlphaMode() ?? 'OPAQUE') !== 'OPAQUE',
  }
}

function readPicture(texture: Texture): FileMaterial['picture'] {
  const [bytes, type] = [texture.getImage(), texture.getMimeType()]
  return bytes && PICTURES.includes(type) ? { type, bytes: bytes.slice() } : null
}

/** Translation × rotation × scale (KHR_texture_transform). */
function placed(transform: Transform): FileMaterial['transform'] {
  const [[x, y], [across, up]] = [transform.getOffset(), transform.getScale()]
  const [cos, sin] = [Math.cos(transform.getRotation()), Math.sin(transform.getRotation())]
  return [across! * cos, up! * sin, x!, -across! * sin, up! * cos, y!]
}
