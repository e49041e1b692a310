/** A thread that makes the meshes of a shot that are made of others. */
import { DeriveFault, type Mesh, type Shot } from '@tangle/core'
import { parentPort, workerData } from 'node:worker_threads'
import manifoldModule from 'manifold-3d'
import { makeDerived } from '../shared/derived.ts'

const { shot, meshes } = workerData as { shot: Shot; meshes: [string, Mesh][] }
const manifold = await manifoldModule()
manifold.setup()
try {
  for (const made of makeDerived(manifold, shot, new Map(meshes))) parentPort!.postMessage({ made })
} catch (error) {
  if (!(error instanceof DeriveFault)) throw error
  parentPort!.postMessage({ fault: error.message })
}
