/** A database that an older Tangle has left: brought up to date as the server starts, with everything in it. */
import { expect, test } from '@playwright/test'
import { once } from 'node:events'
import { createHouse, createShot, takesOf } from './house.ts'

/** What the last migrations have brought, taken back, the newest first. */
const BACK: [migration: string, ...statements: string[]][] = [
  [
    'Slices1764400000000',
    'DROP VIEW whole_take',
    'ALTER TABLE take DROP COLUMN part_of, DROP COLUMN slice, ALTER COLUMN number SET NOT NULL',
  ],
  [
    'Lifecycle1764300000000',
    'ALTER TABLE take DROP COLUMN paused_for, DROP COLUMN protected, DROP COLUMN host, DROP COLUMN sweep, DROP COLUMN varied',
  ],
]

test('shots, takes and their frames are what they were, and what is new works on them', async ({
  request,
}) => {
  const house = await createHouse('tangle_upgrade')
  try {
    const { base, database } = house
    const shot = await createShot(request, house)
    const { make, state, done, frames } = takesOf(request, house, shot)
    const worker = house.worker()
    const old = await make()
    await done(old)
    const right = await frames(old)
    worker.kill('SIGTERM')
    await once(worker, 'exit')
    house.server.kill('SIGTERM')
    await once(house.server, 'exit')

    for (const [migration, ...statements] of BACK) {
      for (const one of statements) await database.query(one)
      expect((await database.query('DELETE FROM migrations WHERE name = $1', [migration])).rowCount).toBe(1)
    }
    // an older document knows less of a mesh and of a population
    for (const table of ['shot', 'take'])
      await database.query(
        `UPDATE ${table} SET document = document #- '{meshes,0,playback}' #- '{populations,0,precision}' #- '{populations,0,goals}'`,
      )

    await house.restartServer()
    const { document } = (await (await request.get(`${base}/shots/${shot}`)).json()) as { document: { meshes: object[]; populations: object[] } } // prettier-ignore
    expect(document.meshes[0]).toMatchObject({ playback: { delay: 0, speed: 1, after: 'hold' } })
    expect(document.populations[0]).toMatchObject({ precision: 'compact', goals: [] })
    expect(await state(old)).toMatchObject({ status: 'done', slices: 1 })
    expect(await frames(old)).toEqual(right)
    expect((await request.get(`${base}/takes/${old}/export?format=ply&from=9&to=10`)).status()).toBe(200)
    expect((await request.post(`${base}/takes/${old}/protect`)).status()).toBe(200)
    house.worker()
    const split = await make(2)
    await done(split)
    const [whole, parts] = [(await state(old)).facts, (await state(split)).facts]
    expect(parts.map(({ particles }) => particles)).toEqual(whole.map(({ particles }) => particles))
  } finally {
    await house.close()
  }
})
