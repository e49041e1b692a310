/** The guards of the server, over HTTP, without a database. */
import { createServer, type Server } from 'node:http'
import type { AddressInfo } from 'node:net'
import { pino } from 'pino'
import { createApplication } from '../src/application.ts'
import { readConfig } from '../src/config.ts'
import type { House } from '../src/routes/context.ts'

const DATABASE = { TANGLE_DATABASE_URL: 'postgres://nowhere' }
let server: Server | undefined
afterEach(() => new Promise((resolve) => (server ? server.close(resolve) : resolve(null))))

/** A server whose database can't be reached: every query fails. */
async function serve(environment: Record<string, string> = {}): Promise<string> {
  const failing = { getRepository: () => ({ find: () => Promise.reject(new Error('secret inside')) }) }
  const house = {
    config: readConfig({ ...DATABASE, ...environment }),
    source: failing,
    queue: {},
  } as unknown as House
  server = createServer(createApplication(house, pino({ level: 'silent' })).callback())
  await new Promise<void>((resolve) => server!.listen(0, '127.0.0.1', resolve))
  return `http://127.0.0.1:${(server.address() as AddressInfo).port}`
}

test.each<[Record<string, string>, RegExp]>([
  [{ TANGLE_HOST: '0.0.0.0' }, /set TANGLE_TOKEN/],
  [{ TANGLE_HOST: '0.0.0.0', TANGLE_TOKEN: 'short' }, /at least 16/],
  [{ TANGLE_PORT: 'eighty' }, /must be a port/],
  [{ TANGLE_UPLOAD_MB: '-1' }, /TANGLE_UPLOAD_MB/],
  [{ TANGLE_THREADS: '-1' }, /TANGLE_THREADS must be a whole number from 0 to 16/],
  [{ TANGLE_THREADS: '17' }, /TANGLE_THREADS/],
  [{ TANGLE_THREADS: 'many' }, /TANGLE_THREADS/],
])('settings %p are refused with a sentence', (environment, message) => {
  expect(() => readConfig({ ...DATABASE, ...environment })).toThrow(message)
})

test('a server may leave computing to workers', () => {
  expect(readConfig({ ...DATABASE, TANGLE_THREADS: '0' }).threads).toBe(0)
  expect(readConfig(DATABASE).threads).toBeGreaterThan(0)
})

test('loopback needs no token; another address takes one', () => {
  expect(readConfig(DATABASE)).toMatchObject({ host: '127.0.0.1', port: 4680, token: undefined })
  expect(readConfig({ ...DATABASE, TANGLE_HOST: '0.0.0.0', TANGLE_TOKEN: 'x'.repeat(16) }).host).toBe(
    '0.0.0.0',
  )
})

test('with a token: nothing without it, all with it as bearer, cookie, or once in the address', async () => {
  const token = 'a-very-secret-token'
  const base = await serve({ TANGLE_TOKEN: token })
  const status = async (path: string, headers: Record<string, string> = {}) =>
    (await fetch(base + path, { headers, redirect: 'manual' })).status
  expect(await status('/api/health')).toBe(401)
  expect(await status('/')).toBe(401)
  expect(await status('/api/health', { authorization: 'Bearer wrong' })).toBe(401)
  expect(await status('/api/health', { authorization: `Bearer ${token}` })).toBe(200)
  expect(await status('/api/health', { cookie: `tangle-token=${token}` })).toBe(200)
  const entered = await fetch(`${base}/?token=${token}`, { redirect: 'manual' })
  expect(entered.status).toBe(302)
  expect(entered.headers.get('set-cookie')).toMatch(/tangle-token=.*samesite=strict; httponly/i)
  expect(entered.headers.get('location')).not.toContain(token)
})

test('what goes wrong inside is not told outside', async () => {
  const base = await serve()
  const answer = await fetch(`${base}/api/shots`)
  expect(answer.status).toBe(500)
  const text = await answer.text()
  expect(text).toMatch(/the log of the server says what/)
  expect(text).not.toMatch(/secret inside|\bat /)
})

test('kinds are described, and an unknown address says so', async () => {
  const base = await serve()
  const kinds = (await (await fetch(`${base}/api/kinds`)).json()) as { kind: string }[]
  expect(kinds.map((kind) => kind.kind)).toEqual(
    expect.arrayContaining(['surface', 'vertices', 'volume', 'gravity', 'wind', 'turbulence', 'drag']),
  )
  const answer = await fetch(`${base}/api/nowhere`)
  expect([answer.status, await answer.text()]).toEqual([404, expect.stringContaining('GET /api/nowhere')])
})
