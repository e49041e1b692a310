/** The command line as it is called: exit codes, messages, files. Needs the built programs. */
import { readFile, rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { folder, prism, shot, tangle, write } from './run.ts'

test('covers and instances are baked with the rest, measured in every frame, and verified', async () => {
  await write('prism.obj', prism)
  const meshes = [
    ...shot().meshes,
    { id: 'plate', source: { file: 'prism.obj' }, place: { position: [-2, -1, -2], scale: [6, 0.01, 6] } },
  ]
  const population = {
    ...shot().populations[0],
    particle: { radius: { mean: 0.02, spread: 0.5 }, sizes: 'exponential' },
    influences: [
      { id: 'g', kind: 'gravity' },
      { id: 'c', kind: 'collide', mesh: 'plate', bounce: 0, friction: 3 },
      { id: 'k', kind: 'cover', mesh: 'plate', depth: 0, detail: 0.4 },
      { id: 't', kind: 'tumble' },
    ],
    look: { draw: 'instances', instances: { set: [{ mesh: 'm', weight: 2 }, { mesh: 'plate' }] } }, // prettier-ignore
  }
  const path = await write('drift.json', shot({ meshes, populations: [population], frames: { first: 1, last: 30, rate: 24 } })) // prettier-ignore
  for (const format of ['ply', 'usda']) {
    const out = join(folder, `drift-${format}`)
    const baked = await tangle('bake', path, '--out', out, '--format', format, '--json')
    expect([baked.code, baked.err]).toEqual([0, ''])
    const frames = baked.out.trim().split('\n').map((line) => JSON.parse(line) as { measures?: { covers: { id: string; volume: number; deepest: number }[] } }) // prettier-ignore
    const volumes = frames.flatMap(({ measures }) => measures?.covers.map(({ volume }) => volume) ?? [])
    expect(volumes).toHaveLength(30)
    expect([volumes[0], volumes[29]! > 0]).toEqual([0, true])
    expect((await tangle('verify', out)).code).toBe(0)
    const manifest = JSON.parse(await readFile(join(out, 'cache.json'), 'utf8')) as { files: string[]; frames: { meshes: { id: string; triangles: number }[] }[] } // prettier-ignore
    expect(manifest.frames.at(-1)!.meshes).toMatchObject([{ id: 'plate.cover' }])
    expect(manifest.frames.at(-1)!.meshes[0]!.triangles).toBeGreaterThan(4)
    if (format === 'ply') expect(manifest.files).toEqual(expect.arrayContaining(['dust.instance-0.ply', 'dust.instance-1.ply', 'plate.cover.mesh.0030.ply'])) // prettier-ignore
  }
  const wrong = { ...population, look: { draw: 'instances', instances: { set: [{ mesh: 'bolt' }] } } }
  const refused = await tangle('bake', await write('wrong.json', shot({ meshes, populations: [wrong] })))
  expect(refused.code).toBe(1)
  expect(refused.err).toMatch(/look\.instances\.set\[0\]\.mesh there is no mesh "bolt"/)
})

test('verify finds a trail that was touched or taken away', async () => {
  await write('prism.obj', prism)
  const [population] = shot().populations
  const drawn = { ...population, look: { trail: { length: 4, width: 0.01 } } }
  const out = join(folder, 'trails')
  const path = await write('drawn.json', shot({ populations: [drawn] }))
  expect((await tangle('bake', path, '--out', out)).code).toBe(0)
  expect((await tangle('verify', out)).code).toBe(0)
  const file = join(out, 'dust.trails.0009.ply')
  const bytes = await readFile(file)
  bytes[bytes.length - 3]! ^= 1
  await writeFile(file, bytes)
  expect((await tangle('verify', out)).err).toMatch(/dust\.trails\.0009\.ply: differs/)
  await rm(file)
  expect((await tangle('verify', out)).err).toMatch(/dust\.trails\.0009\.ply: is missing/)
})

test('frames tell how far it is to the goal, who has arrived, and what overlaps', async () => {
  await write('prism.obj', prism)
  await write('four.csv', 'x,y,z\n9,0,0\n9,1,0\n9,0,1\n9,1,1\n')
  const meshes = [...shot().meshes, { id: 'four', source: { file: 'four.csv' } }]
  const population = {
    id: 'dust',
    particle: { radius: 0.2 },
    births: [{ id: 'b', kind: 'surface', mesh: 'm', into: 'Loose', amount: { burst: 8, at: 1 } }],
    goals: [{ id: 'g', kind: 'vertices', mesh: 'four', arrived: 0.1 }],
    influences: [{ id: 's', kind: 'settle', goal: 'g', within: 50, halfLife: 0.02, weights: { Loose: 1 } }],
  }
  const path = await write('swarm.json', shot({ meshes, populations: [population] }))
  const lines = (await tangle('bake', path, '--json')).out.trim().split('\n').map((line) => JSON.parse(line)) // prettier-ignore
  const measured = (k: number) => lines[k].measures.populations[0]
  expect(measured(0).goals[0]).toMatchObject({ id: 'g', paired: 8, arrived: 0 })
  expect(measured(0).goals[0].median).toBeGreaterThan(8)
  expect(measured(0).goals[0].most).toBeGreaterThanOrEqual(measured(0).goals[0].high)
  // two share each place: four pairs, as deep as the sum of their radii
  expect(measured(11).goals[0]).toMatchObject({ paired: 8, arrived: 8 })
  expect(measured(11).overlaps).toMatchObject({ pairs: 4, touching: 8, share: expect.closeTo(4 / 28, 6) })
  expect(measured(11).overlaps.worst).toBeGreaterThan(0.2)
})

test('a share computes fewer of the same; frames outside and after are refused', async () => {
  await write('prism.obj', prism)
  const path = await write('shot.json', shot())
  const part = JSON.parse(
    (await tangle('bake', path, '--frames', '12', '--share', '0.5', '--json')).out.split('\n')[0]!,
  ) as { particles: number }
  expect(part.particles).toBeGreaterThan(70)
  expect(part.particles).toBeLessThan(150)
  expect(await tangle('bake', path, '--frames', '1-13')).toMatchObject({
    code: 1,
    err: expect.stringContaining('frames 1 to 12'),
  })
})

test.each<[string, unknown, RegExp]>([
  ['not JSON', '{"format":', /is not JSON/],
  ['a wrong value', shot({ frames: { first: 1, last: 12, rate: -1 } }), /frames\.rate .*1 to 240/],
  [
    'a missing mesh file',
    shot({ meshes: [{ id: 'm', source: { file: 'nowhere.obj' } }] }),
    /nowhere\.obj.*ENOENT/,
  ],
  [
    'a stored mesh',
    shot({ meshes: [{ id: 'm', source: { asset: `sha256:${'0'.repeat(64)}` } }] }),
    /give \{"file"/,
  ],
  ['a broken mesh', shot({ meshes: [{ id: 'm', source: { file: 'broken.obj' } }] }), /broken\.obj: line 1/],
  [
    'too fine a grid',
    shot({
      populations: [
        {
          id: 'd',
          births: [
            {
              id: 'b',
              kind: 'volume',
              mesh: 'm',
              into: 'Loose',
              fill: 'grid',
              spacing: 0.0002,
              amount: { burst: 'all', at: 1 },
            },
          ],
        },
      ],
    }),
    /make the spacing larger/,
  ],
])('a shot with %s: exit 1, and standard error says where', async (_, content, message) => {
  await write('prism.obj', prism)
  await write('broken.obj', 'v 1 2\n')
  const { code, err } = await tangle('bake', await write('bad.json', content))
  expect(err).toMatch(message)
  expect(err).not.toMatch(/\n\s+at /)
  expect(code).toBe(1)
})

test.each([
  [['bake', 'demo:lantern-sparks', '--format', 'fbx'], /one of usdc, usda, usd-clips, ply/],
  [['bake', 'demo:lantern-sparks', '--frames', 'a-b'], /1-48/],
  [['bake', 'demo:lantern-sparks', '--threads', '0'], /1 to 16/],
  [['bake'], /missing required argument/],
  [['paint'], /unknown command/],
])('%p: exit 2', async (args, message) => {
  const { code, err } = await tangle(...args)
  expect([code, err]).toEqual([2, expect.stringMatching(message)])
})

test('describe tells kinds and demos, and the reference page is the present one', async () => {
  const turbulence = JSON.parse((await tangle('describe', 'turbulence')).out) as {
    parameters: Record<string, unknown>
  }
  expect(turbulence.parameters.octaves).toMatchObject({ range: [1, 8], default: 2 })
  const demos = JSON.parse((await tangle('describe', 'demos')).out) as { name: string }[]
  expect(demos.map((demo) => demo.name)).toContain('demo:beacon-to-dust')
  expect((await tangle('describe', 'glitter')).code).toBe(1)
  expect(await readFile('docs/reference.md', 'utf8')).toBe((await tangle('describe', '--page')).out)
})

describe('events and attributes of their own', () => {
  const own = () =>
    shot({
      populations: [
        {
          id: 'dust',
          phases: ['Loose', 'Slow'],
          particle: { lifespan: { mean: 6, spread: 0 } },
          attributes: [
            { id: 'pace', name: 'Pace', type: 'number', unit: 'm/s', birth: { low: 1, high: 2 } },
            { id: 'way', name: 'Way', type: 'vector', birth: { mean: [0, 1, 0], spread: 0 } },
          ],
          births: [{ id: 'b', kind: 'surface', mesh: 'm', into: 'Loose', amount: { burst: 30, at: 1 } }],
          cues: [
            { id: 'c', from: 'Loose', to: 'Slow', when: { kind: 'after', frames: { mean: 3, spread: 0 } } },
          ],
          influences: [{ id: 's', kind: 'set', attribute: 'pace', weights: { Slow: 1 }, strength: 1 }],
        },
      ],
    })
  interface Told {
    frame?: number
    events?: {
      id: string
      counts: Record<string, number>
      rows: { kind: string; particle: number; frame: number }[]
    }[]
    measures?: { populations: { events: Record<string, number> }[] }
  }
  const linesOf = (out: string): Told[] =>
    out
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as Told)

  test('--events tells each, with the counts that the measures have; without it none', async () => {
    await write('prism.obj', prism)
    const path = await write('own.json', own())
    const lines = linesOf((await tangle('bake', path, '--json', '--events')).out).filter(({ frame }) => frame)
    expect(lines).toHaveLength(12)
    const total: Record<string, number> = {}
    for (const { frame, events, measures } of lines) {
      const [{ id, counts, rows }] = events as [NonNullable<Told['events']>[0]]
      expect(id).toBe('dust')
      for (const [kind, count] of Object.entries(counts)) {
        expect(rows.filter((row) => row.kind === kind)).toHaveLength(count)
        expect(measures!.populations[0]!.events[kind]).toBe(count)
        total[kind] = (total[kind] ?? 0) + count
      }
      // what is told of a frame happened since the one before
      for (const row of rows) expect(row.frame > frame! - 1.001 && row.frame <= frame!).toBe(true)
    }
    expect(total).toMatchObject({ birth: 30, phase: 30, death: 30, touch: 0, break: 0 })
    const plain = linesOf((await tangle('bake', path, '--json')).out)
    expect(plain.every(({ events }) => events === undefined)).toBe(true)
  })

  test.each(['ply', 'usda'])(
    'own attributes are baked to %s and verified; a touched file is told',
    async (format) => {
      await write('prism.obj', prism)
      const out = join(folder, `own-${format}`)
      const baked = await tangle('bake', await write('own.json', own()), '--frames', '1-5', '--format', format, '--out', out) // prettier-ignore
      expect([baked.code, baked.err]).toEqual([0, ''])
      expect(await tangle('verify', out)).toMatchObject({
        code: 0,
        out: expect.stringContaining('all as computed'),
      })
      const { files } = JSON.parse(await readFile(join(out, 'cache.json'), 'utf8')) as { files: string[] }
      const path = join(out, files.at(-1)!)
      const bytes = await readFile(path)
      expect(bytes.toString('latin1')).toMatch(
        format === 'ply' ? /property float pace\n/ : /float\[\] primvars:pace/,
      )
      expect(bytes.toString('latin1')).toMatch(
        format === 'ply' ? /property float way_z\n/ : /float3\[\] primvars:way/,
      )
      bytes[bytes.length - 9]! ^= 1
      await writeFile(path, bytes)
      expect((await tangle('verify', out)).code).toBe(1)
    },
  )

  test('an attribute that nobody declared, or of a wrong kind, is refused where it stands', async () => {
    await write('prism.obj', prism)
    const { populations } = own() as unknown as { populations: Record<string, unknown>[] }
    const broken = (change: object) =>
      write('broken.json', shot({ populations: [{ ...populations[0], ...change }] }))
    const undeclared = await tangle('bake', await broken({ attributes: [] }))
    expect(undeclared.err).toMatch(/influences\[0\]\.attribute.*pace/)
    const unknown = await tangle('bake', await broken({ attributes: [{ id: 'pace', name: 'P', type: 'colours', birth: { mean: 1, spread: 0 } }] })) // prettier-ignore
    expect(unknown.err).toMatch(/attributes\[0\]\.type/)
    const taken = await tangle('bake', await broken({ attributes: [{ id: 'position', name: 'P', type: 'number', birth: { mean: 1, spread: 0 } }], influences: [] })) // prettier-ignore
    expect(taken.err).toMatch(/attributes\[0\]\.id/)
    expect([undeclared.code, unknown.code, taken.code]).toEqual([1, 1, 1])
  })
})
