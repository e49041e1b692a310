/** Meshes and points in a file for each frame. */
import { createScene, createSimulation, meshFacts, readShot, type Mesh, type Shot } from '@tangle/core'
import { createMachine } from '@tangle/kernels'
import { strToU8, zipSync } from 'fflate'
import { packSequence, readMesh, sequencesAmong } from '../src/index.ts'
import { framesFrom, frameOf, write } from './take.ts'

const RATE = 24
const asset = `sha256:${'0'.repeat(64)}`
const sequence = (files: Record<string, string>): Promise<Mesh> =>
  readMesh(
    's.zip',
    zipSync(Object.fromEntries(Object.entries(files).map(([name, text]) => [name, strToU8(text)]))),
  )
/** A roof whose ridge is so high. */
const roof = (height: number): string =>
  `v 0 0 0\nv 1 0 0\nv 1 0 2\nv 0 0 2\nv 0.5 ${height} 0\nv 0.5 ${height} 2\nf 1 5 6 4\nf 5 2 3 6\n`
const points = (rows: number[][], ids?: number[]): string =>
  `${ids ? 'id,' : ''}x,y,z\n${rows.map((row, k) => [...(ids ? [ids[k]!] : []), ...row].join(',')).join('\n')}\n`

function shotOf(more: object = {}): Shot {
  const { shot, problems } = readShot({
    format: 'tangle-shot',
    version: 1,
    name: 'S',
    frames: { first: 5, last: 60, rate: RATE },
    meshes: [{ id: 'm', source: { asset } }],
    ...more,
  })
  if (problems) throw new Error(JSON.stringify(problems))
  return shot
}
function worldAt(mesh: Mesh, frame: number): number[] {
  const { bodies } = createScene(createMachine(), shotOf(), new Map([[asset, mesh]]), new Set(['m']))
  return [...bodies.get('m')!.worldView(frame)]
}

test('OBJ files are a frame each, in the order of their numbers; a frame that is not there lies between', async () => {
  const mesh = await sequence({ 'roof.0012.obj': roof(4), 'roof.0009.obj': roof(1), 'roof.0010.obj': roof(2), '__MACOSX/._roof.0010.obj': 'x', '.DS_Store': 'x' }) // prettier-ignore
  expect(meshFacts(mesh)).toMatchObject({ vertices: 6, triangles: 4, motion: { samples: 4, seconds: null } })
  const ridge = (frame: number): number => Math.max(...worldAt(mesh, frame))
  for (const [frame, height] of [[5, 2], [6, 2], [6.5, 2.5], [7, 3], [8, 4], [40, 4]] as const) expect(ridge(frame)).toBeCloseTo(height, 6) // prettier-ignore
  // the eaves are 2 m long, so the first frame is told by the middle of the ridge
  expect(worldAt(mesh, 5)[13]).toBeCloseTo(1, 6)
})

test('vertices that are one but for the last places of decimals are welded, as in a mesh that keeps still', async () => {
  const pole = (k: number): string => `${k * 1e-13} ${1 + k * 1e-12}`
  const fan = (height: number): string =>
    [0, 1, 2].map((k) => `v ${pole(k)} 0\nv ${Math.cos(2 * k)} ${height} ${Math.sin(2 * k)}\n`).join('') +
    'f 1 2 4\nf 3 4 6\nf 5 6 2\nf 2 6 4\n'
  const mesh = await sequence({ 'a.1.obj': fan(0), 'a.2.obj': fan(-1), 'a.3.obj': fan(-2) })
  expect(meshFacts(mesh)).toMatchObject({ vertices: 4, openEdges: 0 })
})

test('a hyphen before the number is none of its own, unless a point is before it', async () => {
  const mesh = await sequence({ 'roof-1.obj': roof(1), 'roof-2.obj': roof(3) })
  expect(worldAt(mesh, 6)[13]).toBe(3)
  const below = await sequence({ 'roof.-1.obj': roof(1), 'roof.-2.obj': roof(3) })
  expect(worldAt(below, 6)[13]).toBe(1)
})

