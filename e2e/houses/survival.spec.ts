/** What a house must survive: its database and its workers lost, everybody at once, jobs that nobody has. */
import { expect, test, type APIRequestContext } from '@playwright/test'
import { spawnSync } from 'node:child_process'
import { once } from 'node:events'
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { ballObj } from '../help.ts'
import { connectTo, createHouse, createShot, FRAMES, takesOf, type House } from './house.ts'

test('the database goes away and comes back, the worker dies: the take is whole, and the same to the bit', async ({
  request,
}) => {
  const house = await createHouse('tangle_survival')
  try {
    const { base, database } = house
    const { make, state, reach, done, frames } = takesOf(request, house, await createShot(request, house))
    let worker = house.worker()
    const calm = await make()
    await done(calm)
    const right = await frames(calm)

    // gone while a take is computed: it is told so, and nothing else changes
    const lost = await make()
    await reach(lost, 8)
    house.breakRoad()
    const shots = await request.get(`${base}/shots`)
    expect([shots.status(), shots.headers()['retry-after']]).toEqual([503, '2'])
    expect(await shots.json()).toMatchObject({ error: { code: 'database' } })
    const ill = await request.get(`${base}/health`)
    expect([ill.status(), await ill.json()]).toEqual([
      503,
      expect.objectContaining({ ok: false, database: false }),
    ])
    await house.mendRoad()
    await expect
      .poll(async () => (await request.get(`${base}/health`)).status(), { timeout: 150_000 })
      .toBe(200)
    await done(lost)
    expect(await frames(lost)).toEqual(right)

    // its connections broken again and again
    const broken = await make()
    for (const frame of [4, 16, 30]) {
      await reach(broken, frame)
      await database.query(
        'SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()',
      )
    }
    await done(broken)
    expect(await frames(broken)).toEqual(right)
    expect([house.server.exitCode, worker.exitCode]).toEqual([null, null])

    // a worker dies: another one goes on where it was, and computes no frame anew
    const left = await make()
    const checkpoint = async (): Promise<number> =>
      ((await database.query('SELECT coalesce(max(frame), 0) AS frame FROM take_checkpoint WHERE take_id = $1', [left])).rows as { frame: number }[])[0]!.frame // prettier-ignore
    await expect.poll(checkpoint, { timeout: 150_000 }).toBeGreaterThan(5)
    worker.kill('SIGKILL')
    await once(worker, 'exit')
    const kept = await checkpoint()
    const before = (await state(left)).facts.filter(({ frame }) => frame <= kept)
    worker = house.worker()
    await done(left)
    const after = await state(left)
    expect(after.note).toBe(`Gone on with from frame ${kept + 1}`)
    expect(after.facts.filter(({ frame }) => frame <= kept)).toEqual(before)
    expect([after.framesDone, await frames(left)]).toEqual([FRAMES, right])
    expect((await database.query('SELECT 1 FROM take_checkpoint')).rowCount).toBe(0)

    // what another program has left is of no use
    const foreign = await make()
    await expect.poll(async () => (await database.query('SELECT 1 FROM take_checkpoint')).rowCount).toBe(1)
    worker.kill('SIGKILL')
    await once(worker, 'exit')
    await database.query("UPDATE take_checkpoint SET key = repeat('0', 64)")
    house.worker()
    await done(foreign)
    expect((await state(foreign)).note).toMatch(/^Begun anew/)
    expect(await frames(foreign)).toEqual(right)
  } finally {
    await house.close()
  }
})

