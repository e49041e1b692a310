import { DeriveFault, sourceKey, underived, type Mesh, type Shot } from '@tangle/core'
import { Worker } from 'node:worker_threads'
import type { MadeMesh } from '../shared/derived.ts'

/** What was made last, by key: many takes break the same mesh in the same way. */
const known = new Map<string, Mesh>()
const KNOWN = 12

/**
 * Adds the meshes of a shot that are made of others to those it has (by `sourceKey`); they are made in a thread of their own.
 * @throws DeriveFault that says which can't be made and what would help
 */
export async function addDerived(shot: Shot, meshes: Map<string, Mesh>): Promise<void> {
  for (const { source } of underived(shot, meshes)) {
    const found = known.get(sourceKey(source, shot))
    if (found) meshes.set(sourceKey(source, shot), found)
  }
  if (underived(shot, meshes).length === 0) return
  const thread = new Worker(new URL('./deriver.mjs', import.meta.url), {
    workerData: { shot, meshes: [...meshes] },
  })
  await new Promise<void>((resolve, reject) => {
    thread.on('message', ({ made, fault }: { made?: MadeMesh; fault?: string }) => {
      if (fault !== undefined) return reject(new DeriveFault('', fault))
      meshes.set(made!.key, made!.mesh)
      known.set(made!.key, made!.mesh)
      if (known.size > KNOWN) known.delete(known.keys().next().value!)
    })
    thread.on('error', reject)
    thread.on('exit', () => resolve())
  }).finally(() => void thread.terminate())
}
