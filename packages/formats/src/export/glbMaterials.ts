/** The looks of meshes as materials of glTF 2.0 (Khronos), §3.9, with KHR_materials_transmission for glass. */
import { linearColour, type MeshLook, type Shot } from '@tangle/core'
import type { Document, Extension, Material, Texture } from '@gltf-transform/core'
import type { FileMaterial } from '../meshes/glbPaint.ts'
import { alphaModeOf } from './glbPaint.ts'

const WHITE: [number, number, number] = [1, 1, 1]

export interface GlbMaterials {
  /** @param isColoured its vertices have the colour */
  make(name: string, look: MeshLook, isCut: boolean, isColoured: boolean): Material
  /** A material of a mesh's own file, with its picture; the rest is that of the look. */
  ofFile(name: string, look: MeshLook, file: FileMaterial): Material
  /** Those of meshes of the shot by their ids, each made once. */
  ofMeshes(shot: Shot, isColoured: boolean): (id: string) => Material
  /** That whoever writes the document must know. */
  extensions: (typeof Extension)[]
  /** Before it is written: what is not used is not named. */
  finish(): void
}

export async function materialsFor(document: Document): Promise<GlbMaterials> {
  const { EXTTextureWebP, KHRMaterialsTransmission } = await import('@gltf-transform/extensions')
  const transmission = document.createExtension(KHRMaterialsTransmission)
  const textures = new Map<Uint8Array, Texture>()
  const make: GlbMaterials['make'] = (name, look, isCut, isColoured) => {
    const colour = isColoured ? WHITE : linearColour(isCut ? look.inner : look.colour)
    const material = document
      .createMaterial(name)
      .setBaseColorFactor([...colour, look.opacity])
      .setRoughnessFactor(look.roughness)
      .setMetallicFactor(look.metalness)
      .setAlphaMode(look.opacity < 1 ? 'BLEND' : 'OPAQUE')
    if (look.glass === 0) return material
    const glass = transmission.createTransmission().setTransmissionFactor(look.glass)
    return material.setExtension('KHR_materials_transmission', glass)
  }
  const textureOf = ({ name, picture }: FileMaterial): Texture | null => {
    if (!picture) return null
    const known = textures.get(picture.bytes)
    if (known) return known
    if (picture.type === 'image/webp') document.createExtension(EXTTextureWebP).setRequired(true)
    const made = document.createTexture(name).setImage(picture.bytes).setMimeType(picture.type)
    textures.set(picture.bytes, made)
    return made
  }
  return {
    extensions: [KHRMaterialsTransmission, EXTTextureWebP],
    make,
    ofFile: (name, look, file) =>
      make(name, look, false, true)
        .setBaseColorFactor([...file.colour, look.opacity])
        .setBaseColorTexture(textureOf(file))
        .setAlphaMode(alphaModeOf(look, file)),
    ofMeshes({ meshes }, isColoured) {
      const made = new Map<string, Material>()
      return (id) => {
        const material =
          made.get(id) ?? make(id, meshes.find((one) => one.id === id)!.look, false, isColoured)
        made.set(id, material)
        return material
      }
    },
    finish(): void {
      if (transmission.listProperties().length === 0) transmission.dispose()
    },
  }
}
