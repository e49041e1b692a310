import { DeriveFault } from '@tangle/core'
import manifoldModule from 'manifold-3d'
import manifoldWasm from 'manifold-3d/manifold.wasm?url'
import { makeDerived } from '../shared/derived.ts'
import type { DeriveRequest } from './deriving.ts'

onmessage = async ({ data: { shot, meshes } }: MessageEvent<DeriveRequest>) => {
  try {
    const manifold = await manifoldModule({ locateFile: () => manifoldWasm })
    manifold.setup()
    let told = 0
    const progress = (_: string, share: number): void => {
      if (share < 1 && share - told < 0.02 && share > told) return
      told = share
      postMessage({ share })
    }
    for (const made of makeDerived(manifold, shot, meshes, progress)) postMessage({ made })
    postMessage({ done: true })
  } catch (error) {
    postMessage({
      fault: error instanceof DeriveFault ? error.message : `It can't be made: ${(error as Error).message}`,
    })
  }
}
