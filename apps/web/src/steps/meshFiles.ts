import {
  completeMesh,
  defaultsOf,
  FRACTURE,
  SHELL,
  TEXT,
  vectorAt,
  type FractureSource,
  type MeshLook,
  type MeshSource,
  type ShellSource,
  type ShotMesh,
  type TextSource,
  freshId,
  freshName,
} from '@tangle/core'
import { packSequence, sequencesAmong } from '@tangle/formats'
import { readMeshAside } from '@tangle/runtime/browser'
import { engine } from '../engine/engine.ts'
import { stage } from '../stage/Stage.tsx'
import { api, faultOf, type StoredMesh } from '../store/api.ts'
import { store } from '../store/index.ts'
import { noticed, selected } from '../store/session.ts'
import { inserted } from '../store/shot.ts'

/** Files that are read at once, each in a worker of its own. */
const AT_ONCE = 4

/**
 * Reads dropped files side by side, stores those that can be read and puts them into the shot one by one; a file for each frame
 * makes a mesh that moves. What can't be read is told in the end, file by file.
 */
export async function addFiles(files: Iterable<File>, refused: string[] = []): Promise<void> {
  const all = await inSequences([...files])
  const faults = [...refused]
  // in the order in which they were given, whichever is read first
  for (const [n, stored] of sideBySide(all, storeFile).entries()) {
    const { name } = all[n]!
    const text = all.length === 1 ? `Reading ${name}…` : `Reading ${all.length} files, ${n} are there…`
    store.dispatch(noticed({ text, tone: 'info' }))
    try {
      addStored(await stored)
    } catch (error) {
      faults.push(faultOfFile(all[n]!, error))
    }
  }
  store.dispatch(noticed(faults.length > 0 ? { text: faults.join('\n'), tone: 'error' } : null))
}

/** Starts work on all, a few at once; one that fails holds up nobody. */
function sideBySide<T, R>(all: T[], work: (one: T) => Promise<R>): Promise<R>[] {
  const lanes = Array.from({ length: AT_ONCE }, (): Promise<unknown> => Promise.resolve())
  return all.map((one, n) => {
    const done = lanes[n % AT_ONCE]!.then(() => work(one))
    lanes[n % AT_ONCE] = done.catch(() => undefined)
    return done
  })
}

/** Takes what was dropped on the page; folders are refused in words. */
export function addDropped({ files, items }: DataTransfer): Promise<void> {
  const folders = [...items].flatMap((item) => {
    const entry = item.webkitGetAsEntry?.()
    return entry?.isDirectory ? [entry.name] : []
  })
  return addFiles(
    [...files].filter(({ name }) => !folders.includes(name)),
    folders.map((name) => `${name} is a folder: drop the files that are in it`),
  )
}

/** Reads a file of a mesh, and stores it if it can be read. */
export async function storeFile(file: File): Promise<StoredMesh> {
  const loaded = await readMeshAside(file.name, new Uint8Array(await file.arrayBuffer()))
  const stored = await store.dispatch(api.endpoints.uploadMesh.initiate({ name: file.name, bytes: file }))
  if (stored.error) throw new Error(faultOf(stored.error))
  engine.addMesh(stored.data.asset, loaded)
  return { ...stored.data, name: nameOf(file) }
}

/** Why a file was not taken, with its name. */
export function faultOfFile(file: File, error: unknown): string {
  const { message } = error as Error
  return message.includes(file.name) ? message : `${file.name} — ${message}`
}

/** Files, and a ZIP for those of each sequence. */
export async function inSequences(files: File[]): Promise<File[]> {
  const byName = new Map(files.map((file) => [file.name, file]))
  const groups = sequencesAmong([...byName.keys()])
  return Promise.all(
    groups.map(async (names) => {
      const own = names.map((name) => byName.get(name)!)
      if (own.length === 1) return own[0]!
      const read = own.map(async (file) => ({
        name: file.name,
        bytes: new Uint8Array(await file.arrayBuffer()),
      }))
      const stem = names[0]!.replace(/[-._ ]*\d+\.\w+$/, '') || 'sequence'
      return new File([packSequence(await Promise.all(read)) as Uint8Array<ArrayBuffer>], `${stem}.zip`)
    }),
  )
}

/** What a file is called, without its ending where something is left. */
const nameOf = ({ name }: File): string => /^(.+)\.[^.]*$/.exec(name)?.[1] ?? name

/** Puts a stored mesh into the shot and selects it. */
export const addStored = (stored: StoredMesh): void => addMesh(stored.name, { asset: stored.asset })

/** Puts lettering into the shot. */
export const addText = (): void => addMesh('Lettering', lettering())

/** What lettering is made of. */
export const lettering = (text?: string): MeshSource => ({
  text: { ...(defaultsOf(TEXT) as unknown as TextSource), ...(text !== undefined && { text }) },
})

/** Breaks a mesh into pieces: a mesh made of it, which is looked at in its place. */
export const breakMesh = (mesh: ShotMesh): void =>
  addMesh(`${mesh.name} in pieces`, { fracture: { ...(defaultsOf(FRACTURE) as unknown as FractureSource), mesh: mesh.id } }, mesh.look, false) // prettier-ignore

/** Lays a shell around a mesh. Its gap and thickness follow from the size of the mesh. */
export function addShell(mesh: ShotMesh): void {
  const facts = engine.meshOf(mesh.source)?.facts
  const scale = vectorAt(mesh.place.scale, store.getState().shot.present.frames.first)
  const size = facts ? Math.max(...facts.high.map((x, k) => (x - facts.low[k]!) * Math.abs(scale[k]!))) : 1
  const part = (share: number): number => Number((size * share).toPrecision(1))
  const shell = {
    ...(defaultsOf(SHELL) as unknown as ShellSource),
    mesh: mesh.id,
    gap: part(0.005),
    thickness: part(0.03),
  }
  addMesh(`Shell of ${mesh.name}`, { shell }, mesh.look)
}

/** What a file says of its colours is shown. */
function lookInFile(source: MeshSource): Partial<MeshLook> {
  const found = engine.meshOf(source)
  if (found?.materials?.length) return { colours: 'materials' }
  return found?.facts.data.includes('colour') ? { colours: 'vertices' } : {}
}

/** A mesh beside others, with a name and an id of its own. */
export function newMesh(wanted: string, source: MeshSource, others: ShotMesh[]): ShotMesh {
  const name = freshName(
    wanted,
    others.map((mesh) => mesh.name),
  )
  const id = freshId(
    name,
    others.map((mesh) => mesh.id),
  )
  return completeMesh({ id, name, source, look: lookInFile(source) })
}

/** @param look of what it is made of */
function addMesh(wanted: string, source: MeshSource, look?: MeshLook, visible = true): void {
  const { meshes } = store.getState().shot.present
  const mesh = { ...newMesh(wanted, source, meshes), visible, ...(look && { look }) }
  store.dispatch(inserted({ path: ['meshes'], value: mesh }))
  store.dispatch(selected({ mesh: mesh.id }))
  // the first mesh sets the scale of the shot: a bell or a lighthouse
  if (meshes.length === 0) stage.world?.frameNew(mesh.id)
}
