/** GET /api/health: whether what Tangle needs is there. It tells no more than that, so it needs no token. */
import type Router from '@koa/router'
import { statfs } from 'node:fs/promises'
import { setTimeout as sleep } from 'node:timers/promises'
import { LIVE_WORKERS } from '../store/workers.ts'
import type { House } from './context.ts'

/** Milliseconds in which the database must answer. */
const WITHIN = 2000
/** Bytes of disk below which no take should be begun. */
const LEAST_FREE = 2 ** 30

interface Queue {
  waiting: number
  computing: number
  /** Processes that compute takes, and have said so in the last seconds. */
  workers: number
}

export function healthRoutes(router: Router, house: House): void {
  router.get('/health', async (context) => {
    const queue = await Promise.race([queueOf(house), sleep(WITHIN, null, { ref: false })]).catch(() => null)
    const disk = queue && (await diskOf(house).catch(() => null))
    const problems = [
      queue === null && 'The database does not answer: Tangle goes on by itself when it is back',
      queue?.workers === 0 && queue.waiting > 0 && 'No worker computes takes: start one with ./tangle worker',
      disk !== null &&
        disk.free < LEAST_FREE &&
        'The disk of the database is nearly full: delete takes, or make room',
    ].filter((problem) => problem !== false)
    context.status = queue === null ? 503 : 200
    context.body = { ok: problems.length === 0, database: queue !== null, queue, disk, problems }
  })
}

async function queueOf({ source }: House): Promise<Queue> {
  const [row] = (await source.query(
    `SELECT (SELECT count(*)::int FROM take WHERE status = 'waiting' AND deleted_at IS NULL) AS waiting,
            (SELECT count(*)::int FROM take WHERE status = 'computing' AND deleted_at IS NULL) AS computing,
            (${LIVE_WORKERS}) AS workers`,
  )) as [Queue]
  return row
}

/** Of the disk on which the database lies, where that is this machine's; bytes. */
async function diskOf({ source }: House): Promise<{ free: number; total: number }> {
  const [row] = (await source.query('SHOW data_directory')) as [{ data_directory: string }]
  const { bavail, bsize, blocks } = await statfs(row.data_directory)
  return { free: bavail * bsize, total: blocks * bsize }
}
