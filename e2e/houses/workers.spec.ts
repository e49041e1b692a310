import { expect, test } from '@playwright/test'
import { once } from 'node:events'
import { connectTo, createHouse, createShot, FRAMES, takesOf } from './house.ts'

test('a worker that is killed, and one that comes back late, spoil nothing: the fence holds', async ({
  request,
}) => {
  const house = await createHouse('tangle_workers')
  try {
    const { base, database } = house
    const shot = await createShot(request, house)
    const { make, state, reach, done, frames } = takesOf(request, house, shot)
    /** As if the worker had been silent for longer than the reaper waits. */
    const silence = (take: string) =>
      database.query("UPDATE take SET beat_at = now() - interval '31 seconds' WHERE id = $1", [take])
    const attempt = async (take: string): Promise<number> =>
      (
        (await database.query('SELECT attempt FROM take WHERE id = $1', [take])).rows as { attempt: number }[]
      )[0]!.attempt

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
    // the one that comes back at once goes on with it before it begins what waits
    const waiting = await make()
    const second = house.worker()
    await done(killed)
    expect((await state(waiting)).status).not.toBe('done')
    await done(waiting)
    expect(await frames(killed)).toEqual(right)
    second.kill('SIGTERM')
    await once(second, 'exit')

    // frozen in the middle of a transaction, given to another, and then awake again beside it
    first = house.worker()
    const frozen = await make()
    await reach(frozen, 10)
    const before = await attempt(frozen)
    const gate = await connectTo(house)
    await gate.query('BEGIN; LOCK TABLE take_part IN SHARE MODE')
    const storing =
      "SELECT 1 FROM pg_stat_activity WHERE wait_event_type = 'Lock' AND query LIKE 'INSERT INTO take_part%'"
    await expect.poll(async () => (await database.query(storing)).rowCount, { timeout: 150_000 }).toBe(1)
    first.kill('SIGSTOP')
    await gate.end()
    await silence(frozen)
    const third = house.worker()
    await expect.poll(() => attempt(frozen), { timeout: 150_000 }).toBeGreaterThan(before)
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
    await expect.poll(async () => (await database.query(clearing)).rowCount, { timeout: 150_000 }).toBe(1)
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
