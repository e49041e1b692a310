/** A house of its own for tests that harm it: a database, a server that computes nothing, and workers that come and go. */
import { expect, type APIRequestContext } from '@playwright/test'
import { spawn, type ChildProcess } from 'node:child_process'
import { createHash } from 'node:crypto'
import { once } from 'node:events'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { connect, createServer, type AddressInfo, type Socket } from 'node:net'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import pg from 'pg'
import { ballObj } from '../help.ts'

const root = join(import.meta.dirname, '../..')
export const FRAMES = 60

const freePort = async (): Promise<number> => {
  const server = createServer().listen(0, '127.0.0.1')
  await once(server, 'listening')
  const { port } = server.address() as AddressInfo
  server.close()
  await once(server, 'close')
  return port
}

export interface TakeState {
  status: string
  framesDone: number
  note: string | null
  fault: string | null
  slices: number
  facts: {
    frame: number
    fingerprint: string
    particles: number
    measures: { populations: { speed: { most: number } }[] }
  }[]
}

/** Passes connections on to the database until it is closed, which breaks them all. */
async function createRoad(to: URL) {
  const sockets = new Set<Socket>()
  const server = createServer((near) => {
    const far = connect(Number(to.port), to.hostname)
    for (const one of [near, far]) {
      sockets.add(one)
      one.on('error', () => undefined).on('close', () => [near, far].forEach((socket) => socket.destroy()))
    }
    near.pipe(far).pipe(near)
  }).listen(0, '127.0.0.1')
  await once(server, 'listening')
  return {
    port: (server.address() as AddressInfo).port,
    close() {
      server.close()
      for (const one of sockets) one.destroy()
    },
  }
}

/** `settings` are environment variables of its server and workers. */
export async function createHouse(name: string, settings: Record<string, string> = {}) {
  const main = new URL(process.env.TANGLE_DATABASE_URL!)
  const admin = new pg.Client({ connectionString: main.href })
  await admin.connect()
  await admin.query(`DROP DATABASE IF EXISTS ${name} WITH (FORCE)`)
  await admin.query(`CREATE DATABASE ${name}`)
  const databaseUrl = Object.assign(new URL(main), { pathname: `/${name}` }).href
  let road = await createRoad(main)
  const folder = mkdtempSync(join(tmpdir(), 'tangle-house-'))
  const addressFile = join(folder, 'address')
  const byRoad = (): string => Object.assign(new URL(databaseUrl), { port: String(road.port) }).href
  writeFileSync(addressFile, byRoad())
  const first = byRoad()
  const port = await freePort()
  const processes: ChildProcess[] = []
  const run = (role: string[], threads: number): ChildProcess => {
    const env = {
      ...process.env,
      NODE_ENV: 'production',
      TANGLE_DATABASE_URL: first,
      TANGLE_DATABASE_FILE: addressFile,
      TANGLE_CHECKPOINT_SECONDS: '0.5',
      TANGLE_PORT: String(port),
      TANGLE_THREADS: String(threads),
      ...settings,
    }
    const started = spawn(process.execPath, ['.build/server.mjs', ...role], {
      cwd: root,
      env,
      stdio: 'ignore',
    })
    processes.push(started)
    return started
  }
  let server = run([], 0)
  const base = `http://127.0.0.1:${port}/api`
  const answers = () => expect.poll(() => fetch(`${base}/health`).then((answer) => answer.ok, () => false), { timeout: 150_000 }).toBe(true) // prettier-ignore
  await answers()
  const database = await connectTo({ databaseUrl })
  return {
    base,
    databaseUrl,
    database,
    get server() {
      return server
    },
    /** Killed, and started again. */
    async restartServer() {
      if (server.exitCode === null && server.signalCode === null) {
        server.kill('SIGKILL')
        await once(server, 'exit')
      }
      server = run([], 0)
      await answers()
    },
    worker: () => run(['worker'], 1),
    /** The database is gone, to all but the test. */
    breakRoad: () => road.close(),
    /** It is back, at another port. */
    async mendRoad() {
      road = await createRoad(main)
      writeFileSync(addressFile, byRoad())
    },
    /** Nobody is connected to the database any more. */
    async stop() {
      const left = processes.filter(({ exitCode, signalCode }) => exitCode === null && signalCode === null)
      for (const one of left) one.kill('SIGKILL')
      await Promise.all(left.map((one) => once(one, 'exit')))
      road.close()
      await database.end()
    },
    async close() {
      await this.stop().catch(() => undefined)
      rmSync(folder, { recursive: true })
      for (const one of [name, `${name}_before`])
        await admin.query(`DROP DATABASE IF EXISTS ${one} WITH (FORCE)`)
      await admin.end()
    },
  }
}
export async function connectTo({ databaseUrl }: Pick<House, 'databaseUrl'>): Promise<pg.Client> {
  // what waits for ever says so
  const client = new pg.Client({ connectionString: databaseUrl, statement_timeout: 60_000 })
  await client.connect()
  return client
}
export type House = Awaited<ReturnType<typeof createHouse>>

export async function createShot(
  request: APIRequestContext,
  { base }: House,
  { influences = [], ...more }: { influences?: object[]; precision?: string } = {},
): Promise<string> {
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
        influences: [{ id: 'noise', kind: 'turbulence' }, { id: 'ground', kind: 'floor' }, { id: 'pull', kind: 'gravity' }, ...influences], // prettier-ignore
        ...more,
      },
    ],
  }
  const made = await request.post(`${base}/shots`, { data: { name: 'Workers', document } })
  return ((await made.json()) as { id: string }).id
}

/** What tests do with takes of a shot. */
export function takesOf(request: APIRequestContext, { base }: House, shot: string) {
  const state = async (take: string): Promise<TakeState> =>
    (await (await request.get(`${base}/takes/${take}`)).json()) as TakeState
  return {
    state,
    make: async (slices = 1): Promise<string> => {
      const made = await request.post(`${base}/shots/${shot}/takes`, { data: { again: true, slices } })
      return ((await made.json()) as { id: string }).id
    },
    reach: (take: string, frames: number) =>
      expect
        .poll(async () => (await state(take)).framesDone, { timeout: 150_000 })
        .toBeGreaterThanOrEqual(frames),
    done: (take: string) =>
      expect
        .poll(
          async () => {
            const { status, fault } = await state(take)
            return fault ?? status
          },
          { timeout: 150_000 },
        )
        .toBe('done'),
    /** Hashes of all frames, as they are stored; `whole`: of what is in every tenth. */
    async frames(take: string, whole = false): Promise<string[]> {
      const sums: string[] = []
      for (let frame = 1; frame <= FRAMES; frame += whole ? 10 : 1) {
        const bytes = await (
          await request.get(`${base}/takes/${take}/frames/${frame}${whole ? '?whole=1' : ''}`)
        ).body()
        sums.push(createHash('sha256').update(bytes).digest('hex'))
      }
      return sums
    },
  }
}
