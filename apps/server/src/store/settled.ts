/** What has settled before the first frame of a shot: computed by its first take, and used by those that follow. */
import type { Shot } from '@tangle/core'
import { engineHash } from '@tangle/runtime/node'
import { createHash } from 'node:crypto'
import type { DataSource } from 'typeorm'
import { partsOf, readBytes } from './copy.ts'

/** SHA-256 of what the settled state depends on: the program and the shot, but for its name, its end, its light and what meshes look like. */
async function keyOf({ name: _, frames, stage, cameras: __, ...shot }: Shot): Promise<string> {
  const meshes = shot.meshes.map(({ look: ___, ...mesh }) => mesh)
  const depends = [await engineHash(), frames.first, frames.rate, stage.camera, { ...shot, meshes }]
  return createHash('sha256').update(JSON.stringify(depends)).digest('hex')
}

/** What has settled for a shot, if an earlier take has kept it; the take is told whether. `keep` keeps it for those to come. */
export async function settledOf(
  source: DataSource,
  take: { id: string; shotId: string; document: Shot },
): Promise<{ known: Uint8Array | null; keep: (bytes: Uint8Array) => Promise<void> }> {
  const { id, shotId, document } = take
  if (document.quality.settle === 0) return { known: null, keep: () => Promise.resolve() }
  const key = await keyOf(document)
  const bytes = await readBytes(
    source,
    `SELECT bytes FROM settled_part WHERE shot_id = '${shotId}' AND key = '${key}' ORDER BY part`,
  )
  const known = bytes.length > 0 ? bytes : null
  await source.query('UPDATE take SET settled = $2 WHERE id = $1', [id, known ? 'stored' : 'computed'])
  return { known, keep: (made) => keep(source, shotId, key, Buffer.from(made)) }
}

/** Keeps a state whole or not at all; those that the shot had before are of no more use. */
async function keep(source: DataSource, shotId: string, key: string, bytes: Buffer): Promise<void> {
  await source.transaction(async (manager) => {
    await manager.query('DELETE FROM settled_part WHERE shot_id = $1', [shotId])
    for (const [part, piece] of partsOf(bytes)) {
      // another worker may have settled the same meanwhile, to the same bytes
      await manager.query(
        'INSERT INTO settled_part (shot_id, key, part, bytes) VALUES ($1, $2, $3, $4) ON CONFLICT DO NOTHING',
        [shotId, key, part, piece],
      )
    }
  })
}
