import { meshFacts, sourceKey, type Mesh, type Shot } from '@tangle/core'
import { readMesh } from '@tangle/formats'
import { addDerived, makeText, readMeshAside, type ReadAnswer } from '@tangle/runtime/node'
import { createHash } from 'node:crypto'
import type { DataSource } from 'typeorm'
import { HttpFault, notFound } from '../fault.ts'
import { partsOf, readBytes } from './copy.ts'
import { MeshEntity, type MeshRow } from './entities.ts'

/** Files are read two at a time: each may take much memory. Who comes later waits. */
const reading: Promise<unknown>[] = [Promise.resolve(), Promise.resolve()]
let turn = 0
function twoAtOnce<T>(work: () => Promise<T>): Promise<T> {
  const lane = turn++ % reading.length
  const done = reading[lane]!.then(work)
  reading[lane] = done.catch(() => undefined)
  return done
}

/**
 * Stores a mesh file by the SHA-256 of its bytes, after reading it to the end. A file that is here
 * already is not stored again. A file that can't be read is refused and leaves nothing behind.
 */
export async function storeMesh(
  source: DataSource,
  file: string,
  bytes: Buffer,
  sample?: string,
): Promise<MeshRow> {
  const sha = createHash('sha256').update(bytes).digest('hex')
  const repository = source.getRepository(MeshEntity)
  const known = await repository.findOneBy({ sha })
  if (known) return known
  // what we made ourselves harms nobody
  const { facts, fault } = sample === undefined ? await twoAtOnce(() => readMeshAside(file, bytes)) : await factsOf(file, bytes) // prettier-ignore
  if (fault !== undefined) throw new HttpFault(422, 'mesh', `${file} — ${fault}`)
  const name = sample ?? file.replace(/\.[^.]*$/, '')
  await source.transaction(async (manager) => {
    // whoever was sent the same file at the same moment has stored it, or waits here until it is
    const row = { sha, name, file, bytes: bytes.length, facts, sample: sample !== undefined }
    const { raw } = await manager
      .createQueryBuilder()
      .insert()
      .into(MeshEntity)
      .values(row)
      .orIgnore()
      .returning('sha')
      .execute()
    if ((raw as unknown[]).length === 0) return
    for (const [part, piece] of partsOf(bytes)) {
      await manager.query('INSERT INTO mesh_part (sha, part, bytes) VALUES ($1, $2, $3)', [sha, part, piece])
    }
  })
  return repository.findOneByOrFail({ sha })
}

const factsOf = async (file: string, bytes: Buffer): Promise<ReadAnswer> => ({
  facts: meshFacts(await readMesh(file, bytes)),
})

export async function meshFile(source: DataSource, sha: string): Promise<{ row: MeshRow; bytes: Buffer }> {
  const row = /^[0-9a-f]{64}$/.test(sha) ? await source.getRepository(MeshEntity).findOneBy({ sha }) : null
  if (!row) throw notFound('mesh')
  const bytes = await readBytes(source, `SELECT bytes FROM mesh_part WHERE sha = '${row.sha}' ORDER BY part`)
  return { row, bytes }
}

/** The meshes that a shot names, read or made, by `sourceKey`. */
export async function loadMeshes(source: DataSource, shot: Shot): Promise<Map<string, Mesh>> {
  const meshes = new Map<string, Mesh>()
  for (const { source: from } of shot.meshes) {
    if ('text' in from) meshes.set(sourceKey(from, shot), await makeText(from.text))
    if (!('asset' in from) || meshes.has(from.asset)) continue
    const { asset } = from
    const { row, bytes } = await meshFile(source, asset.replace('sha256:', ''))
    meshes.set(asset, await readMesh(row.file, bytes))
  }
  await addDerived(shot, meshes)
  return meshes
}
