import { expect, test, type APIRequestContext } from '@playwright/test'
import { spawn, type ChildProcess } from 'node:child_process'
import { createHash } from 'node:crypto'
import { once } from 'node:events'
import { createServer, type AddressInfo } from 'node:net'
import { join } from 'node:path'
import pg from 'pg'
import { ballObj } from './help.ts'

const root = join(import.meta.dirname, '..')
const FRAMES = 60

interface TakeState {
  status: string
  framesDone: number
  fault: string | null
  facts: { frame: number; fingerprint: string }[]
}

const freePort = async (): Promise<number> => {
  const server = createServer().listen(0, '127.0.0.1')
  await once(server, 'listening')
  const { port } = server.address() as AddressInfo
  server.close()
  await once(server, 'close')
  return port
}

/** A house of its own: a database, a server that computes nothing, and workers that come and go. */
async function createHouse() {
  const main = new URL(process.env.TANGLE_DATABASE_URL!)
  const admin = new pg.Client({ connectionString: main.href })
  await admin.connect()
  await admin.query('DROP DATABASE IF EXISTS tangle_workers WITH (FORCE)')
  await admin.query('CREATE DATABASE tangle_workers')
  const databaseUrl = Object.assign(new URL(main), { pathname: '/tangle_workers' }).href
  const port = await freePort()
  const processes: ChildProcess[] = []
  const run = (role: string[], threads: number): ChildProcess => {
    const env = {
      ...process.env,
      NODE_ENV: 'production',
      TANGLE_DATABASE_URL: databaseUrl,
      TANGLE_PORT: String(port),
      TANGLE_THREADS: String(threads),
    }
    const started = spawn(process.execPath, ['.build/server.mjs', ...role], {
      cwd: root,
      env,
      stdio: 'ignore',
    })
    processes.push(started)
    return started
  }
  run([], 0)
  const base = `http://127.0.0.1:${port}/api`
  await expect.poll(() => fetch(`${base}/health`).then((answer) => answer.ok, () => false), { timeout: 60_000 }).toBe(true) // prettier-ignore
  const database = await connectTo({ databaseUrl })
  return {
    base,
    databaseUrl,
    database,
    worker: () => run(['worker'], 1),
    async close() {
      const left = processes.filter(({ exitCode, signalCode }) => exitCode === null && signalCode === null)
      for (const one of left) one.kill('SIGKILL')
      await Promise.all(left.map((one) => once(one, 'exit')))
      await database.end()
      await admin.query('DROP DATABASE tangle_workers WITH (FORCE)')
      await admin.end()
    },
  }
}
async function connectTo({ databaseUrl }: Pick<House, 'databaseUrl'>): Promise<pg.Client> {
  const client = new pg.Client({ connectionString: databaseUrl })
  await client.connect()
  return client
}
type House = Awaited<ReturnType<typeof createHouse>>

async function createShot(request: APIRequestContext, { base }: House): Promise<string> {
  const stored = await request.post(`${base}/meshes?name=ball.obj`, { data: Buffer.from(ballObj(0.3)) })
  const { asset } = (await stored.json()) as { asset: string }
  const document = {
    format: 'tangle-shot',
    version: 1,
    name: 'Workers',
    frames: { first: 1, last: FRAMES, rate: 24 },
    meshes: [{ id: 'ball', source: { asset } }],
    populations: [
      {
        id: 'dust',
        particle: { lifespan: { mean: 30, spread: 20 } },
        births: [{ id: 'b', kind: 'volume', mesh: 'ball', into: 'Loose', amount: { rate: 8000 } }],
        influences: [{ id: 'noise', kind: 'turbulence' }, { id: 'ground', kind: 'floor' }, { id: 'pull', kind: 'gravity' }], // prettier-ignore
      },
    ],
  }
  const made = await request.post(`${base}/shots`, { data: { name: 'Workers', document } })
  return ((await made.json()) as { id: string }).id
}

