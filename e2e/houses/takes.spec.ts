/** Takes as one handles them: paused, put first, protected, cleared away, without room, varied in a sweep; and how the page hears of it. */
import { expect, test } from '@playwright/test'
import { createHouse, createShot, FRAMES, takesOf } from './house.ts'

interface Told {
  id: string
  number: number
  status: string
  framesDone: number
  bytes: number
  pausedFor: string | null
  protected: boolean
  host: string | null
  fault: string | null
  millisecondsPerFrame: number | null
  sweep: string | null
  varied: { path: (string | number)[]; name: string; value: number }[] | null
}

test('a take is paused and goes on, comes first, is protected and cleared away; the page hears of each step', async ({
  request,
}) => {
  const house = await createHouse('tangle_takes')
  const gone = new AbortController()
  try {
    const { base } = house
    const shot = await createShot(request, house)
    const { make, state, reach, done, frames } = takesOf(request, house, shot)
    const turn = async (take: string, name: string): Promise<[number, Told]> => {
      const answer = await request.post(`${base}/takes/${take}/${name}`)
      return [answer.status(), (await answer.json()) as Told]
    }
    const heard: Told[][] = []
    const stream = await fetch(`${base}/shots/${shot}/takes/events`, { signal: gone.signal })
    expect(stream.headers.get('content-type')).toContain('text/event-stream')
    void listen(stream, heard).catch(() => undefined)

    house.worker()
    const calm = await make()
    await done(calm)
    const right = await frames(calm)

    // paused while it is computed: it stays where it is, and what it has stays; then the same bytes
    const paused = await make()
    await reach(paused, 12)
    expect(await turn(paused, 'pause')).toMatchObject([200, { status: 'paused', pausedFor: 'artist' }])
    expect((await turn(paused, 'pause'))[0]).toBe(409)
    await new Promise((resolve) => setTimeout(resolve, 2500))
    const { framesDone } = await state(paused)
    expect(framesDone).toBeLessThan(FRAMES)
    const later = await make()
    await done(later)
    expect(await state(paused)).toMatchObject({ status: 'paused', framesDone })
    expect(await turn(paused, 'resume')).toMatchObject([200, { status: 'waiting', pausedFor: null }])
    await done(paused)
    expect(await frames(paused)).toEqual(right)

    // one that is cancelled while it is paused keeps no frames, and takes no room
    const dropped = await make()
    await reach(dropped, 3)
    expect((await turn(dropped, 'pause'))[0]).toBe(200)
    expect(await turn(dropped, 'cancel')).toMatchObject([
      200,
      { status: 'cancelled', bytes: 0, framesDone: 0 },
    ])
    const parts = await house.database.query('SELECT 1 FROM take_part WHERE take_id = $1', [dropped])
    expect(parts.rowCount).toBe(0)
    await request.delete(`${base}/takes/${dropped}`)

    // of three that wait the last one is put first
    const [under, second, third] = [await make(), await make(), await make()]
    await reach(under, 1)
    expect((await turn(third, 'first'))[0]).toBe(200)
    await done(third)
    expect((await state(second)).status).not.toBe('done')
    expect((await turn(third, 'first'))[0]).toBe(409)
    await done(second)

    // one that is protected stays when others go
    expect(await turn(paused, 'protect')).toMatchObject([200, { protected: true }])
    expect((await request.delete(`${base}/takes/${paused}`)).status()).toBe(409)
    const cleared = await request.post(`${base}/shots/${shot}/clear`, { data: { keep: 1 } })
    const { takes } = (await cleared.json()) as { takes: string[] }
    expect(takes.toSorted()).toEqual([calm, later, under, second].toSorted())
    const left = (await (await request.get(`${base}/shots/${shot}/takes`)).json()) as Told[]
    expect(left.map(({ id }) => id).toSorted()).toEqual([paused, third].toSorted())
    expect((await request.post(`${base}/shots/${shot}/clear`, { data: { keep: -1 } })).status()).toBe(422)
    expect((await request.post(`${base}/takes/${calm}/restore`)).status()).toBe(204)

    const seen = (test: (take: Told) => boolean): boolean => heard.some((takes) => takes.some(test))
    await expect.poll(() => heard.at(-1)?.length).toBe(3)
    expect(seen(({ id, status }) => id === paused && status === 'paused')).toBe(true)
    expect(seen(({ status, host, millisecondsPerFrame }) => status === 'computing' && host !== null && millisecondsPerFrame! > 0)).toBe(true) // prettier-ignore
  } finally {
    gone.abort()
    await house.close()
  }
})

/** Collects the lists that server-sent events bring. */
async function listen(stream: Response, heard: Told[][]): Promise<void> {
  let text = ''
  for await (const piece of stream.body!) {
    text += Buffer.from(piece as Uint8Array).toString()
    for (let end = text.indexOf('\n\n'); end >= 0; end = text.indexOf('\n\n')) {
      const line = text.slice(0, end)
      text = text.slice(end + 2)
      if (line.startsWith('data: ')) heard.push(JSON.parse(line.slice(6)) as Told[])
    }
  }
}

