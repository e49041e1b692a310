/** Makes the meshes of a shot that are made of others, in whatever thread this is. */
import { derive, meshFacts, sourceKey, underived, type Mesh, type MeshFacts, type Shot } from '@tangle/core'
import { createMachine } from '@tangle/kernels'
import type { ManifoldToplevel } from 'manifold-3d'

export interface MadeMesh {
  key: string
  mesh: Mesh
  facts: MeshFacts
}

/** All of those that are not among `meshes` (by `sourceKey`), each after those it is made of. Throws DeriveFault. */
export function* makeDerived(
  manifold: ManifoldToplevel,
  shot: Shot,
  meshes: Map<string, Mesh>,
  progress?: (mesh: string, share: number) => void,
): Generator<MadeMesh> {
  const waiting = underived(shot, meshes)
  if (waiting.length === 0) return
  const machine = createMachine()
  const here = new Map(meshes)
  for (const shotMesh of waiting) {
    const key = sourceKey(shotMesh.source, shot)
    // two may be made of the same in the same way
    if (here.has(key)) continue
    const mesh = derive({ manifold, machine, ...(progress ? { progress } : {}) }, shot, shotMesh, here)
    here.set(key, mesh)
    yield { key, mesh, facts: meshFacts(mesh) }
  }
}
