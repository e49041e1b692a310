/** A take that is split over workers: each computes a part of its particles, and nobody who reads it sees that. */
import { expect, test } from '@playwright/test'
import { once } from 'node:events'
import { createHouse, createShot, FRAMES, takesOf } from './house.ts'

test('slices are computed by several workers, one of which is killed, and are the take that one would have made', async ({
  request,
}) => {
  const house = await createHouse('tangle_slices')
  try {
    const { base, database } = house
    const shot = await createShot(request, house, { precision: 'exact' })
    const { make, state, reach, done, frames } = takesOf(request, house, shot)
    const turn = async (take: string, name: string) => (await request.post(`${base}/takes/${take}/${name}`)).status() // prettier-ignore
    const left = async (): Promise<unknown[]> =>
      (
        await database.query(
          `SELECT id FROM take WHERE part_of IS NOT NULL AND status IN ('waiting', 'computing')
           UNION ALL SELECT take_id FROM take_checkpoint`,
        )
      ).rows as unknown[]
    const partitions = async (): Promise<number> =>
      (await database.query("SELECT 1 FROM pg_class WHERE relname LIKE 'take_part_%' AND relkind = 'r'")).rowCount! // prettier-ignore

    const first = house.worker()
    const whole = await make()
    await done(whole)
    const right = await frames(whole, true)

    house.worker()
    const split = await make(3)
    await reach(split, 6)
    first.kill('SIGKILL')
    await once(first, 'exit')
    await done(split)
    expect(await frames(split, true)).toEqual(right)
    const [a, b] = [await state(whole), await state(split)]
    expect(b).toMatchObject({ slices: 3, framesDone: FRAMES, fault: null })
    const told = ({ facts }: typeof a) => facts.map(({ frame, particles, measures }) => [frame, particles, measures.populations[0]!.speed.most]) // prettier-ignore
    expect(told(b)).toEqual(told(a))
    expect(await left()).toEqual([])

    // a renderer gets one file
    const exported = await request.get(`${base}/takes/${split}/export?format=usda&from=20&to=22`)
    const same = await request.get(`${base}/takes/${whole}/export?format=usda&from=20&to=22`)
    expect((await exported.text()).replaceAll('take 2', '')).toBe(
      (await same.text()).replaceAll('take 1', ''),
    )

    // what can’t be as it was chosen is refused with what to choose
    const fine = await request.get(`${base}/takes/${split}/export?format=vdb&voxel=0.00001&from=20`)
    expect([fine.status(), await fine.text()]).toEqual([
      422,
      expect.stringMatching(/choose larger ones \(voxel\)/),
    ])

    // paused, gone on with, cancelled; deleted and brought back: always all of it
    house.worker()
    const second = await make(2)
    await reach(second, 4)
    expect(await turn(second, 'pause')).toBe(200)
    expect((await state(second)).status).toBe('paused')
    expect(await turn(second, 'resume')).toBe(200)
    await done(second)
    expect(await frames(second, true)).toEqual(right)
    expect(await turn(second, 'cancel')).toBe(409)

    const dropped = await make(2)
    await reach(dropped, 4)
    expect(await turn(dropped, 'cancel')).toBe(200)
    expect(await state(dropped)).toMatchObject({ status: 'cancelled', framesDone: 0 })
    await expect.poll(partitions).toBe(1 + 3 + 2)
    expect(await turn(dropped, 'retry')).toBe(200)
    await done(dropped)
    expect(await frames(dropped, true)).toEqual(right)

    expect((await request.delete(`${base}/takes/${split}`)).status()).toBe(204)
    expect((await request.get(`${base}/takes/${split}`)).status()).toBe(404)
    expect(await turn(split, 'restore')).toBe(204)
    expect(await frames(split, true)).toEqual(right)

    // without being asked for: as many as have nothing to do
    const bare = await request.post(`${base}/shots/${shot}/takes`, { data: { again: true } })
    expect(await bare.json()).toMatchObject({ slices: 2 })
  } finally {
    await house.close()
  }
})

test('particles that act on one another are computed by one worker, and it is said why', async ({
  request,
}) => {
  const house = await createHouse('tangle_together')
  try {
    const shot = await createShot(request, house, { influences: [{ id: 'grains', kind: 'selfCollision' }] })
    const ask = (data: object) => request.post(`${house.base}/shots/${shot}/takes`, { data })
    const refused = await ask({ slices: 2 })
    expect(refused.status()).toBe(422)
    expect(await refused.text()).toMatch(/act on one another \(Self-collision of dust\)/)
    for (const slices of [0, 65, 1.5, 'two']) expect((await ask({ slices })).status()).toBe(422)
    const made = (await (await ask({})).json()) as { id: string; slices: number }
    expect(made.slices).toBe(1)
    // and a server without a folder for takes says how to give it one
    const nowhere = await request.post(`${house.base}/takes/${made.id}/files`, { data: { format: 'ply' } })
    expect([nowhere.status(), await nowhere.text()]).toEqual([
      409,
      expect.stringMatching(/TANGLE_EXPORT_FOLDER/),
    ])
  } finally {
    await house.close()
  }
})