test('a worker that is killed, and one that comes back late, spoil nothing: the fence holds', async ({
  request,
}) => {
  const house = await createHouse()
  try {
    const { base, database } = house
    const shot = await createShot(request, house)
    const make = async (): Promise<string> =>
      ((await (await request.post(`${base}/shots/${shot}/takes`, { data: {} })).json()) as { id: string }).id
    const state = async (take: string): Promise<TakeState> =>
      (await (await request.get(`${base}/takes/${take}`)).json()) as TakeState
    const reach = (take: string, frames: number) =>
      expect
        .poll(async () => (await state(take)).framesDone, { timeout: 60_000 })
        .toBeGreaterThanOrEqual(frames)
    /** As if the worker had been silent for longer than the reaper waits. */
    const silence = (take: string) =>
      database.query("UPDATE take SET beat_at = now() - interval '31 seconds' WHERE id = $1", [take])
    const attempt = async (take: string): Promise<number> =>
      (
        (await database.query('SELECT attempt FROM take WHERE id = $1', [take])).rows as { attempt: number }[]
      )[0]!.attempt
    const frames = async (take: string): Promise<string[]> => {
      const sums: string[] = []
      for (let frame = 1; frame <= FRAMES; frame++) {
        const bytes = await (await request.get(`${base}/takes/${take}/frames/${frame}`)).body()
        sums.push(createHash('sha256').update(bytes).digest('hex'))
      }
      return sums
    }
    const done = (take: string) =>
      expect.poll(async () => (await state(take)).status, { timeout: 120_000 }).toBe('done')

    // one that nobody disturbs, to compare with; without a worker it waits
    const calm = await make()
    await new Promise((resolve) => setTimeout(resolve, 1500))
    expect((await state(calm)).status).toBe('waiting')
    let first = house.worker()
    await done(calm)
    const right = await frames(calm)
    expect(new Set(right).size).toBe(FRAMES)

    // killed while it computes: another one takes over
    const killed = await make()
    await reach(killed, 10)
    first.kill('SIGKILL')
    await once(first, 'exit')
    expect((await state(killed)).status).toBe('computing')
    await silence(killed)
    const second = house.worker()
    await done(killed)
    expect(await frames(killed)).toEqual(right)
    second.kill('SIGTERM')
    await once(second, 'exit')

    // frozen while it computes, given to another, and then awake again beside it
    first = house.worker()
    const frozen = await make()
    await reach(frozen, 10)
    const before = await attempt(frozen)
    first.kill('SIGSTOP')
    await silence(frozen)
    const third = house.worker()
    await expect.poll(() => attempt(frozen), { timeout: 30_000 }).toBeGreaterThan(before)
    await reach(frozen, 3)
    first.kill('SIGCONT')
    await done(frozen)
    const { facts, framesDone, fault } = await state(frozen)
    expect([framesDone, fault]).toEqual([FRAMES, null])
    expect(facts.map(({ frame }) => frame)).toEqual(Array.from({ length: FRAMES }, (_, k) => k + 1))
    expect(await frames(frozen)).toEqual(right)
    expect(facts).toEqual((await state(calm)).facts.map((fact) => expect.objectContaining({ fingerprint: fact.fingerprint }))) // prettier-ignore

    // while a worker clears the frames of a take away, nobody can take it over
    third.kill('SIGTERM')
    await once(third, 'exit')
    await database.query("UPDATE take SET status = 'failed' WHERE id = $1", [killed])
    const holder = await connectTo(house)
    await holder.query('BEGIN')
    await holder.query('LOCK TABLE take_part IN ACCESS SHARE MODE')
    await request.post(`${base}/takes/${killed}/retry`)
    const clearing =
      "SELECT 1 FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND query LIKE 'DROP TABLE%'"
    await expect.poll(async () => (await database.query(clearing)).rowCount, { timeout: 20_000 }).toBe(1)
    await database.query("SET lock_timeout = '300ms'")
    const takeover = database.query('UPDATE take SET attempt = attempt + 1 WHERE id = $1', [killed])
    await expect(takeover).rejects.toThrow(/lock timeout/)
    await holder.end()
    await done(killed)
    expect(await frames(killed)).toEqual(right)

    // the one that had been frozen lives, and works on
    expect(first.exitCode).toBeNull()
    const last = await make()
    await done(last)
    expect(await frames(last)).toEqual(right)
  } finally {
    await house.close()
  }
})
