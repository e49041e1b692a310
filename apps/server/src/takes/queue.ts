import PgBoss from 'pg-boss'
import type { Logger } from 'pino'
import type { DataSource } from 'typeorm'
import { takeOn } from './compute.ts'

const QUEUE = 'takes'
/** Seconds without a sign of life after which a take is given to another worker. */
const SILENCE = 30
const REAP_EVERY = 5000

export interface TakeQueue {
  add(take: string): Promise<void>
  stop(): Promise<void>
}

/** The queue of takes. With `threads` above 0 this process works on it, one take at a time. */
export async function openQueue(
  source: DataSource,
  url: string,
  threads: number,
  log: Logger,
): Promise<TakeQueue> {
  const boss = new PgBoss({ connectionString: url, schema: 'queue' })
  boss.on('error', (error) => log.error(error, 'queue'))
  await boss.start()
  await boss.createQueue(QUEUE)
  const ending = new AbortController()
  const add = async (take: string): Promise<void> => {
    // how long a take may be is not the queue's business: silence is what counts
    await boss.send(QUEUE, { take }, { expireInHours: 23, retryLimit: 0 })
  }
  if (threads > 0) {
    await boss.work<{ take: string }>(QUEUE, { batchSize: 1, pollingIntervalSeconds: 0.5 }, async ([job]) => {
      if (job) await takeOn(source, job.data.take, threads, log, ending.signal)
    })
  }
  const reaper = setInterval(() => void reap(source, add, log), REAP_EVERY)
  return {
    add,
    async stop() {
      clearInterval(reaper)
      ending.abort(new Error('Tangle is stopping'))
      await boss.stop({ graceful: true, timeout: 3000 })
    },
  }
}

/** Takes whose worker has fallen silent go back into the queue. */
async function reap(source: DataSource, add: TakeQueue['add'], log: Logger): Promise<void> {
  try {
    const [silent] = (await source.query(
      `UPDATE take SET status = 'waiting', attempt = attempt + 1
       WHERE status = 'computing' AND deleted_at IS NULL AND beat_at < now() - interval '${SILENCE} seconds' RETURNING id`,
    )) as [{ id: string }[]]
    for (const { id } of silent) {
      log.warn({ take: id }, 'its worker fell silent: queued again')
      await add(id)
    }
  } catch (error) {
    log.error(error, 'reaper')
  }
}
