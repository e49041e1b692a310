import { createHash, randomUUID, timingSafeEqual } from 'node:crypto'
import { setTimeout as sleep } from 'node:timers/promises'
import type { Context, Middleware } from 'koa'
import helmet from 'koa-helmet'
import type { Logger } from 'pino'
import { isLoopback, type Config } from './config.ts'
import { HttpFault } from './fault.ts'
import { isAway } from './store/connection.ts'

const COOKIE = 'tangle-token'

/** Security headers. Shared memory needs the page to be isolated; WebAssembly needs its own word. */
export const headers = (): Middleware =>
  helmet({
    contentSecurityPolicy: {
      useDefaults: false,
      directives: {
        defaultSrc: ["'self'"],
        scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
        workerSrc: ["'self'", 'blob:'],
        styleSrc: ["'self'", "'unsafe-inline'"],
        imgSrc: ["'self'", 'data:', 'blob:'],
        fontSrc: ["'self'", 'data:'],
        connectSrc: ["'self'"],
        objectSrc: ["'none'"],
        baseUri: ["'none'"],
        frameAncestors: ["'none'"],
        formAction: ["'self'"],
      },
    },
    crossOriginEmbedderPolicy: { policy: 'require-corp' },
    strictTransportSecurity: false,
  }) as unknown as Middleware

/** Turns faults into answers; what is unforeseen is logged and told without its inside. */
export const answers = (log: Logger): Middleware => {
  let complained = -Infinity
  return async (context, next) => {
    // by this a request is found in the log
    const request = randomUUID().slice(0, 8)
    context.set('X-Request-Id', request)
    try {
      await next()
      if (context.status === 404 && context.body === undefined && context.path.startsWith('/api/')) {
        throw new HttpFault(404, 'not-found', `There is nothing at ${context.method} ${context.path}`)
      }
    } catch (error) {
      const { status, code, message, problems, more } = faultOf(error)
      const where = { request, method: context.method, path: context.path }
      if (status === 503) {
        context.set('Retry-After', '2')
        // every open page asks on and on: one line tells as much as a thousand
        if (performance.now() - complained > QUIET) {
          complained = performance.now()
          log.warn(where, (error as Error).message)
        }
      } else if (status >= 500) log.error({ ...where, err: error as Error })
      context.status = status
      context.body = { error: { code, message, problems, ...(status >= 500 ? { request } : {}), ...more } }
    }
  }
}
/** Milliseconds from one line on a database that is away to the next. */
const QUIET = 10_000

/** What is told of an error: a fault as it is, of what is unforeseen nothing of its inside. */
function faultOf(error: unknown): HttpFault {
  if (error instanceof HttpFault) return error
  if (isAway(error))
    return new HttpFault(
      503,
      'database',
      'The database can’t be reached just now: nothing is lost, and Tangle goes on by itself when it is back',
    )
  const { status = 500, code, message } = error as { status?: number; code?: string; message?: string }
  // text that PostgreSQL can't hold: a zero, half of a pair of surrogates
  if (code === '22021' || code === '22P05')
    return new HttpFault(
      422,
      'text',
      'The text has signs that can’t be stored, such as a zero byte: remove them',
    )
  // compressed otherwise than the header says
  if (code?.startsWith('Z_')) return new HttpFault(400, 'encoding', `The body can’t be unpacked: ${message}`)
  if (status < 500) return new HttpFault(status, 'bad-request', message ?? 'The request can’t be read')
  return new HttpFault(500, 'internal', 'Something went wrong here; the log of the server says what')
}

/** A body that is not JSON is refused, but where files are taken: silently read as nothing it made an empty shot. */
export const jsonOnly = (): Middleware => (context, next) => {
  const { method, path, headers } = context
  const isFile = /^\/api\/(meshes|shots\/[^/]+\/(thumbnail|strip))$/.test(path)
  const hasBody = headers['transfer-encoding'] !== undefined || Number(headers['content-length'] ?? 0) > 0
  if (['POST', 'PUT', 'PATCH'].includes(method) && !isFile && hasBody && !context.is('json'))
    throw new HttpFault(415, 'type', 'Send JSON, with the header Content-Type: application/json')
  return next()
}

/** Requests for another name or from another page are refused: they come from a page elsewhere. */
export const sameSite =
  (config: Config): Middleware =>
  (context, next) => {
    const host = hostName(context.headers.host ?? '')
    const allowed = config.allowedHosts.includes(host) || isLoopback(host) || host === config.host
    if (!allowed && (isLoopback(config.host) || config.allowedHosts.length > 0)) {
      throw new HttpFault(
        403,
        'host',
        `Requests for "${host}" are not answered here; add it to TANGLE_ALLOWED_HOSTS`,
      )
    }
    const { origin } = context.headers
    if (
      origin &&
      !['GET', 'HEAD'].includes(context.method) &&
      origin.replace(/^https?:\/\//, '') !== context.headers.host
    ) {
      throw new HttpFault(403, 'origin', `Requests from a page at ${origin} are not answered`)
    }
    return next()
  }
const hostName = (host: string): string => host.replace(/:\d+$/, '').replace(/^\[|\]$/g, '')

/** Where a token is set, it must come as a bearer, a cookie, or once as ?token=… in the address. */
export const tokenRequired =
  (token: string | undefined): Middleware =>
  async (context, next) => {
    if (token === undefined || context.path === '/api/health') return next()
    const given = context.query.token
    if (typeof given === 'string' && equal(given, token)) {
      context.cookies.set(COOKIE, token, { httpOnly: true, sameSite: 'strict', overwrite: true })
      // one slash: with two a browser takes what follows for another host
      return context.redirect(context.path.replace(/^[/\\]+/, '/'))
    }
    if (!equal(bearer(context) ?? context.cookies.get(COOKIE) ?? '', token)) {
      await slowDown()
      throw new HttpFault(401, 'token', 'This Tangle needs its access token: open it with ?token=… once')
    }
    return next()
  }
/** Wrong tokens are answered one after another, a quarter of a second each: whoever tries many waits. */
let lastWrong: Promise<unknown> = Promise.resolve()
const slowDown = (): Promise<unknown> => (lastWrong = lastWrong.then(() => sleep(WRONG_TOKEN)))
const WRONG_TOKEN = 250
const bearer = (context: Context): string | undefined =>
  /^Bearer (.+)$/.exec(context.headers.authorization ?? '')?.[1]
const digest = (text: string): Buffer => createHash('sha256').update(text).digest()
const equal = (a: string, b: string): boolean => timingSafeEqual(digest(a), digest(b))
