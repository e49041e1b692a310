import { sourceKey, type Mesh, type MeshFacts, type MeshSource, type Shot } from '@tangle/core'
import { FONTS } from './fonts.ts'
import { makeTextAside, readMeshAside } from '@tangle/runtime/browser'

export interface LoadedMesh {
  mesh: Mesh
  facts: MeshFacts
}

async function fontOf(weight: number): Promise<ArrayBuffer> {
  const name = Object.keys(FONTS).find((one) => one.includes(`-${Math.round(weight / 100) * 100}-`))
  return (await fetch(FONTS[name!]!)).arrayBuffer()
}

async function fetchMesh(asset: string): Promise<LoadedMesh> {
  const response = await fetch(`/api/meshes/${asset.replace('sha256:', '')}`)
  if (!response.ok) throw new Error('A mesh of this shot is not stored any more: add its file again')
  const name =
    /filename\*=UTF-8''(.+)$/.exec(response.headers.get('content-disposition') ?? '')?.[1] ?? 'mesh.obj'
  return readMeshAside(decodeURIComponent(name), new Uint8Array(await response.arrayBuffer()))
}

/** The meshes that shots name, loaded or made when they are first asked for. `onChange` hears of each. */
export function createLibrary(onChange: () => void) {
  const meshes = new Map<string, LoadedMesh | Promise<LoadedMesh> | Error>()

  function add(key: string, loaded: LoadedMesh): void {
    meshes.set(key, loaded)
    onChange()
  }
  function load(source: MeshSource): Promise<LoadedMesh> {
    const key = sourceKey(source)
    const known = meshes.get(key)
    if (known instanceof Error) return Promise.reject(known)
    if (known) return Promise.resolve(known)
    const loading =
      'text' in source
        ? fontOf(source.text.weight).then((font) => makeTextAside(source.text, font))
        : fetchMesh(key)
    meshes.set(key, loading)
    loading.then(
      (loaded) => add(key, loaded),
      (error: Error) => {
        meshes.set(key, error)
        onChange()
      },
    )
    return loading
  }
  function get(source: MeshSource): LoadedMesh | undefined {
    const known = meshes.get(sourceKey(source))
    if (known === undefined) void load(source).catch(() => undefined)
    return known && 'mesh' in known ? known : undefined
  }

  return {
    add,
    get,
    fault(source: MeshSource): string | null {
      const known = meshes.get(sourceKey(source))
      return known instanceof Error ? known.message : null
    },
    /** Resolves when every mesh of a shot is here or has failed. */
    loadAll: (shot: Shot): Promise<unknown> =>
      Promise.all(shot.meshes.map(({ source }) => load(source).catch(() => undefined))),
    /** Meshes of a shot that are here, by the key of their source. */
    meshesOf(shot: Shot): Map<string, Mesh> {
      const found = new Map<string, Mesh>()
      for (const { source } of shot.meshes) {
        const loaded = get(source)
        if (loaded) found.set(sourceKey(source), loaded.mesh)
      }
      return found
    },
  }
}