test('points with ids are found again, and keep still while they are not there', async () => {
  const mesh = await sequence({
    'p.1.csv': points([[0, 0, 0], [1, 0, 0]], [7, 3]),
    'p.2.csv': points([[1, 1, 0], [0, 1, 0], [9, 9, 9]], [3, 7, 5]),
    'p.3.csv': points([[9, 9, 8], [0, 2, 0]], [5, 7]),
  }) // prettier-ignore
  expect([...mesh.data!.id!.values]).toEqual([7, 3, 5])
  expect(worldAt(mesh, 5)).toEqual([0, 0, 0, 1, 0, 0, 9, 9, 9])
  expect(worldAt(mesh, 6)).toEqual([0, 1, 0, 1, 1, 0, 9, 9, 9])
  expect(worldAt(mesh, 7)).toEqual([0, 2, 0, 1, 1, 0, 9, 9, 8])
})

test('a take that was written comes back as points: born on them and riding, particles are where they were', async () => {
  const moving = framesFrom(3, 5, (frame) => {
    const now = frameOf(3)
    const { columns, count } = now.populations[0]!
    columns.id = Uint32Array.from({ length: count }, (_, k) => k * 2)
    columns.position = columns.position!.map((x, k) => x + (frame - 3) * (k % 3))
    return { ...now, frame, meshes: [] }
  })
  for (const kind of ['ply', 'csv']) {
    const files = [...(await write(kind, undefined, moving))].filter(([name]) => name.startsWith('dust.0'))
    const mesh = await readMesh('take.zip', zipSync(Object.fromEntries(files)))
    const shot = shotOf({
      populations: [
        {
          id: 'p',
          births: [{ id: 'b', kind: 'vertices', mesh: 'm', into: 'Loose', amount: { burst: 'all', at: 5 } }],
          influences: [{ id: 'r', kind: 'ride' }],
        },
      ],
    })
    const simulation = createSimulation(createMachine(), shot, new Map([[asset, mesh]]))
    for (const frame of [3, 4, 5]) {
      const wanted = (await moving.read(frame)).populations[0]!.columns.position!
      const found = simulation.populations()[0]!.columns.position!
      expect(found.length).toBe(wanted.length)
      wanted.forEach((x, k) => expect(found[k]!).toBeCloseTo(x, 5))
      simulation.advance()
    }
  }
})

test('they can be a goal that moves', async () => {
  const rows = (y: number): number[][] => Array.from({ length: 9 }, (_, k) => [k % 3, y, Math.floor(k / 3)])
  const mesh = await sequence(Object.fromEntries(Array.from({ length: 40 }, (_, k) => [`g.${k}.csv`, points(rows(k * 0.05))]))) // prettier-ignore
  const shot = shotOf({
    populations: [
      {
        id: 'p',
        births: [
          { id: 'b', kind: 'region', mesh: 'm', into: 'Loose', size: [1, 1, 1], amount: { burst: 9, at: 5 } },
        ],
        goals: [{ id: 'g', kind: 'vertices', mesh: 'm' }],
        influences: [{ id: 's', kind: 'blend', goal: 'g', strength: 1 }],
      },
    ],
  })
  const simulation = createSimulation(createMachine(), shot, new Map([[asset, mesh]]))
  while (simulation.frame < 44) simulation.advance()
  const found = simulation.populations()[0]!.columns.position!
  for (let k = 1; k < found.length; k += 3) expect(found[k]!).toBeCloseTo(39 * 0.05, 4)
})