test('without room a take stops with a word and goes on by itself; deleted ones make room first', async ({
  request,
}) => {
  const house = await createHouse('tangle_room', { TANGLE_TAKES_GB: '0.0045' })
  try {
    const { base, database } = house
    const { make, state, done, frames } = takesOf(request, house, await createShot(request, house))
    house.worker()
    const first = await make()
    await done(first)
    const right = await frames(first)
    const second = await make()
    await expect.poll(async () => (await state(second)).status, { timeout: 150_000 }).toBe('paused')
    expect((await state(second)).fault).toMatch(/^Takes have the 5 MB that they may have: delete takes/)
    expect((await (await request.get(`${base}/space`)).json()) as object).toEqual({
      takes: expect.any(Number) as unknown,
      quota: 0.0045 * 2 ** 30,
      folder: null,
    })
    // what is deleted goes for good when its room is needed
    await request.delete(`${base}/takes/${first}`)
    await request.post(`${base}/takes/${second}/resume`)
    await done(second)
    expect(await frames(second)).toEqual(right)
    expect((await request.post(`${base}/takes/${first}/restore`)).status()).toBe(404)

    // a disk that is full says so in the same way; when it is not any more the take goes on by itself
    await request.delete(`${base}/takes/${second}`)
    await database.query(`CREATE FUNCTION full_disk() RETURNS trigger LANGUAGE plpgsql AS
      $$ BEGIN IF NEW.frame > 9 THEN RAISE EXCEPTION 'could not extend file' USING ERRCODE = '53100'; END IF; RETURN NEW; END $$`)
    await database.query('CREATE TRIGGER full_disk BEFORE INSERT ON take_frame FOR EACH ROW EXECUTE FUNCTION full_disk()') // prettier-ignore
    const third = await make()
    await expect.poll(async () => (await state(third)).status, { timeout: 150_000 }).toBe('paused')
    expect(await state(third)).toMatchObject({ framesDone: 9, fault: expect.stringMatching(/^The disk/) as unknown }) // prettier-ignore
    await database.query('DROP TRIGGER full_disk ON take_frame')
    await done(third)
    expect(await frames(third)).toEqual(right)
  } finally {
    await house.close()
  }
})

test('a sweep makes a take of each combination, and refuses what can’t be varied', async ({ request }) => {
  const house = await createHouse('tangle_sweep')
  try {
    const { base } = house
    const shot = await createShot(request, house)
    const pull = ['populations', 0, 'influences', 2, 'strength']
    const ask = async (axes: object): Promise<[number, { takes?: Told[]; error?: { message: string } }]> => {
      const answer = await request.post(`${base}/shots/${shot}/sweeps`, { data: { axes } })
      return [answer.status(), (await answer.json()) as { takes?: Told[] }]
    }
    for (const [axes, says] of [
      [[], /vary something/],
      [[{ path: ['populations', 0, 'name'], values: [1] }], /no single number at populations.0.name/],
      [
        [
          { path: pull, values: [1] },
          { path: pull, values: [2] },
        ],
        /is varied already/,
      ],
      [[{ path: pull, values: [] }], /at least one value/],
      [[{ path: pull, values: Array.from({ length: 101 }, (_, k) => k) }], /101 takes/],
      [[{ path: ['populations', 0, 'particle', 'radius'], values: [-5] }], /radius/],
      [[{ path: ['populations', 0, 'births', 0, 'amount', 'rate'], values: [2e9] }], /amount = 2000000000/],
    ] as const) {
      const [status, { error }] = await ask(axes)
      expect([status, error!.message]).toEqual([422, expect.stringMatching(says)])
    }
    expect((await (await request.get(`${base}/shots/${shot}/takes`)).json()) as Told[]).toHaveLength(0)
    const [status, { takes }] = await ask([
      { path: pull, values: [0, 1] },
      { path: ['seed'], values: [1, 2] },
    ])
    expect(status).toBe(201)
    expect(takes!.map(({ varied }) => varied!.map(({ value }) => value)).reverse()).toEqual([
      [0, 1],
      [0, 2],
      [1, 1],
      [1, 2], // prettier-ignore
    ])
    expect(takes![0]!.varied![0]!.name).toMatch(/Gravity · strength$/)
    house.worker()
    house.worker()
    const all = async (): Promise<Told[]> => (await (await request.get(`${base}/shots/${shot}/takes`)).json()) as Told[] // prettier-ignore
    await expect.poll(async () => (await all()).filter(({ status: s }) => s === 'done').length, { timeout: 120_000 }).toBe(4) // prettier-ignore
    const prints = await Promise.all(
      takes!.map(async ({ id }) => {
        const { facts } = (await (await request.get(`${base}/takes/${id}`)).json()) as { facts: { fingerprint: string }[] } // prettier-ignore
        return facts.at(-1)!.fingerprint
      }),
    )
    expect(new Set(prints).size).toBe(4)

    // one that is damaged breaks off while it is written: it must not look whole; nobody else is harmed
    const [damaged, sound] = takes!.map(({ id }) => `${base}/takes/${id}/export?format=ply`)
    await house.database.query('DELETE FROM take_part WHERE take_id = $1 AND frame = 4', [takes![0]!.id])
    await expect(request.get(damaged!).then((answer) => answer.body())).rejects.toThrow()
    const written = await request.get(sound!)
    expect([written.status(), (await written.body()).subarray(0, 2).toString()]).toEqual([200, 'PK'])
  } finally {
    await house.close()
  }
})
