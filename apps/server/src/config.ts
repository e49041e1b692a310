import { resolve } from 'node:path'
import { defaultThreads, MOST_THREADS } from '@tangle/runtime/node'

export interface Config {
  host: string
  port: number
  databaseUrl: string
  /** A file that says where the database is once it has moved: its URL. */
  addressFile: string | undefined
  /** Whoever is not on this machine must give it. */
  token: string | undefined
  allowedHosts: string[]
  mostUploadBytes: number
  webFolder: string
  thumbnailFolder: string
  /** A folder of this machine in which takes may be written; null: only downloads. */
  exportFolder: string | null
  /** Bytes that the frames of all takes may have together. */
  quotaBytes: number
  /** Seconds of computing after which a take keeps its state, so that another worker can go on from it. */
  checkpointSeconds: number
  /** For computing takes; 0: this process only serves, and workers compute. */
  threads: number
}

const LOOPBACK = ['127.0.0.1', 'localhost', '::1']
export const isLoopback = (host: string): boolean => LOOPBACK.includes(host)

/** Settings from the environment. Throws a sentence when they don't fit together. */
export function readConfig(environment: NodeJS.ProcessEnv): Config {
  const host = environment.TANGLE_HOST ?? '127.0.0.1'
  const port = Number(environment.TANGLE_PORT ?? 4680)
  const token = environment.TANGLE_TOKEN || undefined
  const threads = Number(environment.TANGLE_THREADS || defaultThreads())
  const checkpointSeconds = Number(environment.TANGLE_CHECKPOINT_SECONDS || 8)
  if (!(checkpointSeconds > 0 && checkpointSeconds <= 30))
    throw new Error('TANGLE_CHECKPOINT_SECONDS must be above 0 and at most 30')
  const gigabytes = Number(environment.TANGLE_TAKES_GB || Infinity)
  if (!(gigabytes > 0)) throw new Error('TANGLE_TAKES_GB must be the gigabytes that takes may have, above 0')
  const megabytes = Number(environment.TANGLE_UPLOAD_MB ?? 256)
  if (!Number.isInteger(port) || port < 1 || port > 65535)
    throw new Error(`TANGLE_PORT must be a port, not "${environment.TANGLE_PORT}"`)
  if (!(megabytes > 0 && megabytes <= 1024))
    throw new Error('TANGLE_UPLOAD_MB must be above 0 and at most 1024')
  if (!Number.isInteger(threads) || threads < 0 || threads > MOST_THREADS)
    throw new Error(
      `TANGLE_THREADS must be a whole number from 0 to ${MOST_THREADS}, not "${environment.TANGLE_THREADS}"`,
    )
  if (!environment.TANGLE_DATABASE_URL)
    throw new Error('TANGLE_DATABASE_URL is not set: start with ./tangle start')
  if (!isLoopback(host) && (token?.length ?? 0) < 16) {
    throw new Error(
      `TANGLE_HOST=${host} opens Tangle to other machines: set TANGLE_TOKEN to a secret of at least 16 letters`,
    )
  }
  return {
    host,
    port,
    token,
    databaseUrl: environment.TANGLE_DATABASE_URL,
    addressFile: environment.TANGLE_DATABASE_FILE || undefined,
    allowedHosts: (environment.TANGLE_ALLOWED_HOSTS ?? '').split(',').filter(Boolean),
    mostUploadBytes: megabytes * 2 ** 20,
    webFolder: environment.TANGLE_WEB_FOLDER ?? 'apps/web/dist',
    thumbnailFolder: environment.TANGLE_THUMBNAIL_FOLDER ?? 'demo/thumbnails',
    exportFolder: environment.TANGLE_EXPORT_FOLDER ? resolve(environment.TANGLE_EXPORT_FOLDER) : null,
    threads,
    quotaBytes: gigabytes * 2 ** 30,
    checkpointSeconds,
  }
}
