/** Every format from the command line: baked, verified, and touched. Needs the built programs. */
import { EXPORTS } from '@tangle/formats'
import { parse } from 'csv-parse/sync'
import { parquetReadObjects } from 'hyparquet'
import { readFile, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import { folder, prism, shot, tangle, write } from './run.ts'
import { firstOf } from '../../../packages/core/test/wide.ts'

/** Of those that verify tells apart by how they are built. */
const CUT_OFF = firstOf(4, ['ply', 'usdc', 'vdb', 'parquet', ...EXPORTS.map(({ kind }) => kind)])

test.each(EXPORTS.map(({ kind }) => kind))(
  'bake to %s: a line per frame, totals, and a cache that verifies until it is touched',
  async (format) => {
    await write('prism.obj', prism)
    const out = join(folder, format)
    const baked = await tangle(
      'bake',
      await write('shot.json', shot()),
      '--frames',
      '3-12',
      '--format',
      format,
      '--out',
      out,
      '--threads',
      '2',
      '--json',
    )
    expect([baked.code, baked.err]).toEqual([0, ''])
    const lines = baked.out
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as Record<string, unknown>)
    expect(lines).toHaveLength(11)
    expect(lines[0]).toMatchObject({
      frame: 3,
      particles: 40,
      fingerprint: expect.stringMatching(/^[0-9a-f]{16}$/),
      measures: { populations: [{ alive: 40, born: 20, died: 0, phases: { Loose: 40 } }] },
    })
    expect(lines[10]).toMatchObject({ total: { frames: 10 } })
    expect((await tangle('verify', out)).out).toMatch(/10 frames, 1300 particles: all as computed/)

    const manifest = JSON.parse(await readFile(join(out, 'cache.json'), 'utf8')) as { files: string[] }
    // the last one with particles in it
    const file = join(
      out,
      manifest.files.findLast((name) => !name.endsWith(format === 'usd-clips' ? '.usda' : '.pvd'))!,
    )
    const bytes = await readFile(file)
    const at =
      format === 'ply'
        ? bytes.length - 60
        : format === 'usda'
          ? bytes.indexOf('points.timeSamples') + 40
          : bytes.length >> 1
    bytes[at] = bytes[at] === 0x31 ? 0x32 : 0x31
    await writeFile(file, bytes)
    const touched = await tangle('verify', out, '--json')
    expect(touched.code).toBe(1)
    expect(touched.err).toMatch(/frame \d+, dust|differs|broken/)
    if (!CUT_OFF.includes(format)) return
    await writeFile(file, bytes.subarray(0, bytes.length / 2))
    expect(await tangle('verify', out)).toMatchObject({
      code: 1,
      err: expect.stringMatching(/cut off|missing|broken|has \d+/),
    })
  },
)

test('bake and verify in another space, numbered otherwise; what can’t be chosen is refused with what may be', async () => {
  await write('prism.obj', prism)
  const source = await write('shot.json', shot())
  const out = join(folder, 'space')
  const bake = (...more: string[]) => tangle('bake', source, '--frames', '3-5', '--out', out, ...more)
  const chosen = [
    '--format',
    'ply',
    '--unit',
    'cm',
    '--up',
    'z',
    '--number',
    '1001',
    '--digits',
    '6',
    '--backward',
  ]
  expect(await bake(...chosen)).toMatchObject({ code: 0, err: '' })
  const { files } = JSON.parse(await readFile(join(out, 'cache.json'), 'utf8')) as { files: string[] }
  expect(files.toSorted()).toEqual(['001001', '001002', '001003'].map((n) => `dust.${n}.ply`))
  expect((await readFile(join(out, files[0]!), 'latin1')).slice(0, 200)).toContain(
    'centimetres per second, Z up',
  )
  expect((await tangle('verify', out)).out).toMatch(/3 frames, .*: all as computed/)
  for (const [flags, says] of [
    [['--unit', 'mile'], /--unit must be one of m, cm/],
    [['--up', 'x'], /--up must be one of y, z/],
    [['--digits', '99'], /--digits must be/],
    [['--format', 'glb', '--up', 'z'], /always in metres with Y up/],
  ] as const) {
    const { code, err } = await bake(...flags)
    expect([code, err]).toEqual([2, expect.stringMatching(says)])
  }
})

test('events as tables: a row for each, read by others; what can’t be is refused with what can', async () => {
  await write('prism.obj', prism)
  const source = await write('shot.json', shot())
  const bake = (...more: string[]) => tangle('bake', source, '--frames', '3-12', '--events', ...more)
  const told = (await bake('--json')).out.trim().split('\n').slice(0, -1).map((line) => JSON.parse(line) as { frame: number; events: { counts: Record<string, number>; rows: { kind: string; particle: number; frame: number; place: number[] }[] }[] }) // prettier-ignore
  for (const format of ['csv', 'parquet']) {
    const out = join(folder, `events-${format}`)
    const chosen = ['--format', format, '--out', out, '--number', '103', '--unit', 'cm']
    expect(await bake(...chosen)).toMatchObject({ code: 0, err: '' })
    for (const { frame, events } of told) {
      const bytes = await readFile(join(out, `dust.events.0${frame + 100}.${format}`))
      const rows = format === 'csv'
        ? (parse(bytes, { columns: true, cast: true }) as Record<string, number | string>[])
        : ((await parquetReadObjects({ file: Uint8Array.from(bytes).buffer })) as Record<string, number | string>[]) // prettier-ignore
      expect(rows.map((row) => [row.kind, Number(row.particle), row.frame])).toEqual(
        events[0]!.rows.map((one) => [one.kind, one.particle, one.frame + 100]),
      )
      rows.forEach((row, k) => expect(Number(row.x)).toBeCloseTo(events[0]!.rows[k]!.place[0]! * 100, 3))
      expect(rows.filter(({ kind }) => kind === 'birth')).toHaveLength(events[0]!.counts.birth!)
    }
    expect((await tangle('verify', out)).out).toMatch(/as computed/)
    await writeFile(join(out, `dust.events.0105.${format}`), 'x')
    expect((await tangle('verify', out)).err).toMatch(/events\.0105.*differs/)
  }
  for (const flags of [[], ['--out', folder], ['--out', folder, '--format', 'csv', '--backward']])
    expect(await bake(...flags)).toMatchObject({ code: 2, err: expect.stringMatching(/--events/) as unknown })
})
