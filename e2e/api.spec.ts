import Ajv from 'ajv'
import { once } from 'node:events'
import { connect } from 'node:net'
import { expect, test, type APIRequestContext } from '@playwright/test'
import { ballObj } from './help.ts'

const demoShot = async (request: APIRequestContext) => {
  const cards = (await (await request.get('/api/shots')).json()) as { id: string; name: string }[]
  const { id } = cards.find((card) => card.name === 'Lantern sparks')!
  return (await (await request.get(`/api/shots/${id}`)).json()) as {
    id: string
    version: number
    document: Record<string, unknown>
  }
}

test('bad input is answered 4xx with where and why, and never with a stack', async ({ request }) => {
  const { id, version, document } = await demoShot(request)
  const put = (body: unknown) => request.put(`/api/shots/${id}`, { data: body as object })
  const cases: [Promise<Awaited<ReturnType<typeof put>>>, number, RegExp][] = [
    [
      put({ version, document: { ...document, frames: { first: 5, last: 1, rate: 24 } } }),
      422,
      /frames\.last/,
    ],
    [
      put({
        version,
        document: { ...document, meshes: [{ id: 'x', source: { asset: `sha256:${'a'.repeat(64)}` } }] },
      }),
      422,
      /no mesh|not stored/,
    ],
    [put({ version: 'one', document }), 422, /version/],
    [put({ version: 9999, document }), 409, /another window/],
    [put([1, 2]), 422, /missing|must be/],
    [request.get('/api/shots/nonsense'), 404, /no such shot/],
    [request.get('/api/takes/00000000-0000-4000-8000-000000000000'), 404, /no such take/],
    [request.get('/api/takes/00000000-0000-4000-8000-000000000000/frames/1;DROP'), 404, /no such/],
    [request.get('/api/meshes/..%2f..%2fetc'), 404, /./],
    [request.post('/api/meshes?name=a.exe', { data: 'x' }), 415, /OBJ, PLY, STL, GLB/],
    [request.post('/api/meshes?name=a.stl', { data: Buffer.from('short') }), 422, /cut off/],
    [
      request.post('/api/shots', {
        headers: { 'content-type': 'application/json' },
        data: Buffer.from('{"na'),
      }),
      400,
      /JSON/,
    ],
    [
      request.post('/api/shots', { headers: { origin: 'http://elsewhere.example' }, data: {} }),
      403,
      /elsewhere/,
    ],
    [request.get('/api/shots', { headers: { host: 'elsewhere.example' } }), 403, /elsewhere/],
  ]
  for (const [asked, status, message] of cases) {
    const answer = await asked
    const text = await answer.text()
    expect([answer.status(), text]).toEqual([status, expect.stringMatching(message)])
    expect(text).not.toMatch(/at \w+ \(|node_modules/)
  }
})

test('an upload that says it is too large is refused before it is sent', async ({ baseURL }) => {
  const { hostname, port } = new URL(baseURL!)
  const socket = connect(Number(port), hostname)
  socket.write(
    `POST /api/meshes?name=big.obj HTTP/1.1\r\nHost: ${hostname}:${port}\r\nContent-Length: ${300 * 2 ** 20}\r\n\r\nv 0`,
  )
  const [answer] = (await once(socket, 'data')) as [Buffer]
  socket.destroy()
  expect(answer.toString()).toMatch(/^HTTP\/1.1 413[\s\S]*256 MB/)
})

test('the page is isolated and may load nothing from elsewhere', async ({ request }) => {
  const { headers } = { headers: (await request.get('/')).headers() }
  expect(headers['cross-origin-opener-policy']).toBe('same-origin')
  expect(headers['cross-origin-embedder-policy']).toBe('require-corp')
  expect(headers['content-security-policy']).toContain("default-src 'self'")
  expect(headers['x-content-type-options']).toBe('nosniff')
})

test('takes: computed, cancelled, tried again, deleted and brought back', async ({ request }) => {
  const stored = await request.post('/api/meshes?name=ball.obj', { data: Buffer.from(ballObj(0.3)) })
  const { asset } = (await stored.json()) as { asset: string }
  const again = await request.post('/api/meshes?name=same.obj', { data: Buffer.from(ballObj(0.3)) })
  expect(((await again.json()) as { asset: string }).asset).toBe(asset)
  const document = {
    format: 'tangle-shot',
    version: 1,
    name: 'Long',
    frames: { first: 1, last: 2000, rate: 24 },
    meshes: [{ id: 'ball', source: { asset } }],
    populations: [
      {
        id: 'dust',
        births: [{ id: 'b', kind: 'volume', mesh: 'ball', into: 'Loose', amount: { burst: 20000, at: 1 } }],
        influences: [{ id: 't', kind: 'turbulence' }],
      },
    ],
  }
  const created = (await (await request.post('/api/shots', { data: { name: 'Long', document } })).json()) as {
    id: string
  }
  const take = (await (await request.post(`/api/shots/${created.id}/takes`, { data: {} })).json()) as {
    id: string
  }
  const state = async () =>
    (await (await request.get(`/api/takes/${take.id}`)).json()) as {
      status: string
      framesDone: number
      facts: { fingerprint: string }[]
    }
  await expect.poll(async () => (await state()).framesDone, { timeout: 150_000 }).toBeGreaterThan(3)
  expect((await request.get(`/api/takes/${take.id}/export?format=ply`)).status()).toBe(409)
  expect((await request.post(`/api/takes/${take.id}/cancel`)).ok()).toBe(true)
  const { framesDone } = await state()
  await new Promise((resolve) => setTimeout(resolve, 1500))
  expect((await state()).framesDone).toBeLessThanOrEqual(framesDone + 1)
  expect((await request.post(`/api/takes/${take.id}/retry`)).ok()).toBe(true)
  await expect.poll(async () => (await state()).status, { timeout: 150_000 }).toBe('computing')
  expect((await request.delete(`/api/takes/${take.id}`)).status()).toBe(204)
  expect((await request.get(`/api/takes/${take.id}`)).status()).toBe(404)
  expect((await request.post(`/api/takes/${take.id}/restore`)).status()).toBe(204)
  await request.delete(`/api/shots/${created.id}`)
})

test('what has settled is stored with the takes of a shot: the next take starts there, to the same bytes', async ({
  request,
}) => {
  const stored = await request.post('/api/meshes?name=ball.obj', { data: Buffer.from(ballObj(0.3)) })
  const { asset } = (await stored.json()) as { asset: string }
  const document = {
    format: 'tangle-shot',
    version: 1,
    name: 'Heap',
    frames: { first: 1, last: 4, rate: 24 },
    quality: { substeps: 4, settle: 60 },
    meshes: [{ id: 'ball', source: { asset }, place: { position: [0, 0.5, 0] } }],
    populations: [
      {
        id: 'grains',
        particle: { radius: 0.03 },
        births: [{ id: 'b', kind: 'volume', mesh: 'ball', into: 'Loose', fill: 'grid', spacing: 0.07, amount: { burst: 'all', at: 1 } }], // prettier-ignore
        influences: ['gravity', 'floor', 'selfCollision', 'sleep', 'tumble'].map((kind) => ({
          id: kind,
          kind,
        })),
        look: { draw: 'instances', instances: { set: [{ mesh: 'ball' }] } },
      },
    ],
  }
  const { id, version } = (await (
    await request.post('/api/shots', { data: { name: 'Heap', document } })
  ).json()) as { id: string; version: number }
  const takeOf = async (): Promise<{
    id: string
    settled: string | null
    facts: { fingerprint: string }[]
  }> => {
    const asked = await request.post(`/api/shots/${id}/takes`, { data: { again: true } })
    const made = (await asked.json()) as { id: string }
    const state = async () =>
      (await (await request.get(`/api/takes/${made.id}`)).json()) as {
        id: string
        status: string
        settled: string | null
        facts: { fingerprint: string }[]
      }
    await expect.poll(async () => (await state()).status, { timeout: 150_000 }).toBe('done')
    return state()
  }
  const [first, second] = [await takeOf(), await takeOf()]
  expect([first.settled, second.settled]).toEqual(['computed', 'stored'])
  const prints = ({ facts }: typeof first): string[] => facts.map((one) => one.fingerprint)
  expect(prints(first)).toHaveLength(4)
  expect(prints(second)).toEqual(prints(first))
  // another seed settles otherwise: nothing stored fits it
  const shot = (await (await request.get(`/api/shots/${id}`)).json()) as { document: object }
  await request.put(`/api/shots/${id}`, { data: { version, document: { ...shot.document, seed: 9 } } })
  const other = await takeOf()
  expect(other.settled).toBe('computed')
  // and the instances are written with the take
  const usda = await (await request.get(`/api/takes/${second.id}/export?format=usda`)).text()
  expect(usda).toContain('def PointInstancer "grains"')
  expect(usda).toContain('rel prototypes = [</Heap/grains/ball_0>]')
  const turned = await request.get(
    `/api/takes/${second.id}/export?format=usda&unit=cm&up=z&from=2&number=1001`,
  )
  const said = await turned.text()
  for (const line of ['metersPerUnit = 0.01', 'upAxis = "Z"', 'startTimeCode = 1001', 'endTimeCode = 1003'])
    expect(said).toContain(line)
  for (const wrong of ['format=usda&unit=yd', 'format=glb&up=z', 'format=ply&from=9', 'format=obj']) {
    const refused = await request.get(`/api/takes/${second.id}/export?${wrong}`)
    expect([
      refused.status(),
      ((await refused.json()) as { error: { message: string } }).error.message,
    ]).toEqual([422, expect.stringMatching(/must be|always in metres/)])
  }
  const begins = { usdc: 'PXR-USDC', ply: 'PK', vtp: 'PK', glb: 'PK', csv: 'PK', parquet: 'PK' }
  for (const [format, begin] of Object.entries(begins)) {
    const file = await request.get(`/api/takes/${second.id}/export?format=${format}`)
    expect(file.headers()['content-disposition']).toMatch(new RegExp(`\\.${format}(\\.zip)?"$`))
    expect((await file.body()).subarray(0, begin.length).toString()).toBe(begin)
  }
  await request.delete(`/api/shots/${id}`)
})

test('every example of the description runs, and every answer is what it says', async ({ request }) => {
  const described = (await (await request.get('/api/openapi.json')).json()) as {
    paths: Record<string, Record<string, { requestBody?: { content: Record<string, { example?: unknown }> }; responses: Record<string, { content?: Record<string, { schema?: object }> }> }>> // prettier-ignore
    components: { schemas: Record<string, object> }
  }
  const answerOf = async (method: string, address: string, data?: unknown) =>
    request.fetch(address, { method, ...(data !== undefined && { data: data as object }) })
  // what the addresses name: a short shot of the demo, with a take and a stored mesh
  const ball = await request.post('/api/meshes?name=ball.obj', { data: Buffer.from(ballObj(0.3)) })
  const sha = ((await ball.json()) as { asset: string }).asset.replace('sha256:', '')
  const { document } = await demoShot(request)
  const short = { ...document, name: 'Short', frames: { first: 1, last: 6, rate: 24 } }
  const ids: Record<string, string> = { sha, frame: '3', shot: await made(request, '/api/shots', { name: 'Short', document: short }) } // prettier-ignore
  ids.take = await made(request, `/api/shots/${ids.shot}/takes`, {})
  await expect
    .poll(
      async () => ((await (await request.get(`/api/takes/${ids.take}`)).json()) as { status: string }).status,
      { timeout: 60_000 },
    ) // prettier-ignore
    .toBe('done')
  let tried = 0
  const all = Object.entries(described.paths).flatMap(([path, methods]) => Object.entries(methods).map(([method, one]) => ({ path, method, ...one }))) // prettier-ignore
  // what ends a shot or a take comes last
  const order = (one: { path: string; method: string }): number => (one.method === 'delete' ? 1 : one.path.endsWith('restore') ? 2 : 0) // prettier-ignore
  for (const { path, method, requestBody, responses } of all.sort((a, b) => order(a) - order(b))) {
    if (path.endsWith('/events')) continue
    const address = path.replaceAll(/\{(\w+)\}/g, (_, name: string) => ids[name]!)
    const query = path.endsWith('/export') ? '?format=csv' : path === '/api/meshes' && method === 'post' ? '?name=ball.obj' : '' // prettier-ignore
    const picture = /\/(thumbnail|strip)$/.test(path) ? Buffer.from('iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNkYPhfDwAChwGA60e6kgAAAABJRU5ErkJggg==', 'base64') : Buffer.from(ballObj(0.3)) // prettier-ignore
    const example = requestBody?.content['application/json']?.example ?? (requestBody ? picture : undefined)
    const answer = await answerOf(method, address + query, example)
    const said = responses[answer.status()]
    expect([method, path, answer.status(), said === undefined ? await answer.text() : 'described']).toEqual([method, path, answer.status(), 'described']) // prettier-ignore
    const schema = said!.content?.['application/json']?.schema
    if (schema) {
      const valid = new Ajv().compile({ ...schema, components: described.components })
      expect([method, path, valid(await answer.json()), valid.errors]).toEqual([method, path, true, null])
      tried++
    }
  }
  expect(tried).toBeGreaterThan(15)
})

const made = async (request: APIRequestContext, address: string, data: object): Promise<string> =>
  ((await (await request.post(address, { data })).json()) as { id: string }).id
