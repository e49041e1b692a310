/** The looks of meshes as materials of glTF 2.0 (Khronos), §3.9, with KHR_materials_transmission for glass. */
import { linearColour, type MeshLook, type Shot } from '@tangle/core'
import type { Document, Extension, Material } from '@gltf-transform/core'

const WHITE: [number, number, number] = [1, 1, 1]

export interface GlbMaterials {
  /** @param isColoured its vertices have the colour */
  make(name: string, look: MeshLook, isCut: boolean, isColoured: boolean): Material
  /** Those of meshes of the shot by their ids, each made once. */
  ofMeshes(shot: Shot, isColoured: boolean): (id: string) => Material
  /** That whoever writes the document must know. */
  extensions: (typeof Extension)[]
  /** Before it is written: what is not used is not named. */
  finish(): void
}

export async function materialsFor(document: Document): Promise<GlbMaterials> {
  const { KHRMaterialsTransmission } = await import('@gltf-transform/extensions')
  const transmission = document.createExtension(KHRMaterialsTransmission)
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
  return {
    extensions: [KHRMaterialsTransmission],
    make,
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
