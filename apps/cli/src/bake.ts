import { createHash } from 'node:crypto'
import { rowsOf, type Measures, type PopulationEvents, type Shot } from '@tangle/core'
import {
  backward,
  codecReady,
  contentsHash,
  decodeFrame,
  encodeFrame,
  EXPORTS,
  meshHash,
  plainName,
  turnedRound,
  type ExportKind,
} from '@tangle/formats'
import { bake, createNodeMachine, defaultThreads } from '@tangle/runtime/node'
import { once } from 'node:events'
import { createWriteStream } from 'node:fs'
import { mkdir, mkdtemp, readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { InputFault, UsageFault } from './fault.ts'
import { loadShot } from './load.ts'

export interface BakeFlags {
  frames?: string
  out?: string
  format: string
  threads?: string
  share?: string
  json?: boolean
  backward?: boolean
  /** Tells the events of each frame, with --json. */
  events?: boolean
}

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
    populations: { id: string; particles: number; contents: string }[]
    meshes: { id: string; triangles: number; contents: string }[]
  }[]
}
export const MANIFEST = 'cache.json'

/** Computes frames of a shot and writes them, if told where. */
export async function bakeCommand(source: string, flags: BakeFlags): Promise<void> {
  const kind = EXPORTS.find((one) => one.kind === flags.format)
  if (!kind)
    throw new UsageFault(
      `--format must be one of ${EXPORTS.map((one) => one.kind).join(', ')}, not "${flags.format}"`,
    )
  const threads =
    flags.threads === undefined ? defaultThreads() : wholeNumber('--threads', flags.threads, 1, 16)
  const share = flags.share === undefined ? 1 : Number(flags.share)
  if (!(share > 0 && share <= 1))
    throw new UsageFault(`--share must be above 0 and at most 1, not "${flags.share}"`)
  const { shot, meshes } = await loadShot(source)
  const { first, last } = frameRange(flags.frames, shot)
  const folder = flags.out
  const store = folder === undefined ? null : await openStore(folder)
  await codecReady()
  const machine = createNodeMachine(threads)
  const manifest: Manifest = {
    format: 'tangle-cache',
    version: 1,
    shot: shot.name,
    kind: kind.kind,
    files: [],
    sums: {},
    frames: [],
  }
  const totals = { frames: 0, particles: 0, milliseconds: 0 }
  try {
    for (const { populations, meshes: eaten, events, ...facts } of bake(machine, shot, meshes, {
      first,
      last,
      share,
    })) {
      if (store) {
        await store.put(facts.frame, encodeFrame(facts.frame, populations, eaten))
        const cached = { frame: facts.frame, populations, meshes: eaten }
        const written = flags.backward ? turnedRound(cached, first + last - facts.frame) : cached
        manifest.frames.push({
          frame: written.frame,
          fingerprint: facts.fingerprint,
          populations: written.populations.map((p) => ({
            id: p.id,
            particles: p.count,
            contents: contentsHash(p),
          })),
          meshes: written.meshes.map((m) => ({
            id: m.id,
            triangles: m.triangles.length / 3,
            contents: meshHash(m),
          })),
        })
      }
      totals.frames++
      totals.particles = facts.particles
      totals.milliseconds += facts.milliseconds
      report(flags, flags.events ? { ...facts, events: events().map(rowsIn) } : facts)
    }
    if (store && folder !== undefined) {
      manifest.frames.sort((a, b) => a.frame - b.frame)
      const frames = { first, last, read: async (f: number) => decodeFrame(await store.get(f)) }
      manifest.sums = await writeFiles(
        folder,
        kind.files(shot, flags.backward ? backward(frames) : frames, meshes),
      )
      manifest.files = Object.keys(manifest.sums)
      await writeFile(join(folder, MANIFEST), `${JSON.stringify(manifest, null, 1)}\n`)
    }
  } finally {
    machine.dispose()
    await store?.close()
  }
  const total = {
    ...totals,
    milliseconds: Math.round(totals.milliseconds),
    threads,
    files: manifest.files.length,
  }
  if (flags.json) print({ total })
  else
    console.log(
      `${totals.frames} frames in ${total.milliseconds} ms${folder === undefined ? '' : `, ${total.files} files in ${folder}`}`,
    )
}

function report(
  flags: BakeFlags,
  facts: {
    frame: number
    particles: number
    milliseconds: number
    fingerprint: string
    measures: Measures
    events?: unknown
  },
): void {
  if (flags.json) print(facts)
  else
    console.log(
      `frame ${facts.frame}: ${facts.particles} particles, ${facts.milliseconds} ms, ${facts.fingerprint}`,
    )
}
/** The events of a population as rows. */
const rowsIn = ({ id, ...table }: PopulationEvents) => ({ id, counts: table.counts, rows: rowsOf(table) })

