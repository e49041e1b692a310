/** Meshes that are seen through, for what they hide. */
import { Mesh, type Material, type Object3D } from 'three'

const GHOST = { opacity: 0.16, transparent: true, depthWrite: false }

type Solidity = Pick<Material, keyof typeof GHOST>

/** Makes everything in a group a ghost, or as it was. */
export function ghost(group: Object3D, on: boolean): void {
  group.traverse((object) => {
    if (!(object instanceof Mesh)) return
    for (const material of [object.material as Material | Material[]].flat()) {
      const was = material.userData.solid as Solidity | undefined
      if (on === (was !== undefined)) continue
      const { opacity, transparent, depthWrite } = material
      material.userData.solid = on ? { opacity, transparent, depthWrite } : undefined
      // what is opaque is another program
      Object.assign(material, on ? GHOST : was, { needsUpdate: true })
    }
  })
}
