/**
 * Twenty takes while workers are killed and frozen, the server is killed, connections are broken and the database goes away, at random: all must end
 * whole, the same as undisturbed ones, with nothing left behind, and nobody did anything by hand.
 */
import { expect, test } from '@playwright/test'
import type { ChildProcess } from 'node:child_process'
import { setTimeout as sleep } from 'node:timers/promises'
import { createHouse, createShot, takesOf } from './house.ts'

const TAKES = 20
const WORKERS = 2
/** Seconds from one harm to the next, at most. */
const PAUSE = 4

/** The same harm for the same seed (a linear congruential generator, Numerical Recipes). */
function chances(seed: number): () => number {
  let state = seed >>> 0
  return () => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0) / 2 ** 32
}

test('chaos', async ({ request }) => {
  const seed = Number(process.env.TANGLE_SEED ?? 1)
  const chance = chances(seed)
  const house = await createHouse('tangle_chaos_house')
  const { base, database } = house
  const done: Record<string, number> = {}
  try {
    const shot = await createShot(request, house, { precision: 'exact' })
    const { make, state, done: whole, frames } = takesOf(request, house, shot)
    const workers: ChildProcess[] = Array.from({ length: WORKERS }, () => house.worker())
    const calm = await make()
    await whole(calm)
    const [right, inside] = [await frames(calm), await frames(calm, true)]
    const takes: string[] = []
    // every third is split over both workers
    const slicesOf = (n: number): number => (n % 3 === 0 ? 2 : 1)
    for (let n = 0; n < TAKES; n++) takes.push(await make(slicesOf(n)))

    const pick = (): number => Math.floor(chance() * WORKERS)
    const harms: Record<string, () => Promise<void>> = {
      async 'a worker is killed'() {
        const n = pick()
        workers[n]!.kill('SIGKILL')
        await sleep(1000 * chance())
        workers[n] = house.worker()
      },
      async 'a worker is frozen'() {
        const one = workers[pick()]!
        one.kill('SIGSTOP')
        await sleep(9000 * chance())
        one.kill('SIGCONT')
      },
      async 'connections are broken'() {
        await database.query('SELECT pg_terminate_backend(pid) FROM pg_stat_activity WHERE datname = current_database() AND pid <> pg_backend_pid()') // prettier-ignore
      },
      async 'the database goes away'() {
        house.breakRoad()
        await sleep(4000 * chance())
        await house.mendRoad()
      },
      async 'the server is killed'() {
        await house.restartServer()
      },
    }
    const names = Object.keys(harms)
    const finished = async (): Promise<number> => {
      const { rows } = await database.query<{ n: number }>("SELECT count(*)::int AS n FROM whole_take WHERE status = 'done'") // prettier-ignore
      return rows[0]!.n
    }
    for (const until = Date.now() + 1_200_000; Date.now() < until && (await finished()) <= TAKES;) {
      const name = names[Math.floor(chance() * names.length)]!
      done[name] = (done[name] ?? 0) + 1
      await harms[name]!()
      await sleep(PAUSE * 1000 * chance())
    }
    for (const [n, take] of takes.entries()) {
      const { status, fault } = await state(take)
      expect([take, status, fault]).toEqual([take, 'done', null])
      if (slicesOf(n) > 1) expect(await frames(take, true)).toEqual(inside)
      else expect(await frames(take)).toEqual(right)
    }
    const left = async (query: string): Promise<unknown[]> => (await database.query(query)).rows as unknown[]
    expect(await left('SELECT take_id FROM take_checkpoint')).toEqual([])
    expect(await left('SELECT take_id FROM take_frame GROUP BY take_id HAVING count(*) <> 60')).toEqual([])
    expect(await left("SELECT relname FROM pg_class WHERE relname LIKE 'take\\_part\\_%' AND relkind = 'r' AND NOT EXISTS (SELECT 1 FROM take WHERE relname = 'take_part_' || replace(id::text, '-', ''))")).toEqual([]) // prettier-ignore
    expect((await request.get(`${base}/health`)).ok()).toBe(true)
    console.log(`seed ${seed}: ${TAKES} takes whole and alike;`, done)
  } finally {
    await house.close()
  }
})
