import { computeTake, type TakeStore } from '@tangle/runtime/node'
import { hostname } from 'node:os'
import type { Logger } from 'pino'
import type { DataSource } from 'typeorm'
import type { Config } from '../config.ts'
import { checkpointKey, dropCheckpoints, lastCheckpoint, storeCheckpoint } from '../store/checkpoints.ts'
import { persistently } from '../store/connection.ts'
import { current } from '../store/document.ts'
import { TakeEntity, type TakeRow } from '../store/entities.ts'
import { dropCancelled, framesOf, lockOurs, NoLongerOurs, openFrames, storeFrame } from '../store/frames.ts'
import { loadMeshes } from '../store/meshes.ts'
import { NoRoom, withRoom } from '../store/space.ts'
import { settledOf } from '../store/settled.ts'

/** How often a worker says that it lives and asks whether it may go on, in milliseconds. */
const BEAT_EVERY = 1000

/**
 * Computes a take and stores it, from its first frame or from where another worker has left it. While the database is away it waits with
 * what it has. Ends early when the take is cancelled or somebody else's.
 */
export async function takeOn(
  source: DataSource,
  id: string,
  config: Config,
  log: Logger,
  ending: AbortSignal,
): Promise<void> {
  const take = await persistently(() => claim(source, id), ending)
  if (!take) return
  const { threads, checkpointSeconds, quotaBytes } = config
  const { attempt } = take
  const own = new AbortController()
  const signal = AbortSignal.any([own.signal, ending])
  const beat = everyMoment(BEAT_EVERY, () => keepAlive(source, id, attempt, own))
  try {
    const store = await persistently(() => openStore(source, take, quotaBytes, signal), signal)
    const meshes = await persistently(() => loadMeshes(source, take.document), signal)
    if (store.from <= take.document.frames.last)
      await computeTake(
        take.document,
        meshes,
        { threads, checkpointSeconds, slice: take.slice },
        store,
        signal,
      )
    await persistently(() => finish(source, take), signal)
  } catch (error) {
    if (ending.aborted) await giveBack(source, take)
    else if (error instanceof NoRoom) await persistently(() => pauseForRoom(source, take, error), ending)
    else if (error instanceof NoLongerOurs) await persistently(() => dropCancelled(source, id), ending)
    else {
      log.error({ err: error as Error, take: id }, 'take failed')
      await persistently(() => fail(source, take, error as Error), ending)
    }
  } finally {
    clearInterval(beat)
  }
}

/** Does work again and again; what is still under way is not begun a second time. */
export function everyMoment(milliseconds: number, work: () => Promise<void>): NodeJS.Timeout {
  let busy = false
  return setInterval(() => {
    if (busy) return
    busy = true
    void work().finally(() => (busy = false))
  }, milliseconds)
}

async function claim(source: DataSource, id: string): Promise<TakeRow | null> {
  const [, changed] = (await source.query(
    `UPDATE take SET status = 'computing', attempt = attempt + 1, fault = NULL, note = NULL,
       beat_at = now(), started_at = now(), ended_at = NULL, host = $2
     WHERE id = $1 AND status = 'waiting' AND deleted_at IS NULL`,
    [id, hostname()],
  )) as [unknown, number]
  if (changed === 0) return null
  const take = await source.getRepository(TakeEntity).findOneBy({ id })
  return take && { ...take, document: current(take.document) }
}

