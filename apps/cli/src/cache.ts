/** Frames written for a renderer, with a manifest beside them that says what is in them. */
import { createHash } from 'node:crypto'
import type { Mesh, PopulationEvents, Shot } from '@tangle/core'
import {
  contentsHash,
  eventFile,
  encodeFrame,
  filesOf,
  frameChain,
  framesChosen,
  meshHash,
  type CachedFrame,
  type Decoded,
  type ExportChoices,
  type EventFormat,
  type ExportedFile,
  type ExportKind,
} from '@tangle/formats'
import { once } from 'node:events'
import { createWriteStream } from 'node:fs'
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { InputFault } from './fault.ts'

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

interface CacheOptions {
  kind: ExportKind
  shot: Shot
  meshes: Map<string, Mesh>
  choices: ExportChoices
}

export interface Cache {
  /** `events` are written where they are given. */
  add(frame: CachedFrame, fingerprint: string, events?: PopulationEvents[]): Promise<void>
  /** Writes the files and the manifest; returns how many files there are. */
  finish(): Promise<number>
  close(): Promise<void>
}

/** Frames go to disk first, without loss: formats read them more than once. */
export async function createCache(folder: string, options: CacheOptions): Promise<Cache> {
  const { kind, shot, meshes, choices } = options
  const store = await openStore(folder)
  const manifest: Manifest = {
    format: 'tangle-cache',
    version: 1,
    shot: shot.name,
    kind: kind.kind,
    files: [],
    sums: {},
    frames: [],
  }
  let before: Decoded | null = null
  const fingerprints: string[] = []
  const eventSums: Record<string, string> = {}
  return {
    async add(cached, fingerprint, events = []) {
      const { bytes, decoded } = encodeFrame(cached, { rate: shot.frames.rate, before })
      before = decoded
      await store.put(cached.frame, bytes)
      fingerprints.push(fingerprint)
      const later = choices.number - choices.first
      const told = events.map(({ id, ...table }) => {
        const population = shot.populations.find((one) => one.id === id)!
        return eventFile(kind.kind as EventFormat, population, table, cached.frame, later, choices)
      })
      Object.assign(eventSums, await writeFiles(folder, told))
    },
    async finish() {
      const frames = { first: choices.first, last: choices.last, read: frameChain(store.get) }
      const chosen = framesChosen(frames, choices, { shot, meshes, kind })
      if (choices.backward) fingerprints.reverse()
      for (const [k, fingerprint] of fingerprints.entries())
        manifest.frames.push({ ...contentsOf(kind, await chosen.read(chosen.first + k)), fingerprint })
      const files = filesOf(kind, shot, frames, meshes, choices)
      const sums = await writeFiles(folder, files)
      // events are beside what `verify` reads back; their sums tell
      manifest.files = Object.keys(sums)
      manifest.sums = { ...sums, ...eventSums }
      await writeFile(join(folder, MANIFEST), `${JSON.stringify(manifest, null, 1)}\n`)
      return Object.keys(manifest.sums).length
    },
    close: store.close,
  }
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

/** Frames on disk while a format that needs them more than once is written. */
async function openStore(folder: string) {
  await mkdir(folder, { recursive: true }).catch((error: NodeJS.ErrnoException) => {
    throw new InputFault(`${folder}: can't be made (${error.code}): choose another folder with --out`)
  })
  const place = await mkdtemp(join(folder, '.frames-'))
  const file = (frame: number): string => join(place, String(frame))
  return {
    put: (frame: number, bytes: Uint8Array) => writeFile(file(frame), bytes),
    get: (frame: number) => readFile(file(frame)),
    close: () => rm(place, { recursive: true, force: true }),
  }
}

/** Returns the SHA-256 of each file by its name. */
async function writeFiles(
  folder: string,
  files: ReturnType<ExportKind['files']> | ExportedFile[],
): Promise<Record<string, string>> {
  const sums: Record<string, string> = {}
  for await (const { name, pieces } of files) {
    const stream = createWriteStream(join(folder, name))
    const sum = createHash('sha256')
    for await (const piece of pieces) {
      sum.update(piece)
      if (!stream.write(piece)) await once(stream, 'drain')
    }
    stream.end()
    await once(stream, 'finish')
    sums[name] = sum.digest('hex')
  }
  return sums
}
