/** Frames that are computed, written for a renderer: kept on disk first, without loss, as formats read them more than once. */
import type { Mesh, PopulationEvents, Shot } from '@tangle/core'
import {
  encodeFrame,
  eventFile,
  frameChain,
  type CachedFrame,
  type Decoded,
  type EventFormat,
  type ExportChoices,
  type ExportKind,
} from '@tangle/formats'
import { writeFiles, writeTake } from '@tangle/runtime/node'
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { InputFault } from './fault.ts'

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

export async function createCache(folder: string, options: CacheOptions): Promise<Cache> {
  const { kind, shot, choices } = options
  const store = await openStore(folder)
  let before: Decoded | null = null
  const fingerprints = new Map<number, string>()
  const beside: Record<string, string> = {}
  return {
    async add(cached, fingerprint, events = []) {
      const { bytes, decoded } = encodeFrame(cached, { rate: shot.frames.rate, before })
      before = decoded
      await store.put(cached.frame, bytes)
      fingerprints.set(cached.frame, fingerprint)
      const later = choices.number - choices.first
      const told = events.map(({ id, ...table }) => {
        const population = shot.populations.find((one) => one.id === id)!
        return eventFile(kind.kind as EventFormat, population, table, cached.frame, later, choices)
      })
      Object.assign(beside, await writeFiles(folder, told))
    },
    async finish() {
      const frames = { first: choices.first, last: choices.last, read: frameChain(store.get) }
      return (await writeTake(folder, { ...options, frames, fingerprints, beside })).length
    },
    close: store.close,
  }
}

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
