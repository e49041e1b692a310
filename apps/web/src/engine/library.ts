import { completeMesh, derivedFrom, sourceKey, type Mesh, type MeshSource, type Shot } from '@tangle/core'
import { FONTS } from './fonts.ts'
import { makeDerivedAside, makeTextAside, readMeshAside, type ReadMesh } from '@tangle/runtime/browser'

export type LoadedMesh = ReadMesh

/** Before one is open, what meshes are made of others is not known. */
export const NO_SHOT = {
  meshes: [],
  masks: [],
  combings: [],
  cameras: [],
  seed: 0,
  frames: { first: 1, last: 1, rate: 24 },
} as unknown as Shot

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
  /** What is being made, by its key: what share is done, and how to stop it. */
  const making = new Map<string, { share: number; stop(): void }>()

  function add(key: string, loaded: LoadedMesh): void {
    meshes.set(key, loaded)
    onChange()
  }
  function load(source: MeshSource, shot: Shot): Promise<LoadedMesh> {
    const key = sourceKey(source, shot)
    const known = meshes.get(key)
    if (known instanceof Error) return Promise.reject(known)
    if (known) return Promise.resolve(known)
    const loading = derivedFrom(source)
      ? derived(source, shot)
      : 'text' in source
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
  /** Makes a mesh of another once that is here, and whatever else its masks may read. */
  async function derived(source: MeshSource, shot: Shot): Promise<LoadedMesh> {
    const key = sourceKey(source, shot)
    const { mesh: parent, mask } = derivedFrom(source)! // who calls has seen that it is
    const needed = shot.meshes.filter(
      ({ id, source: other }) => id === parent || (mask !== undefined && !derivedFrom(other)),
    )
    const loaded = await Promise.all(needed.map(async (one) => [sourceKey(one.source, shot), (await load(one.source, shot)).mesh] as const)) // prettier-ignore
    // whoever asks may be ahead of the shot: what is wanted is put into it
    const wanted = completeMesh({ id: ' wanted', source })
    const only = { ...shot, meshes: [...shot.meshes.filter((one) => !derivedFrom(one.source) || needed.includes(one)), wanted] } // prettier-ignore
    let found: LoadedMesh | undefined
    const { done, stop } = makeDerivedAside(
      { shot: only, meshes: new Map(loaded) },
      (made) => {
        if (made.key === key) found = made
      },
      (share) => {
        making.get(key)!.share = share
        onChange()
      },
    )
    making.set(key, { share: 0, stop })
    await done.finally(() => making.delete(key))
    if (!found) throw new Error('It can’t be made: the mesh that it is made of is not in the shot')
    return found
  }
  function get(source: MeshSource, shot: Shot): LoadedMesh | undefined {
    const known = meshes.get(sourceKey(source, shot))
    if (known === undefined) void load(source, shot).catch(() => undefined)
    return known && 'mesh' in known ? known : undefined
  }

  return {
    add,
    get,
    load,
    fault(source: MeshSource, shot: Shot): string | null {
      const known = meshes.get(sourceKey(source, shot))
      return known instanceof Error ? known.message : null
    },
    /** What share of a mesh has been made, and how to stop that; null where it is not being made. */
    making: (source: MeshSource, shot: Shot) => making.get(sourceKey(source, shot)) ?? null,
    /** Forgets why a mesh could not be made, so that it is tried again. */
    retry(source: MeshSource, shot: Shot): void {
      if (meshes.get(sourceKey(source, shot)) instanceof Error) meshes.delete(sourceKey(source, shot))
      onChange()
    },
    /** Resolves when every mesh of a shot is here or has failed. */
    loadAll: (shot: Shot): Promise<unknown> =>
      Promise.all(shot.meshes.map(({ source }) => load(source, shot).catch(() => undefined))),
    /** Meshes of a shot that are here, by the key of their source. */
    meshesOf(shot: Shot): Map<string, Mesh> {
      const found = new Map<string, Mesh>()
      for (const { source } of shot.meshes) {
        const loaded = get(source, shot)
        if (loaded) found.set(sourceKey(source, shot), loaded.mesh)
      }
      return found
    },
  }
}
