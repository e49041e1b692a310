/** A take written to a folder, with a manifest beside its files that says what is in them. */
import type { Mesh, Shot } from '@tangle/core'
import {
  contentsHash,
  framesChosen,
  meshHash,
  shotIn,
  type AllFrames,
  type CachedFrame,
  type ExportChoices,
  type ExportedFile,
  type ExportKind,
} from '@tangle/formats'
import { createHash } from 'node:crypto'
import { once } from 'node:events'
import { createWriteStream } from 'node:fs'
import { writeFile } from 'node:fs/promises'
import { join } from 'node:path'

/** What stands beside the written files, for `verify`. */
export interface Manifest {
  format: 'tangle-cache'
  version: 1
  shot: string
  kind: string
  files: string[]
  /** SHA-256 of each file: trails are told by that alone. */
  sums: Record<string, string>
  frames: {
    frame: number
    fingerprint: string
    populations: { id: string; particles: number; contents: string | null }[]
    meshes: { id: string; triangles: number; contents: string }[]
  }[]
}
export const MANIFEST = 'cache.json'

export interface WrittenTake {
  kind: ExportKind
  shot: Shot
  /** By `sourceKey`. */
  meshes: Map<string, Mesh>
  choices: ExportChoices
  frames: AllFrames
  /** Of each frame of the shot. */
  fingerprints: Map<number, string>
  /** SHA-256 of files that are there beside, by name. */
  beside?: Record<string, string>
}

/** Writes the files of a take to a folder that is there, and the manifest last. Returns the names of the files. */
export async function writeTake(
  folder: string,
  { kind, shot, meshes, choices, frames, fingerprints, beside = {} }: WrittenTake,
): Promise<string[]> {
  const chosen = framesChosen(frames, choices, { shot, meshes, kind })
  const { first, last, backward } = choices
  const told: Manifest['frames'] = []
  for (let k = 0; k <= last - first; k++) {
    const fingerprint = fingerprints.get(backward ? last - k : first + k)!
    told.push({ ...contentsOf(kind, await chosen.read(chosen.first + k)), fingerprint })
  }
  const sums = await writeFiles(folder, kind.files(shotIn(choices.space, shot), chosen, meshes))
  const manifest: Manifest = {
    format: 'tangle-cache',
    version: 1,
    shot: shot.name,
    kind: kind.kind,
    // what is beside is not read back: its sums tell
    files: Object.keys(sums),
    sums: { ...sums, ...beside },
    frames: told,
  }
  await writeFile(join(folder, MANIFEST), `${JSON.stringify(manifest, null, 1)}\n`)
  return Object.keys(manifest.sums)
}

/** Of volumes only the files as such can be told. */
const contentsOf = (
  { volumes }: ExportKind,
  { frame, populations, meshes }: CachedFrame,
): Omit<Manifest['frames'][0], 'fingerprint'> => ({
  frame,
  populations: populations.map((p) => ({
    id: p.id,
    particles: p.count,
    contents: volumes ? null : contentsHash(p),
  })),
  meshes: meshes.map((m) => ({ id: m.id, triangles: m.triangles.length / 3, contents: meshHash(m) })),
})

/** Returns the SHA-256 of each file by its name. */
export async function writeFiles(
  folder: string,
  files: AsyncIterable<ExportedFile> | ExportedFile[],
): Promise<Record<string, string>> {
  const sums: Record<string, string> = {}
  for await (const { name, pieces } of files) {
    const stream = createWriteStream(join(folder, name))
    const failed = once(stream, 'error').then(([error]) => {
      throw error as Error
    })
    failed.catch(() => undefined)
    const sum = createHash('sha256')
    for await (const piece of pieces) {
      sum.update(piece)
      if (!stream.write(piece)) await Promise.race([once(stream, 'drain'), failed])
    }
    stream.end()
    await Promise.race([once(stream, 'finish'), failed])
    sums[name] = sum.digest('hex')
  }
  return sums
}
