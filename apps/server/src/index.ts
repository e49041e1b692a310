import { createServer } from 'node:http'
import { pino } from 'pino'
import { createApplication } from './application.ts'
import { readConfig } from './config.ts'
import { isAway, persistently } from './store/connection.ts'
import { openDatabase } from './store/database.ts'
import { purge } from './store/space.ts'
import { loadDemo } from './store/demo.ts'
import { openQueue } from './takes/queue.ts'

/** Milliseconds for which a connection on which nothing is asked stays open: what asks every few seconds finds it so. */
const KEPT_OPEN = 55_000
/** Milliseconds in which the server stops. */
const LONGEST_STOP = 8000

/** Milliseconds from one look for takes that were deleted long ago to the next. */
const PURGE_EVERY = 3_600_000

/** How long a start waits for the database. */
const patience = (): AbortSignal => AbortSignal.timeout(60_000)

/** Starts the server, or with `worker` only a worker that computes takes. */
async function main(role: string | undefined): Promise<void> {
  const log = pino({ level: process.env.TANGLE_LOG ?? 'warn' }, pino.destination(2))
  process.on('unhandledRejection', (error) => {
    if (!isAway(error)) throw error
    log.error(error, 'the database went away under something that did not expect it')
  })
  const config = readConfig(process.env)
  // a database that recovers from a crash is waited for
  const source = await persistently(() => openDatabase(config.databaseUrl, config.addressFile), patience())
  const queue = await openQueue(source, config, log)
  const close = [() => queue.stop(), () => source.destroy()]
  if (role === 'worker') {
    console.log('Tangle worker: waiting for takes')
  } else {
    await loadDemo(source, config.thumbnailFolder)
    await purge(source)
    setInterval(() => void purge(source).catch(() => undefined), PURGE_EVERY).unref()
    const server = createServer(createApplication({ config, source, queue }, log).callback())
    // Node hangs up after 5 s, at times just as somebody asks again
    server.keepAliveTimeout = KEPT_OPEN
    await new Promise<void>((resolve, reject) => {
      server.once('error', reject)
      server.listen(config.port, config.host, resolve)
    })
    close.unshift(async () => {
      server.close()
      server.closeAllConnections()
    })
    console.log(`Tangle is open at http://${config.host}:${config.port}`)
  }
  let stopping = false
  for (const signal of ['SIGINT', 'SIGTERM'] as const) {
    process.on(signal, () => {
      if (stopping) return
      stopping = true
      // a database that hangs must not hold up the end
      setTimeout(() => process.exit(0), LONGEST_STOP).unref()
      void (async () => {
        for (const step of close) await step().catch((error: unknown) => log.error(error))
        process.exit(0)
      })()
    })
  }
}

main(process.argv[2]).catch((error: NodeJS.ErrnoException) => {
  const port = process.env.TANGLE_PORT ?? '4680'
  const taken = error.code === 'EADDRINUSE'
  console.error(
    taken
      ? `Port ${port} is taken: stop what uses it, or choose another with TANGLE_PORT=4681 ./tangle start`
      : `Tangle can't start: ${error.message}`,
  )
  process.exit(1)
})
