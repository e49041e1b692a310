/** A database that goes away: it is told from a query that is wrong, waited for, and found where it comes back. */
import { readFileSync } from 'node:fs'
import { setTimeout as sleep } from 'node:timers/promises'
import pg from 'pg'

/** Connection exceptions, shutting down, starting up, no more connections, an administrator's command, silence in a transaction. */
const AWAY_STATES = /^(08...|57P0[1-5]|53300|25P03)$/
const AWAY_CODES = [
  'ECONNREFUSED',
  'ECONNRESET',
  'ECONNABORTED',
  'EPIPE',
  'ETIMEDOUT',
  'EHOSTUNREACH',
  'ENOTFOUND',
]
/** What pg and TypeORM say without a code when a connection is gone or none is to be had. */
const AWAY_MESSAGES =
  /connection (terminated|ended|error)|not queryable|timeout exceeded when trying to connect|already released/i

/** Whether an error says that the database is not there for now, rather than that what was asked is wrong. */
export function isAway(error: unknown): boolean {
  if (!(error instanceof Error)) return false
  const { code } = error as { code?: unknown }
  if (typeof code === 'string' && (AWAY_CODES.includes(code) || AWAY_STATES.test(code))) return true
  if (error instanceof AggregateError) return error.errors.some(isAway)
  return AWAY_MESSAGES.test(error.message)
}

const [FIRST_PAUSE, LONGEST_PAUSE] = [250, 5000]

/** Does work until the database lets it: again and again, ever more slowly, while it is away. Ends with the reason of an aborted signal. */
export async function persistently<T>(work: () => Promise<T>, signal?: AbortSignal): Promise<T> {
  for (let pause = FIRST_PAUSE; ; pause = Math.min(2 * pause, LONGEST_PAUSE)) {
    signal?.throwIfAborted()
    try {
      return await work()
    } catch (error) {
      if (!isAway(error)) throw error
      await sleep(pause, undefined, signal ? { signal } : {}).catch(() => undefined)
    }
  }
}

/**
 * Clients that go to where the database is when they connect: a cluster that was started again may be at another port, and `file`, which
 * `./tangle` writes, says at which. A connection that breaks fails the query it was for; it is not the end of the server.
 */
export const clientsAt = (file: string | undefined): typeof pg.Client =>
  class extends pg.Client {
    constructor(config: pg.ClientConfig) {
      super({ ...config, connectionString: addressIn(file, config.connectionString!) })
      this.on('error', () => undefined)
    }
  }

/** The same database at the server that the file names. */
function addressIn(file: string | undefined, url: string): string {
  if (!file) return url
  try {
    const [here, now] = [new URL(url), new URL(readFileSync(file, 'utf8').trim())]
    for (const part of ['host', 'username', 'password'] as const) here[part] = now[part]
    return here.href
  } catch {
    return url
  }
}
