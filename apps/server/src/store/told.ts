/** What is told of takes: all but their documents and frames. */
import type { Shot } from '@tangle/core'
import type { DataSource } from 'typeorm'
import type { TakeRow } from './entities.ts'

export type ToldTake = Omit<
  TakeRow,
  'document' | 'bytes' | 'attempt' | 'beatAt' | 'deletedAt' | 'partOf' | 'slice' | 'number'
> & {
  number: number
  /** How many workers compute it at once, at most. */
  slices: number
  bytes: number
  frames: Shot['frames']
  name: string
  /** Milliseconds of a frame, on average of the last ones; null: none has been computed. */
  millisecondsPerFrame: number | null
}

/** Frames from whose cost follows what the next ones will cost. */
const RECENT = 12

/** The takes of a shot, the newest first, or one of them; of those that were deleted, the ones that can still be brought back. */
export async function toldOf(
  source: Pick<DataSource, 'query'>,
  shot: string,
  take?: string,
  deleted = false,
): Promise<ToldTake[]> {
  const rows = (await source.query(
    `SELECT id, shot_id AS "shotId", number, status, frames_done AS "framesDone", bytes, fault, settled, note,
       paused_for AS "pausedFor", protected, host, slices, sweep, varied, created_at AS "createdAt", started_at AS "startedAt",
       ended_at AS "endedAt", document->'frames' AS frames, document->>'name' AS name,
       (SELECT avg(milliseconds) FROM take leaf CROSS JOIN LATERAL (SELECT milliseconds FROM take_frame f
         WHERE f.take_id = leaf.id ORDER BY frame DESC LIMIT ${RECENT}) last
         WHERE leaf.id = t.id OR leaf.part_of = t.id) AS "millisecondsPerFrame"
     FROM whole_take t WHERE shot_id = $1 AND (deleted_at IS NOT NULL) = $3 AND ($2::uuid IS NULL OR id = $2) ORDER BY number DESC`,
    [shot, take ?? null, deleted],
  )) as (Omit<ToldTake, 'bytes'> & { bytes: string })[]
  return rows.map((row) => ({ ...row, bytes: Number(row.bytes) }))
}