const print = (value: unknown): void => console.log(JSON.stringify(value))

/** "1-48", or one frame, or all of the shot. */
function frameRange(text: string | undefined, shot: Shot): { first: number; last: number } {
  const { first, last } = shot.frames
  if (text === undefined) return { first, last }
  const found = /^(-?\d+)(?:-(-?\d+))?$/.exec(text)
  if (!found) throw new UsageFault(`--frames must look like 1-48, not "${text}"`)
  const from = Number(found[1])
  const to = Number(found[2] ?? found[1])
  if (to < from) throw new UsageFault(`--frames ${text}: the last is before the first`)
  if (from < first || to > last)
    throw new InputFault(`--frames ${text} is outside the shot, which has frames ${first} to ${last}`)
  return { first: from, last: to }
}

function wholeNumber(name: string, text: string, low: number, high: number): number {
  const value = Number(text)
  if (!Number.isInteger(value) || value < low || value > high)
    throw new UsageFault(`${name} must be a whole number from ${low} to ${high}, not "${text}"`)
  return value
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

/** Returns the SHA-256 of each file by its name. */
async function writeFiles(
  folder: string,
  files: ReturnType<ExportKind['files']>,
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

/** Reads a written cache back and compares it with what was meant to be in it. */
export async function verifyCommand(folder: string, flags: { json?: boolean }): Promise<void> {
  const path = join(folder, MANIFEST)
  const text = await readFile(path, 'utf8').catch(() => {
    throw new InputFault(`${path} is missing: "${folder}" is not a folder that bake has written to the end`)
  })
  const manifest = parseManifest(path, text)
  const kind = EXPORTS.find((one) => one.kind === manifest.kind)
  if (!kind) throw new InputFault(`${path}: the format "${manifest.kind}" is not known`)
  const found = new Map<string, { count: number; contents: string }>()
  try {
    for await (const { frame, populations, meshes } of kind.readBack(
      (name) => readFile(join(folder, name)),
      manifest.files,
    )) {
      for (const p of populations)
        found.set(`${frame}:${plainName(p.id)}`, { count: p.count, contents: contentsHash(p) })
      for (const m of meshes) {
        const mesh = { count: m.triangles.length / 3, contents: meshHash(m) }
        found.set(`${frame}:mesh ${plainName(m.id)}`, mesh)
      }
    }
  } catch (error) {
    throw new InputFault(`${folder}: ${(error as Error).message}`)
  }
  const faults: string[] = []
  const compare = (key: string, title: string, count: number, unit: string, contents: string): void => {
    const is = found.get(key)
    if (!is) faults.push(`${title}: is missing`)
    else if (is.count !== count) faults.push(`${title}: has ${is.count} ${unit}, should have ${count}`)
    else if (is.contents !== contents) faults.push(`${title}: the values differ from what was computed`)
  }
  for (const { frame, populations, meshes = [] } of manifest.frames) {
    for (const { id, particles, contents } of populations)
      compare(`${frame}:${plainName(id)}`, `frame ${frame}, ${id}`, particles, 'particles', contents)
    for (const { id, triangles, contents } of meshes)
      compare(
        `${frame}:mesh ${plainName(id)}`,
        `frame ${frame}, mesh ${id}`,
        triangles,
        'triangles',
        contents,
      )
  }
  for (const [name, sum] of faults.length === 0 ? Object.entries(manifest.sums ?? {}) : []) {
    const bytes = await readFile(join(folder, name)).catch(() => null)
    if (!bytes) faults.push(`${name}: is missing`)
    else if (createHash('sha256').update(bytes).digest('hex') !== sum)
      faults.push(`${name}: differs from what was written`)
  }
  const particles = manifest.frames.reduce(
    (sum, f) => sum + f.populations.reduce((all, p) => all + p.particles, 0),
    0,
  )
  if (flags.json) print({ ok: faults.length === 0, frames: manifest.frames.length, particles, faults })
  if (faults.length > 0) throw new InputFault(faults.join('\n'))
  if (!flags.json) console.log(`${manifest.frames.length} frames, ${particles} particles: all as computed`)
}

function parseManifest(path: string, text: string): Manifest {
  try {
    const manifest = JSON.parse(text) as Manifest
    if (manifest.format === 'tangle-cache' && Array.isArray(manifest.frames) && Array.isArray(manifest.files))
      return manifest
  } catch {
    // told below
  }
  throw new InputFault(`${path}: is broken; bake again`)
}
