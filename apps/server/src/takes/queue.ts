import { randomUUID } from 'node:crypto'
import { hostname } from 'node:os'
import { setTimeout as sleep } from 'node:timers/promises'
import PgBoss from 'pg-boss'
import type { Logger } from 'pino'
import type { DataSource, EntityManager } from 'typeorm'
import type { Config } from '../config.ts'
import { isAway, persistently } from '../store/connection.ts'
import { poolOf } from '../store/database.ts'
import { rowsOfTake } from '../store/frames.ts'
import { bytesOfTakes } from '../store/space.ts'
import { everyMoment, takeOn } from './compute.ts'

const QUEUE = 'takes'
/** Milliseconds from one look after takes and workers to the next. */
const LOOK_EVERY = 1500
/** Seconds without a sign of life after which a take is suspected to have lost its worker; at the next look it goes to another one. */
const SILENCE = 3
/** Seconds after which a take that waits without a job gets one, and after which a silent worker is struck off. */
const FORGOTTEN = 10
/** Milliseconds from one look for room to the next, for takes that were paused for want of it. */
const ROOM_EVERY = 10_000
const ROOMLESS = "status = 'paused' AND paused_for = 'room'"
/** A take that goes on comes before those that wait. */
const FRONT = 10

export interface TakeQueue {
  /** Queues a take; with the manager of a transaction as part of it. */
  add(take: string, manager?: EntityManager): Promise<void>
  /** Lets a take, or those of its slices for which the condition (SQL) holds, wait for a worker again; true when there are some. */
  again(take: string, condition: string): Promise<boolean>
  /** One that waits comes before all others that do. */
  putFirst(take: string): Promise<void>
  stop(): Promise<void>
}

/** The queue of takes. With `threads` above 0 this process works on it, one take at a time. */
export async function openQueue(source: DataSource, config: Config, log: Logger): Promise<TakeQueue> {
  const { threads } = config
  const boss = new PgBoss({
    schema: 'queue',
    // the pool of the application: it finds the database where it comes back
    db: { executeSql: (text, values) => poolOf(source).query(text, values) },
  })
  boss.on('error', (error) => (isAway(error) ? log.warn(error.message) : log.error(error, 'queue')))
  await persistently(() => boss.start())
  await persistently(() => boss.createQueue(QUEUE))
  const ending = new AbortController()
  const add = async (take: string, manager?: EntityManager, priority = 0): Promise<void> => {
    const db = manager && {
      executeSql: async (text: string, values: unknown[]) => ({
        rows: (await manager.query(text, values)) as unknown[],
      }),
    }
    // how long a take may be is not the queue's business: silence is what counts
    await boss.send(QUEUE, { take }, { expireInHours: 23, retryLimit: 0, priority, ...(db ? { db } : {}) })
  }
  const worker = { id: randomUUID(), threads }
  const addInFront = (take: string): Promise<void> => add(take, undefined, FRONT)
  const look = lookAfter(source, addInFront, log)
  const goOn = (): Promise<void> =>
    goOnWithRoom(source, config, (take) => again(source, add, take, ROOMLESS, FRONT))
  const begin = async (): Promise<void> => {
    // a lone worker that was killed and comes back goes on with what it had before it begins another one
    await persistently(() => takeOrphans(source, addInFront, log, ending.signal), ending.signal)
    await boss.work<{ take: string }>(QUEUE, { batchSize: 1, pollingIntervalSeconds: 0.5 }, async ([job]) => {
      // a fault of the take is written down with it; the queue need not hear of one
      if (job)
        await takeOn(source, job.data.take, config, log, ending.signal).catch((e: unknown) => log.error(e))
    })
  }
  if (threads > 0) void begin().catch((error: unknown) => ending.signal.aborted || log.error(error))
  const looking = everyMoment(LOOK_EVERY, () => look(worker))
  const going = everyMoment(ROOM_EVERY, () =>
    goOn().catch((error: unknown) => {
      if (!isAway(error)) log.error(error)
    }),
  )
  await look(worker)
  return {
    add,
    again: (take, condition) => again(source, add, take, condition),
    // who is put first later comes before who was put first earlier
    async putFirst(take) {
      for (const row of await rowsOfTake(source, take))
        await add(row, undefined, Math.floor(Date.now() / 1000))
    },
    async stop() {
      clearInterval(looking)
      clearInterval(going)
      ending.abort(new Error('Tangle is stopping'))
      await boss.stop({ graceful: true, timeout: 3000 })
      await source.query('DELETE FROM worker WHERE id = $1', [worker.id]).catch(() => undefined)
    },
  }
}

type Add = (take: string, manager?: EntityManager, priority?: number) => Promise<void>