test('many at once, a job that is lost, a take that is brought back', async ({ request }) => {
  const house = await createHouse('tangle_rush')
  try {
    const { base, database } = house
    const shot = await createShot(request, house)
    const { make, state, done } = takesOf(request, house, shot)
    const all = <T>(count: number, one: (k: number) => Promise<T>) =>
      Promise.all(Array.from({ length: count }, (_, k) => one(k)))
    const askFor = async (data: object): Promise<[number, number]> => {
      const answer = await request.post(`${base}/shots/${shot}/takes`, { data })
      return [answer.status(), ((await answer.json()) as { number: number }).number]
    }
    // of one version there is one take, however many ask for it, unless they want it again
    const same = (await all(10, () => askFor({}))).toSorted((a, b) => b[0] - a[0])
    expect(same).toEqual([[201, 1], ...Array<unknown>(9).fill([200, 1])])
    const again = await all(10, () => askFor({ again: true }))
    expect(again.toSorted((a, b) => a[1] - b[1])).toEqual(Array.from({ length: 10 }, (_, k) => [201, k + 2]))
    const uploads = await all(12, async () => {
      const answer = await request.post(`${base}/meshes?name=other.obj`, { data: Buffer.from(ballObj(0.2)) })
      return [answer.status(), ((await answer.json()) as { asset: string }).asset]
    })
    expect(new Set(uploads.map(String)).size).toBe(1)
    expect(uploads[0]![0]).toBe(201)
    await cancelAll(request, house, shot)

    // a save whose answer was lost is sent again: it is no conflict; another one of the same version is
    const { document } = (await (await request.get(`${base}/shots/${shot}`)).json()) as { document: object }
    const save = (name: string) => request.put(`${base}/shots/${shot}`, { data: { version: 1, document: { ...document, name } } }) // prettier-ignore
    const saves = [await save('Once'), await save('Once'), await save('Twice')]
    expect(saves.map((answer) => answer.status())).toEqual([200, 200, 409])
    expect(await saves[1]!.json()).toEqual({ version: 2 })

    // its job is gone: it is computed all the same
    const forgotten = await make()
    await database.query('DELETE FROM queue.job')
    // deleted while it waits, and brought back
    const restored = await make()
    await request.delete(`${base}/takes/${restored}`)
    await database.query('DELETE FROM queue.job')
    expect((await request.post(`${base}/takes/${restored}/restore`)).status()).toBe(204)
    const worker = house.worker()
    await done(restored)
    await done(forgotten)
    const { queue } = (await (await request.get(`${base}/health`)).json()) as {
      queue: Record<string, number>
    }
    expect(queue).toEqual({ waiting: 0, computing: 0, workers: 1 })
    worker.kill('SIGTERM')
    const [code] = (await once(worker, 'exit')) as [number]
    expect(code).toBe(0)
    expect((await state(forgotten)).framesDone).toBe(FRAMES)
  } finally {
    await house.close()
  }
})

test('a back-up while Tangle runs, and back from it', async ({ request }) => {
  const house = await createHouse('tangle_backup')
  const folder = mkdtempSync(join(tmpdir(), 'tangle-backup-'))
  try {
    const { base, databaseUrl } = house
    const shot = await createShot(request, house)
    const { make, done } = takesOf(request, house, shot)
    house.worker()
    await done(await make())
    const [small, whole, broken] = ['small', 'whole', 'broken'].map((name) => join(folder, name)) as [string, string, string] // prettier-ignore
    const tangle = (...words: string[]) => {
      const env = { ...process.env, TANGLE_DATABASE_URL: databaseUrl }
      const { status, stderr } = spawnSync('./tangle', words, { cwd: join(import.meta.dirname, '../..'), env, encoding: 'utf8' }) // prettier-ignore
      return [status, stderr] as const
    }
    expect(tangle('backup', small)[0]).toBe(0)
    expect(tangle('backup', whole, '--takes')[0]).toBe(0)
    writeFileSync(broken, readFileSync(whole).subarray(0, 20_000))
    await request.delete(`${base}/shots/${shot}`)
    expect(tangle('restore', whole)).toEqual([1, expect.stringMatching(/Tangle is running: stop/)])
    await house.stop()
    const counts = async () => {
      const client = await connectTo(house)
      const { rows } = await client.query('SELECT (SELECT count(*)::int FROM shot WHERE deleted_at IS NULL) AS shots, (SELECT count(*)::int FROM mesh) AS meshes, (SELECT count(*)::int FROM take_frame) AS frames') // prettier-ignore
      await client.end()
      return rows[0] as { shots: number; meshes: number; frames: number }
    }
    const before = await counts()
    expect(tangle('restore', broken)).toEqual([1, expect.stringMatching(/everything is as it was/)])
    expect(tangle('restore', join(folder, 'none'))).toEqual([1, expect.stringMatching(/there is no file/)])
    expect(await counts()).toEqual(before)
    expect(tangle('restore', whole)[0]).toBe(0)
    expect(await counts()).toEqual({ ...before, shots: before.shots + 1, frames: FRAMES })
    expect(tangle('restore', small)[0]).toBe(0)
    expect(await counts()).toEqual({ ...before, shots: before.shots + 1, frames: 0 })
  } finally {
    rmSync(folder, { recursive: true })
    await house.close()
  }
})

async function cancelAll(request: APIRequestContext, { base }: House, shot: string): Promise<void> {
  const takes = (await (await request.get(`${base}/shots/${shot}/takes`)).json()) as { id: string }[]
  for (const { id } of takes) await request.post(`${base}/takes/${id}/cancel`)
}
