/** States of takes that are under way: a worker that takes one over goes on from there. */
import type { Shot } from '@tangle/core'
import { engineHash } from '@tangle/runtime/node'
import { createHash } from 'node:crypto'
import type { DataSource, EntityManager } from 'typeorm'
import { partsOf, readBytes } from './copy.ts'
import { lockOurs } from './frames.ts'

export interface Checkpoint {
  /** The frame whose state it is; the next one is computed from it. */
  frame: number
  bytes: Uint8Array
}

/** SHA-256 of the program and the document: a state of other ones is of no use. */
export async function checkpointKey(document: Shot): Promise<string> {
  return createHash('sha256')
    .update(JSON.stringify([await engineHash(), document]))
    .digest('hex')
}

/** The last state of a take that has all frames before it; `foreign`: there is one, of another program. */
export async function lastCheckpoint(
  source: DataSource,
  take: string,
  document: Shot,
): Promise<{ checkpoint: Checkpoint | null; foreign: boolean }> {
  const key = await checkpointKey(document)
  const rows = (await source.query(
    `SELECT DISTINCT c.frame, c.key FROM take_checkpoint c
     WHERE c.take_id = $1 AND (SELECT count(*) FROM take_frame f WHERE f.take_id = $1 AND f.frame <= c.frame) = c.frame - $2 + 1
     ORDER BY c.frame DESC`,
    [take, document.frames.first],
  )) as { frame: number; key: string }[]
  const found = rows.find((row) => row.key === key)
  if (!found) return { checkpoint: null, foreign: rows.length > 0 }
  const bytes = await readBytes(
    source,
    `SELECT bytes FROM take_checkpoint WHERE take_id = '${take}' AND frame = ${found.frame} ORDER BY part`,
  )
  return { checkpoint: { frame: found.frame, bytes }, foreign: false }
}

/** Keeps a state whole or not at all, in place of those before it, if the take is still this attempt's. */
export async function storeCheckpoint(
  source: DataSource,
  take: string,
  attempt: number,
  key: string,
  { frame, bytes }: Checkpoint,
): Promise<void> {
  const all = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  await source.transaction(async (manager) => {
    await lockOurs(manager, take, attempt)
    await dropCheckpoints(manager, take)
    for (const [part, piece] of partsOf(all)) {
      await manager.query(
        'INSERT INTO take_checkpoint (take_id, frame, part, key, bytes) VALUES ($1, $2, $3, $4, $5)',
        [take, frame, part, key, piece],
      )
    }
  })
}

export async function dropCheckpoints(
  source: Pick<DataSource | EntityManager, 'query'>,
  take: string,
): Promise<void> {
  await source.query('DELETE FROM take_checkpoint WHERE take_id = $1', [take])
}
