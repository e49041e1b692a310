import { DeriveFault, derivedFrom, readShot, readyFor, sourceKey, type Mesh, type Shot } from '@tangle/core'
import { demoAssets, demoShots } from '@tangle/demo'
import { readMesh } from '@tangle/formats'
import { addDerived, makeText, readMeshAside } from '@tangle/runtime/node'
import { createHash } from 'node:crypto'
import { readFile } from 'node:fs/promises'
import { dirname, resolve } from 'node:path'
import { InputFault } from './fault.ts'

export interface Loaded {
  shot: Shot
  meshes: Map<string, Mesh>
}

export const assetName = (bytes: Uint8Array): string =>
  `sha256:${createHash('sha256').update(bytes).digest('hex')}`

/** A shot with its meshes, from a file or from Heron Quay ("demo:beacon-to-dust"). */
export async function loadShot(source: string): Promise<Loaded> {
  const loaded = await (source.startsWith('demo:') ? loadDemo(source.slice(5)) : loadFile(source))
  await readyFor(loaded.shot)
  return loaded
}

async function loadDemo(slug: string): Promise<Loaded> {
  const assets = demoAssets().map((asset) => ({ ...asset, name: assetName(asset.bytes) }))
  const demos = demoShots((id) => assets.find((asset) => asset.id === id)!.name)
  const demo = demos.find((one) => one.slug === slug)
  if (!demo)
    throw new InputFault(`There is no demo "${slug}": the demos are ${demos.map((d) => d.slug).join(', ')}`)
  const meshes = new Map<string, Mesh>()
  for (const { source } of demo.shot.meshes) {
    if (derivedFrom(source)) continue
    if ('text' in source) {
      meshes.set(sourceKey(source, demo.shot), await makeText(source.text))
      continue
    }
    const asset = assets.find((one) => 'asset' in source && one.name === source.asset)!
    meshes.set(asset.name, await readMesh(asset.file, asset.bytes))
  }
  await addDerived(demo.shot, meshes)
  return { shot: demo.shot, meshes }
}

async function loadFile(path: string): Promise<Loaded> {
  const read = readShot(parse(path, await readText(path)))
  if (read.problems) {
    throw new InputFault(
      read.problems.map((p) => `${path}: ${p.path ? `${p.path} ` : ''}${p.message}`).join('\n'),
    )
  }
  const { shot } = read
  const meshes = new Map<string, Mesh>()
  for (const [i, mesh] of shot.meshes.entries()) {
    if (derivedFrom(mesh.source)) continue
    if ('text' in mesh.source) {
      const made = await makeText(mesh.source.text).catch((error: Error) => {
        throw new InputFault(`${path}: meshes[${i}].source.text: ${error.message}`)
      })
      meshes.set(sourceKey(mesh.source, shot), made)
      continue
    }
    if (!('file' in mesh.source)) {
      throw new InputFault(
        `${path}: meshes[${i}].source names a stored mesh; outside the application give {"file": "path"}, relative to the shot`,
      )
    }
    const file = resolve(dirname(path), mesh.source.file)
    const bytes = await readFile(file).catch((error: NodeJS.ErrnoException) => {
      throw new InputFault(`${path}: meshes[${i}].source.file: can't read ${file} (${error.code})`)
    })
    const asset = assetName(bytes)
    mesh.source = { asset }
    if (meshes.has(asset)) continue
    // what takes all memory or never ends does so in a process of its own
    const { fault } = await readMeshAside(file, bytes)
    if (fault !== undefined) throw new InputFault(`${file}: ${fault}`)
    meshes.set(asset, await readMesh(file, bytes))
  }
  await addDerived(shot, meshes).catch((error: Error) => {
    throw error instanceof DeriveFault ? new InputFault(`${path}: ${error.message}`) : error
  })
  return { shot, meshes }
}

async function readText(path: string): Promise<string> {
  return readFile(path, 'utf8').catch((error: NodeJS.ErrnoException) => {
    throw new InputFault(`${path}: can't be read (${error.code}): check the path`)
  })
}

function parse(path: string, text: string): unknown {
  try {
    return JSON.parse(text)
  } catch (error) {
    throw new InputFault(`${path}: is not JSON: ${(error as Error).message}`)
  }
}