test.each<[string, Record<string, string>, RegExp]>([
  ['another number of vertices', { 'a.1.obj': roof(1), 'a.2.obj': 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n' }, /a\.2\.obj.*has 3 vertices, and a\.1\.obj has 6: all must have the same/],
  ['other triangles', { 'a.1.obj': roof(1), 'a.2.obj': roof(1).replace('1 5 6 4', '5 6 4 1') }, /has other triangles than a\.1\.obj/],
  ['points without ids that come and go', { 'a.1.csv': points([[0, 0, 0]]), 'a.2.csv': points([[0, 0, 0], [1, 1, 1]]) }, /has 2 vertices, and a\.1\.csv has 1: all must have the same, or ids/],
  ['ids in some', { 'a.1.csv': points([[0, 0, 0]], [4]), 'a.2.csv': points([[0, 0, 0]]) }, /has no ids, and others have/],
  ['an id twice', { 'a.1.csv': points([[0, 0, 0], [1, 1, 1]], [4, 4]) }, /has an id twice/],
  ['no number', { 'a.obj': roof(1) }, /has no number of a frame/],
  ['a frame twice', { 'a.1.obj': roof(1), 'a.01.obj': roof(1) }, /are of the same frame/],
  ['several kinds', { 'a.1.obj': roof(1), 'a.2.csv': points([[0, 0, 0]]) }, /files of several kinds/],
  ['one that is broken', { 'a.1.obj': roof(1), 'a.2.obj': roof(1).replace('v 1 0 0', 'v 1 x 0') }, /a\.2\.obj.*line 2/],
  ['a ZIP in a ZIP', { 'a.1.zip': 'x' }, /has a ZIP in it/],
  ['nothing', {}, /no files/],
])('%s: refused with the file and what is wrong', async (_, files, says) => {
  await expect(sequence(files)).rejects.toThrow(says)
}) // prettier-ignore

test('what is no ZIP, is cut off at any place or damaged, is refused, whenever it was packed', async () => {
  for (const mtime of ['1980-01-01', '1999-12-31T23:59:58', '2026-12-01T00:10', '2050-06-15T12:34:56']) {
    const files = { 'a.1.obj': strToU8(roof(1)), 'a.2.obj': strToU8(roof(2)) }
    const whole = zipSync(files, { mtime })
    for (let k = 1; k < whole.length; k += 7) {
      await expect(readMesh('a.zip', whole.slice(0, k))).rejects.toThrow(/ZIP: is broken or cut off/)
      await expect(readMesh('a.zip', whole.slice(k))).rejects.toThrow(/ZIP: is broken or cut off/)
    }
    const stored = zipSync(files, { mtime, level: 0 })
    stored[stored.indexOf(strToU8('1')[0]!, 60)]! ^= 3
    await expect(readMesh('a.zip', stored)).rejects.toThrow(/a\.1\.obj.*is damaged in the ZIP/)
  }
  await expect(readMesh('a.zip', Uint8Array.of(1, 2, 3))).rejects.toThrow(/ZIP/)
  const locked = zipSync({ 'a.1.obj': strToU8(roof(1)) })
  locked[locked.length - 22 - 46 - 'a.1.obj'.length + 8] = 1
  await expect(readMesh('a.zip', locked)).rejects.toThrow(/has a password/)
})

test('files whose names differ by their numbers alone, three at least, are a sequence; packed alike they are the same bytes', async () => {
  const names = ['a.1.obj', 'a.2.obj', 'b1.ply', 'a.10.obj', 'b2.ply', 'roof.obj', 'a.3.csv']
  expect(sequencesAmong(names)).toEqual([['a.1.obj', 'a.2.obj', 'a.10.obj'], ['b1.ply'], ['b2.ply'], ['roof.obj'], ['a.3.csv']]) // prettier-ignore
  const files = [1, 2, 3].map((k) => ({ name: `a.${k}.obj`, bytes: strToU8(roof(k)) }))
  const packed = packSequence(files)
  expect(packSequence(files.toReversed())).toEqual(packed)
  expect((await readMesh('a.zip', packed)).motion!.count).toBe(3)
})
