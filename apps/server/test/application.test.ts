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
async function serve(
  environment: Record<string, string> = {},
  error: Error = new Error('secret inside'),
  log = pino({ level: 'silent' }),
): Promise<string> {
  const fail = () => Promise.reject(error)
  const failing = { getRepository: () => ({ find: fail }), query: fail }
  const house = {
    config: readConfig({ ...DATABASE, ...environment }),
    source: failing,
    queue: {},
  } as unknown as House
  server = createServer(createApplication(house, log).callback())
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
  expect(await status('/api/kinds')).toBe(401)
  expect(await status('/')).toBe(401)
  expect(await status('/api/kinds', { authorization: 'Bearer wrong' })).toBe(401)
  expect(await status('/api/kinds', { authorization: `Bearer ${token}` })).toBe(200)
  expect(await status('/api/kinds', { cookie: `tangle-token=${token}` })).toBe(200)
  // whoever watches over the machine needs none to hear how it is
  expect(await status('/api/health')).toBe(503)
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

test('a database that is away is a 503 that says so, and when to come again', async () => {
  const base = await serve(
    {},
    Object.assign(new Error('connect ECONNREFUSED 127.0.0.1:5'), { code: 'ECONNREFUSED' }),
  )
  const answer = await fetch(`${base}/api/shots`)
  expect([answer.status, answer.headers.get('retry-after')]).toEqual([503, '2'])
  expect(await answer.json()).toMatchObject({ error: { code: 'database', message: expect.stringMatching(/nothing is lost/) } }) // prettier-ignore
  const health = await fetch(`${base}/api/health`)
  expect([health.status, await health.json()]).toEqual([
    503,
    expect.objectContaining({ ok: false, database: false }),
  ])
})

test('an address with two slashes does not lead to another host', async () => {
  const token = 'a-very-secret-token'
  const base = await serve({ TANGLE_TOKEN: token })
  const answer = await fetch(`${base}//elsewhere.example/a?token=${token}`, { redirect: 'manual' })
  expect([answer.status, answer.headers.get('location')]).toEqual([302, '/elsewhere.example/a'])
})

test('wrong tokens are answered one after another', async () => {
  const base = await serve({ TANGLE_TOKEN: 'a-very-secret-token' })
  const began = performance.now()
  const tries = Array.from({ length: 4 }, (_, k) => fetch(`${base}/api/kinds`, { headers: { authorization: `Bearer ${k}` } })) // prettier-ignore
  expect((await Promise.all(tries)).map(({ status }) => status)).toEqual([401, 401, 401, 401])
  expect(performance.now() - began).toBeGreaterThan(900)
})

test.each([
  ['XML', { 'content-type': 'text/xml' }, '<a/>', 415, /Send JSON/],
  ['no type', { 'content-type': '' }, '{}', 415, /Send JSON/],
  ['half a JSON', { 'content-type': 'application/json' }, '{"name":', 400, /JSON/],
  ['what is no gzip', { 'content-type': 'application/json', 'content-encoding': 'gzip' }, '{}', 400, /unpacked/],
  ['a zero in a name', { 'content-type': 'application/json' }, '{"name":"a\\u0000"}', 422, /^name has a sign/],
  ['half a pair of surrogates', { 'content-type': 'application/json' }, '{"document":{"a":[{"b":"\\ud800"}]}}', 422, /^document\.a\[0\]\.b has a sign/],
  ['a zero in a key', { 'content-type': 'application/json' }, '{"a\\u0000":1}', 422, /has a sign/],
  ['nests', { 'content-type': 'application/json' }, `{"document":${'['.repeat(9000)}${']'.repeat(9000)}}`, 422, /nested/],
])('a body that is %s is refused with the reason', async (_, headers, body, status, message) => {
  const base = await serve()
  const answer = await fetch(`${base}/api/shots`, { method: 'POST', headers, body: Buffer.from(body) })
  const { error } = (await answer.json()) as { error: { message: string } }
  expect([answer.status, error.message]).toEqual([status, expect.stringMatching(message)])
}) // prettier-ignore

/** A log that is kept, a line each. */
function keptLog() {
  const lines: Record<string, unknown>[] = []
  const write = (line: string): void => void lines.push(JSON.parse(line) as Record<string, unknown>)
  return { lines, log: pino({ level: 'warn' }, { write }) }
}

test('what goes wrong is found in the log by the number of its request', async () => {
  const { lines, log } = keptLog()
  const answer = await fetch(`${await serve({}, undefined, log)}/api/shots`)
  const { error } = (await answer.json()) as { error: { request: string } }
  expect(answer.headers.get('x-request-id')).toBe(error.request)
  expect(lines).toEqual([
    expect.objectContaining({ request: error.request, method: 'GET', path: '/api/shots' }),
  ])
  expect(JSON.stringify(lines)).toContain('secret inside')
})

test('pages that ask on and on while the database is away do not flood the log', async () => {
  const { lines, log } = keptLog()
  const base = await serve({}, Object.assign(new Error('connect'), { code: 'ECONNREFUSED' }), log)
  for (let n = 0; n < 40; n++) expect((await fetch(`${base}/api/shots`)).status).toBe(503)
  expect(lines.length).toBe(1)
})