/** Where the take begins, its frames cleared from there on, and how what comes is kept. */
async function openStore(
  source: DataSource,
  take: TakeRow,
  quota: number,
  signal: AbortSignal,
): Promise<TakeStore> {
  const { id, attempt, document } = take
  const { checkpoint, foreign } = await lastCheckpoint(source, id, document)
  await openFrames(source, id, attempt, checkpoint?.frame ?? null)
  const settled = await settledOf(source, take)
  const key = await checkpointKey(document)
  const kept = (store: () => Promise<void>): Promise<void> =>
    persistently(() => withRoom(source, quota, store), signal)
  if (checkpoint) await note(source, take, `Gone on with from frame ${checkpoint.frame + 1}`)
  else if (foreign) await note(source, take, 'Begun anew: another version of Tangle had begun it')
  return {
    state: checkpoint?.bytes ?? settled.known,
    from: checkpoint ? checkpoint.frame + 1 : document.frames.first,
    last: checkpoint ? await framesOf(source, id)(checkpoint.frame) : null,
    frame: (frame) => kept(() => storeFrame(source, id, attempt, frame)),
    settled: (bytes) => persistently(() => settled.keep(bytes), signal),
    checkpoint: (state) => kept(() => storeCheckpoint(source, id, attempt, key, state)),
  }
}

const note = (source: DataSource, { id, attempt }: TakeRow, text: string): Promise<unknown> =>
  source.query('UPDATE take SET note = $3 WHERE id = $1 AND attempt = $2', [id, attempt, text])

async function keepAlive(
  source: DataSource,
  id: string,
  attempt: number,
  own: AbortController,
): Promise<void> {
  const [, changed] = (await source
    .query(
      // of the moment at which it is written: it may have waited for the row
      "UPDATE take SET beat_at = clock_timestamp() WHERE id = $1 AND attempt = $2 AND status = 'computing' AND deleted_at IS NULL",
      [id, attempt],
    )
    .catch(() => [[], 1])) as [unknown, number]
  if (changed === 0) own.abort(new NoLongerOurs())
}

/** Done, with all of its frames. */
async function finish(source: DataSource, { id, attempt, document }: TakeRow): Promise<void> {
  const { first, last } = document.frames
  await source.transaction(async (manager) => {
    await lockOurs(manager, id, attempt)
    const [row] = (await manager.query('SELECT count(*)::int AS stored FROM take_frame WHERE take_id = $1', [
      id,
    ])) as { stored: number }[]
    if (row!.stored !== last - first + 1)
      throw new Error(`Only ${row!.stored} of ${last - first + 1} frames are stored: try the take again`)
    await dropCheckpoints(manager, id)
    await manager.query("UPDATE take SET status = 'done', ended_at = now() WHERE id = $1", [id])
  })
}

async function fail(source: DataSource, { id, attempt }: TakeRow, error: Error): Promise<void> {
  const fault = error.message || 'The computation stopped without saying why: see the server’s log'
  await source.query(
    "UPDATE take SET status = 'failed', fault = $3, ended_at = now() WHERE id = $1 AND attempt = $2 AND status = 'computing'",
    [id, attempt, fault],
  )
  // its other slices are of no use alone, and keep no frames
  const [others] = (await source.query(
    `UPDATE take SET status = 'cancelled', ended_at = now() WHERE part_of = (SELECT part_of FROM take WHERE id = $1 AND status = 'failed')
       AND status IN ('waiting', 'computing', 'paused') RETURNING id`,
    [id],
  )) as [{ id: string }[], number]
  for (const other of others) await dropCancelled(source, other.id)
}

/** It stays as far as it is, and goes on when there is room (queue.ts). */
async function pauseForRoom(
  source: DataSource,
  { id, attempt }: TakeRow,
  { message }: NoRoom,
): Promise<void> {
  const fault = `${message}: delete takes that are no longer needed; this one goes on by itself when there is room`
  await source.query(
    `UPDATE take SET status = 'paused', paused_for = 'room', fault = $3
     WHERE id = $1 AND attempt = $2 AND status = 'computing'`,
    [id, attempt, fault],
  )
}

/** Another worker, or the next start, goes on with it at once. */
async function giveBack(source: DataSource, { id, attempt }: TakeRow): Promise<void> {
  await source
    .query(
      "UPDATE take SET beat_at = to_timestamp(0) WHERE id = $1 AND attempt = $2 AND status = 'computing'",
      [id, attempt],
    )
    .catch(() => undefined)
}
