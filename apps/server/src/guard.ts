import { createHash, timingSafeEqual } from 'node:crypto'
import type { Context, Middleware } from 'koa'
import helmet from 'koa-helmet'
import type { Logger } from 'pino'
import { isLoopback, type Config } from './config.ts'
import { HttpFault } from './fault.ts'

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
export const answers =
  (log: Logger): Middleware =>
  async (context, next) => {
    try {
      await next()
      if (context.status === 404 && context.body === undefined && context.path.startsWith('/api/')) {
        throw new HttpFault(404, 'not-found', `There is nothing at ${context.method} ${context.path}`)
      }
    } catch (error) {
      const status =
        error instanceof HttpFault ? error.status : ((error as { status?: number }).status ?? 500)
      const known = status < 500
      if (!known) log.error(error, `${context.method} ${context.path}`)
      context.status = status
      context.body = {
        error: {
          code: error instanceof HttpFault ? error.code : known ? 'bad-request' : 'internal',
          message: known
            ? (error as Error).message
            : 'Something went wrong here; the log of the server says what',
          problems: error instanceof HttpFault ? error.problems : [],
          ...(error instanceof HttpFault ? error.more : {}),
        },
      }
    }
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
    if (token === undefined) return next()
    const given = context.query.token
    if (typeof given === 'string' && equal(given, token)) {
      context.cookies.set(COOKIE, token, { httpOnly: true, sameSite: 'strict', overwrite: true })
      return context.redirect(context.path)
    }
    if (!equal(bearer(context) ?? context.cookies.get(COOKIE) ?? '', token)) {
      throw new HttpFault(401, 'token', 'This Tangle needs its access token: open it with ?token=… once')
    }
    return next()
  }
const bearer = (context: Context): string | undefined =>
  /^Bearer (.+)$/.exec(context.headers.authorization ?? '')?.[1]
const digest = (text: string): Buffer => createHash('sha256').update(text).digest()
const equal = (a: string, b: string): boolean => timingSafeEqual(digest(a), digest(b))