function again(
  source: DataSource,
  add: Add,
  take: string,
  condition: string,
  priority = 0,
): Promise<boolean> {
  return source.transaction(async (manager) => {
    const [rows] = (await manager.query(
      `UPDATE take SET status = 'waiting', fault = NULL, paused_for = NULL, attempt = attempt + 1
       WHERE (id = $1 OR part_of = $1) AND ${condition} RETURNING id`,
      [take],
    )) as [{ id: string }[], number]
    for (const { id } of rows) await add(id, manager, priority)
    return rows.length > 0
  })
}

/**
 * Looks after what nobody else does: takes whose worker has fallen silent and takes that wait without a job go back into the queue, and this
 * process says that it lives. A take is given away when it was silent at the look before, too: after a database has been away all
 * seem so, until their workers have found it.
 */
function lookAfter(source: DataSource, add: (take: string) => Promise<void>, log: Logger) {
  let suspects = new Map<string, number>()
  return async ({ id, threads }: { id: string; threads: number }): Promise<void> => {
    try {
      if (threads > 0) {
        await source.query(
          `INSERT INTO worker (id, host, threads, beat_at) VALUES ($1, $2, $3, now())
           ON CONFLICT (id) DO UPDATE SET beat_at = now()`,
          [id, hostname(), threads],
        )
      }
      await source.query(`DELETE FROM worker WHERE beat_at < now() - interval '${FORGOTTEN} seconds'`)
      const silent = (await source.query(
        `SELECT id, attempt, beat_at = to_timestamp(0) AS given FROM take
         WHERE status = 'computing' AND deleted_at IS NULL AND beat_at < now() - interval '${SILENCE} seconds'`,
      )) as { id: string; attempt: number; given: boolean }[]
      for (const take of silent) {
        if (take.given || suspects.get(take.id) === take.attempt) await takeAway(source, take, add, log)
      }
      suspects = new Map(silent.map((take) => [take.id, take.attempt]))
      for (const take of await forgotten(source)) await add(take)
    } catch (error) {
      // what was silent meanwhile is no suspect
      suspects = new Map()
      if (!isAway(error)) log.error(error, 'looking after takes')
    }
  }
}

/** Takes away what nobody computes any more: those that give no sign of life for as long as one may be silent. */
async function takeOrphans(
  source: DataSource,
  add: (take: string) => Promise<void>,
  log: Logger,
  ending: AbortSignal,
): Promise<void> {
  const computing = async (): Promise<{ id: string; attempt: number; beat: string }[]> =>
    source.query("SELECT id, attempt, beat_at::text AS beat FROM take WHERE status = 'computing' AND deleted_at IS NULL AND beat_at > to_timestamp(0)") // prettier-ignore
  const before = await computing()
  if (before.length === 0) return
  await sleep(SILENCE * 1000 + 200, undefined, { signal: ending })
  for (const { id, attempt, beat } of await computing())
    if (before.some((one) => one.id === id && one.beat === beat))
      await takeAway(source, { id, attempt }, add, log)
}

async function takeAway(
  source: DataSource,
  { id, attempt }: { id: string; attempt: number },
  add: (take: string) => Promise<void>,
  log: Logger,
): Promise<void> {
  const [, changed] = (await source.query(
    `UPDATE take SET status = 'waiting', attempt = attempt + 1
     WHERE id = $1 AND attempt = $2 AND status = 'computing' AND beat_at < clock_timestamp() - interval '${SILENCE} seconds'`,
    [id, attempt],
  )) as [unknown, number]
  if (changed === 0) return
  log.warn({ take: id }, 'its worker fell silent: queued again')
  await add(id)
}

/** Takes that wait with no job that could still be done: none was made, or a worker died with it in its hands. */
async function forgotten(source: DataSource): Promise<string[]> {
  const rows = (await source.query(
    `SELECT id FROM take t WHERE status = 'waiting' AND deleted_at IS NULL AND created_at < now() - interval '${FORGOTTEN} seconds'
     AND NOT EXISTS (SELECT 1 FROM queue.job j WHERE j.name = '${QUEUE}' AND j.data->>'take' = t.id::text AND (j.state < 'active'
       OR (j.state = 'active' AND j.started_on > now() - interval '${FORGOTTEN} seconds')))`,
  )) as { id: string }[]
  return rows.map(({ id }) => id)
}

/** Takes that were paused for want of room go on when there is some: a twentieth of what they may have. */
async function goOnWithRoom(
  source: DataSource,
  { quotaBytes }: Config,
  goOn: (take: string) => Promise<unknown>,
): Promise<void> {
  const rows = (await source.query(`SELECT id FROM take WHERE deleted_at IS NULL AND ${ROOMLESS}`)) as {
    id: string
  }[]
  if (rows.length === 0 || (await bytesOfTakes(source)) > 0.95 * quotaBytes) return
  for (const { id } of rows) await goOn(id)
}
