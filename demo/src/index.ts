/** Heron Quay, the invented harbour in which all examples are set. */
import { readShot, type Shot } from '@tangle/core'
import { objBytes } from './build.ts'
import { MESHES } from './meshes.ts'
import { SHOTS, slugOf } from './shots.ts'

export interface DemoAsset {
  id: string
  name: string
  file: string
  bytes: Uint8Array
}

/** The shapes as OBJ files. */
export const demoAssets = (): DemoAsset[] =>
  MESHES.map(({ id, name, make }) => ({ id, name, file: `${id}.obj`, bytes: objBytes(make(), name) }))

export interface Demo {
  slug: string
  title: string
  shot: Shot
}

/** What each shot is called after "demo:". */
export const demoSlugs = (): string[] => SHOTS.map(({ title }) => slugOf(title))

/** The shots, over stored meshes; `asset` gives "sha256:…" for the id of a shape. */
export function demoShots(asset: (id: string) => string): Demo[] {
  return SHOTS.map(({ title, build }) => {
    const read = readShot({ format: 'tangle-shot', version: 1, name: title, ...build(asset) })
    if (read.problems) throw new Error(`${title}: ${JSON.stringify(read.problems)}`)
    return { slug: slugOf(title), title, shot: read.shot }
  })
}
