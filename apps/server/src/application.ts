import bodyParser from '@koa/bodyparser'
import Router from '@koa/router'
import { descriptions, shotJsonSchema } from '@tangle/core'
import Koa from 'koa'
import compress from 'koa-compress'
import serve from 'koa-static'
import { createReadStream } from 'node:fs'
import { join } from 'node:path'
import type { Logger } from 'pino'
import { answers, headers, jsonOnly, sameSite, tokenRequired } from './guard.ts'
import type { House } from './routes/context.ts'
import { openApi } from './openapi.ts'
import { healthRoutes } from './routes/health.ts'
import { meshRoutes } from './routes/meshes.ts'
import { shotRoutes } from './routes/shots.ts'
import { takeEventRoutes } from './routes/takeEvents.ts'
import { takeFileRoutes } from './routes/takeFiles.ts'
import { takeLifecycleRoutes } from './routes/takeLifecycle.ts'
import { takeRoutes } from './routes/takes.ts'
import { sweepRoutes } from './routes/sweeps.ts'
import { thumbnailRoutes } from './routes/thumbnails.ts'

/** What stands under /api. */
export function apiRouter(house: House): Router {
  const router = new Router({ prefix: '/api' })
  healthRoutes(router, house)
  for (const [path, described] of Object.entries(DESCRIBED))
    router.get(path, (context) => {
      context.body = described()
    })
  shotRoutes(router, house)
  thumbnailRoutes(router, house)
  meshRoutes(router, house)
  takeRoutes(router, house)
  sweepRoutes(router, house)
  takeLifecycleRoutes(router, house)
  takeEventRoutes(router, house)
  takeFileRoutes(router, house)
  return router
}
/** What describes itself. */
const DESCRIBED = { '/kinds': descriptions, '/openapi.json': openApi, '/shot-schema.json': shotJsonSchema }

/** The whole server: the API under /api, the web application everywhere else. */
export function createApplication(house: House, log: Logger): Koa {
  const app = new Koa()
  const { config } = house
  app.on('error', (error: NodeJS.ErrnoException) => {
    // a reader that goes away while it is sent something is no fault
    if (!['EPIPE', 'ECONNRESET', 'ERR_STREAM_PREMATURE_CLOSE'].includes(error.code ?? '')) log.error(error)
  })
  app.use(answers(log))
  app.use(headers())
  app.use(sameSite(config))
  app.use(tokenRequired(config.token))
  app.use(
    compress({ threshold: 2048, br: false, filter: (type) => /json|javascript|css|html|svg/.test(type) }),
  )
  app.use(jsonOnly())
  app.use(bodyParser({ enableTypes: ['json'], jsonLimit: '8mb' }))

  app.use(apiRouter(house).routes())
  app.use(
    serve(config.webFolder, {
      setHeaders: (response, path) => {
        const lasting = path.includes('/assets/')
        response.setHeader('Cache-Control', lasting ? 'public, max-age=31536000, immutable' : 'no-cache')
      },
    }),
  )
  // any other address is a place within the application
  app.use((context) => {
    if (
      !['GET', 'HEAD'].includes(context.method) ||
      context.path.startsWith('/api/') ||
      /\.\w+$/.test(context.path)
    )
      return
    context.type = 'html'
    context.set('Cache-Control', 'no-cache')
    context.body = createReadStream(join(config.webFolder, 'index.html'))
  })
  return app
}
