import { computeTake, type TakeFrame } from '@tangle/runtime/node'
import type { Logger } from 'pino'
import type { DataSource } from 'typeorm'
import { TakeEntity, type TakeRow } from '../store/entities.ts'
import { dropCancelled, NoLongerOurs, openFrames, storeFrame } from '../store/frames.ts'
import { current } from '../store/document.ts'
import { loadMeshes } from '../store/meshes.ts'
import { settledOf } from '../store/settled.ts'

/** How often a worker says that it lives and asks whether it may go on, in milliseconds. */
const BEAT_EVERY = 1000

/** Computes a take from its first frame and stores it. Ends early when it is cancelled. */
export async function takeOn(
  source: DataSource,
  id: string,
  threads: number,
  log: Logger,
  ending: AbortSignal,
): Promise<void> {
  const take = await claim(source, id)
  if (!take) return
  const { attempt, document } = take
  const own = new AbortController()
  const beat = setInterval(() => void keepAlive(source, id, attempt, own), BEAT_EVERY)
  try {
    await openFrames(source, id, attempt)
    const meshes = await loadMeshes(source, document)
    const signal = AbortSignal.any([own.signal, ending])
    const settled = await settledOf(source, take)
    const store = (frame: TakeFrame) => storeFrame(source, id, attempt, frame)
    await computeTake(document, meshes, threads, store, settled, signal)
    await finish(source, id, attempt, 'done', null)
  } catch (error) {
    if (ending.aborted) {
      // another worker, or the next start, begins it anew
      await source.query(
        "UPDATE take SET beat_at = to_timestamp(0) WHERE id = $1 AND attempt = $2 AND status = 'computing'",
        [id, attempt],
      )
    } else if (error instanceof NoLongerOurs) {
      await dropCancelled(source, id)
    } else {
      log.error(error, 'take failed')
      const fault =
        (error as Error).message || 'The computation stopped without saying why: see the server’s log'
      await finish(source, id, attempt, 'failed', fault)
    }
  } finally {
    clearInterval(beat)
  }
}

async function claim(source: DataSource, id: string): Promise<TakeRow | null> {
  const [, changed] = (await source.query(
    `UPDATE take SET status = 'computing', attempt = attempt + 1, frames_done = 0, bytes = 0, fault = NULL,
       beat_at = now(), started_at = now(), ended_at = NULL
     WHERE id = $1 AND status = 'waiting' AND deleted_at IS NULL`,
    [id],
  )) as [unknown, number]
  if (changed === 0) return null
  const take = await source.getRepository(TakeEntity).findOneBy({ id })
  return take && { ...take, document: current(take.document) }
}

async function keepAlive(
  source: DataSource,
  id: string,
  attempt: number,
  own: AbortController,
): Promise<void> {
  const [, changed] = (await source
    .query(
      "UPDATE take SET beat_at = now() WHERE id = $1 AND attempt = $2 AND status = 'computing' AND deleted_at IS NULL",
      [id, attempt],
    )
    .catch(() => [[], 1])) as [unknown, number]
  if (changed === 0) own.abort(new NoLongerOurs())
}

async function finish(
  source: DataSource,
  id: string,
  attempt: number,
  status: 'done' | 'failed',
  fault: string | null,
): Promise<void> {
  await source.query(
    "UPDATE take SET status = $3, fault = $4, ended_at = now() WHERE id = $1 AND attempt = $2 AND status = 'computing'",
    [id, attempt, status, fault],
  )
}
