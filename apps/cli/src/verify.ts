/** Whether a written cache holds what was computed. */
import { createHash } from 'node:crypto'
import { contentsHash, EXPORTS, meshHash } from '@tangle/formats'
import { MANIFEST, type Manifest } from '@tangle/runtime/node'
import { readFile } from 'node:fs/promises'
import { join } from 'node:path'
import { InputFault } from './fault.ts'

/** What a written file has of a population or a mesh at a frame. */
interface Found {
  count: number
  contents: string
}

/** Reads a written cache back and compares it with what was meant to be in it. */
export async function verifyCommand(folder: string, flags: { json?: boolean }): Promise<void> {
  const manifest = await readManifest(folder)
  const found = await readBack(folder, manifest)
  const faults = differences(manifest, found)
  if (faults.length === 0) faults.push(...(await changedFiles(folder, manifest)))
  const particles = manifest.frames
    .flatMap(({ populations }) => populations)
    .reduce((sum, p) => sum + p.particles, 0)
  const frames = manifest.frames.length
  if (flags.json) console.log(JSON.stringify({ ok: faults.length === 0, frames, particles, faults }))
  if (faults.length > 0) throw new InputFault(faults.join('\n'))
  if (!flags.json) console.log(`${frames} frames, ${particles} particles: all as computed`)
}

async function readManifest(folder: string): Promise<Manifest> {
  const path = join(folder, MANIFEST)
  const text = await readFile(path, 'utf8').catch(() => {
    throw new InputFault(`${path} is missing: "${folder}" is not a folder that bake has written to the end`)
  })
  try {
    const manifest = JSON.parse(text) as Manifest
    if (manifest.format === 'tangle-cache' && Array.isArray(manifest.frames) && Array.isArray(manifest.files))
      return manifest
  } catch {
    // told below
  }
  throw new InputFault(`${path}: is broken; bake again`)
}

const keyOf = (frame: number, id: string): string => `${frame}:${id}`
const meshKeyOf = (frame: number, id: string): string => `${frame}:mesh ${id}`

async function readBack(folder: string, manifest: Manifest): Promise<Map<string, Found>> {
  const kind = EXPORTS.find((one) => one.kind === manifest.kind)
  if (!kind) throw new InputFault(`${join(folder, MANIFEST)}: the format "${manifest.kind}" is not known`)
  const found = new Map<string, Found>()
  try {
    const frames = kind.readBack((name) => readFile(join(folder, name)), manifest.files)
    for await (const { frame, populations, meshes } of frames) {
      for (const p of populations)
        found.set(keyOf(frame, p.id), { count: p.count, contents: contentsHash(p) })
      for (const m of meshes)
        found.set(meshKeyOf(frame, m.id), { count: m.triangles.length / 3, contents: meshHash(m) })
    }
  } catch (error) {
    throw new InputFault(`${folder}: ${(error as Error).message}`)
  }
  return found
}

function differences({ frames }: Manifest, found: Map<string, Found>): string[] {
  const compare = (key: string, title: string, unit: string, { count, contents }: Found): string[] => {
    const is = found.get(key)
    if (!is) return [`${title}: is missing`]
    if (is.count !== count) return [`${title}: has ${is.count} ${unit}, should have ${count}`]
    return is.contents === contents ? [] : [`${title}: the values differ from what was computed`]
  }
  return frames.flatMap(({ frame, populations, meshes = [] }) => [
    ...populations.flatMap(({ id, particles, contents }) =>
      // in a volume particles are not told apart: its file is looked at as a whole
      contents === null
        ? []
        : compare(keyOf(frame, id), `frame ${frame}, ${id}`, 'particles', { count: particles, contents }),
    ),
    ...meshes.flatMap(({ id, triangles, contents }) =>
      compare(meshKeyOf(frame, id), `frame ${frame}, mesh ${id}`, 'triangles', {
        count: triangles,
        contents,
      }),
    ),
  ])
}

/** Files whose bytes are not those that were written. */
async function changedFiles(folder: string, { sums = {} }: Manifest): Promise<string[]> {
  const faults: string[] = []
  for (const [name, sum] of Object.entries(sums)) {
    const bytes = await readFile(join(folder, name)).catch(() => null)
    if (!bytes) faults.push(`${name}: is missing`)
    else if (createHash('sha256').update(bytes).digest('hex') !== sum)
      faults.push(`${name}: differs from what was written`)
  }
  return faults
}
