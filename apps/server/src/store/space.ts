/** Room for the frames of takes: what they may have, and what goes first when it is used up. */
import type { DataSource } from 'typeorm'
import { dropFrames, rowsOfTake } from './frames.ts'

/** There is no room for another frame. */
export class NoRoom extends Error {}

const DISK_FULL = '53100'
/** Days for which a deleted take can be brought back, if its room is not needed. */
const KEPT_DAYS = 7

/** Bytes of the frames of all takes, those that are deleted but still there as well. */
export async function bytesOfTakes(source: Pick<DataSource, 'query'>): Promise<number> {
  const [row] = (await source.query('SELECT coalesce(sum(bytes), 0) AS bytes FROM take')) as [
    { bytes: string },
  ]
  return Number(row.bytes)
}

/** Stores something of a take; when there is no room deleted takes go for good, the oldest first. @throws NoRoom */
export async function withRoom(source: DataSource, quota: number, store: () => Promise<void>): Promise<void> {
  for (;;) {
    const fault = await fullOf(source, quota, store)
    if (!fault) return
    if (!(await dropOldestDeleted(source))) throw new NoRoom(fault)
  }
}

/** Why there is no room; null: it is stored. */
async function fullOf(source: DataSource, quota: number, store: () => Promise<void>): Promise<string | null> {
  if ((await bytesOfTakes(source)) >= quota)
    return `Takes have the ${Math.round(quota / 2 ** 20)} MB that they may have`
  try {
    await store()
    return null
  } catch (error) {
    if ((error as { code?: unknown }).code !== DISK_FULL) throw error
    return 'The disk of the database is full'
  }
}

async function dropOldestDeleted(source: DataSource): Promise<boolean> {
  const [oldest] = (await source.query(
    'SELECT id FROM take WHERE deleted_at IS NOT NULL AND part_of IS NULL ORDER BY deleted_at LIMIT 1',
  )) as { id: string }[]
  if (oldest) await dropForGood(source, oldest.id)
  return oldest !== undefined
}

async function dropForGood(source: DataSource, id: string): Promise<void> {
  for (const row of await rowsOfTake(source, id)) await dropFrames(source, row)
  await source.query('DELETE FROM take WHERE id = $1', [id])
}

/** Takes that were deleted a while ago go for good. */
export async function purge(source: DataSource): Promise<void> {
  const old = (await source.query(
    `SELECT id FROM take WHERE part_of IS NULL AND deleted_at < now() - interval '${KEPT_DAYS} days'`,
  )) as { id: string }[]
  for (const { id } of old) await dropForGood(source, id)
}
