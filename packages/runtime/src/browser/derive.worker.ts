import { DeriveFault, sourceKey, underived } from '@tangle/core'
import manifoldModule from 'manifold-3d'
import manifoldWasm from 'manifold-3d/manifold.wasm?url'
import { makeDerived } from '../shared/derived.ts'
import type { DeriveRequest } from './deriving.ts'
import { madeMeshes } from './madeMeshes.ts'

// a built program has a name that says what is in it
const { href } = self.location
const kept = /-[\w-]{8}\.js$/.test(href) ? madeMeshes(href) : null

onmessage = async ({ data: { shot, meshes } }: MessageEvent<DeriveRequest>) => {
  try {
    for (const { source } of kept ? underived(shot, meshes) : []) {
      const made = await kept!.find(sourceKey(source, shot))
      if (!made) continue
      meshes.set(made.key, made.mesh)
      postMessage({ made })
    }
    if (underived(shot, meshes).length > 0) await make({ shot, meshes })
    postMessage({ done: true })
  } catch (error) {
    postMessage({
      fault: error instanceof DeriveFault ? error.message : `It can't be made: ${(error as Error).message}`,
    })
  }
}

async function make({ shot, meshes }: DeriveRequest): Promise<void> {
  const manifold = await manifoldModule({ locateFile: () => manifoldWasm })
  manifold.setup()
  let told = 0
  const progress = (_: string, share: number): void => {
    if (share < 1 && share - told < 0.02 && share > told) return
    told = share
    postMessage({ share })
  }
  for (const made of makeDerived(manifold, shot, meshes, progress)) {
    postMessage({ made })
    // what moves in its file would be kept with all its moments
    if (!made.mesh.motion) await kept?.keep(made)
  }
}
