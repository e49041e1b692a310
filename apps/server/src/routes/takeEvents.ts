/** The takes of a shot as they go on, as server-sent events (WHATWG HTML, 9.2): the whole list, whenever something in it has changed. */
import type Router from '@koa/router'
import type { DataSource } from 'typeorm'
import { PassThrough } from 'node:stream'
import { toldOf } from '../store/told.ts'
import { everyMoment } from '../takes/compute.ts'
import { idOf, type House } from './context.ts'

/** Milliseconds from one look to the next. */
const LOOK_EVERY = 500
/** Looks after which a line is sent though nothing has changed, so that a connection that is dead is found. */
const STILL_HERE = 30

interface Watch {
  readers: Set<PassThrough>
  last: string
  timer: NodeJS.Timeout
}

export function takeEventRoutes(router: Router, { source }: House): void {
  const watches = new Map<string, Watch>()
  router.get('/shots/:id/takes/events', (context) => {
    const shot = idOf(context, 'shot')
    const reader = new PassThrough()
    const watch = watches.get(shot) ?? watchOf(source, shot)
    watches.set(shot, watch)
    watch.readers.add(reader)
    if (watch.last) reader.write(watch.last)
    context.res.once('close', () => {
      watch.readers.delete(reader)
      if (watch.readers.size > 0 || watches.get(shot) !== watch) return
      clearInterval(watch.timer)
      watches.delete(shot)
    })
    context.type = 'text/event-stream'
    context.set('Cache-Control', 'no-cache')
    context.body = reader
  })
}

/** One look serves all who watch a shot. */
function watchOf(source: DataSource, shot: string): Watch {
  const watch: Watch = {
    readers: new Set(),
    last: '',
    timer: everyMoment(LOOK_EVERY, async () => {
      looks++
      // while the database is away nothing is told; the page asks for its state elsewhere
      const takes = await toldOf(source, shot).catch(() => null)
      const event = takes && `data: ${JSON.stringify(takes)}\n\n`
      const changed = event !== null && event !== watch.last
      if (changed) watch.last = event
      const line = changed ? event : looks % STILL_HERE === 0 ? ': still here\n\n' : null
      if (line) for (const reader of watch.readers) reader.write(line)
    }),
  }
  let looks = 0
  return watch
}
