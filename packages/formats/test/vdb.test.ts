/** Fog volumes: nothing is lost on the way into voxels, and OpenVDB's own library reads them back. */
import { ownName, type PopulationFrame } from '@tangle/core'
import { execFileSync } from 'node:child_process'
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { splat, voxelIn, type Fog } from '../src/export/splat.ts'
import { readVdb } from '../src/export/vdbReader.ts'
import { EXPORTS, FormatFault, readChoices, type Frames } from '../src/index.ts'
import { frameOf, frames, framesFrom, shot, write } from './take.ts'

const populationOf = (places: number[][], more: Record<string, number[]> = {}): PopulationFrame => ({
  id: 'dust',
  count: places.length,
  columns: {
    id: Uint32Array.from(places, (_, i) => i),
    position: Float32Array.from(places.flat()),
    ...Object.fromEntries(Object.entries(more).map(([name, values]) => [name, Float32Array.from(values)])),
  },
})
const volumeOf = (r: number): number => (4 / 3) * Math.PI * r ** 3
const densityIn = (fog: Fog): number =>
  [...fog.blocks.values()].reduce((sum, { values }) => sum + values[0]!.reduce((a, b) => a + b, 0), 0)

test('a particle between voxels is shared by eight, by how near they are', () => {
  const { blocks } = splat(populationOf([[0.25, 0.5, 7.75]]), Float32Array.of(0.1), [], 1)
  const at = (x: number, y: number, z: number): number =>
    (blocks.get([x, y, z].map((c) => Math.floor(c / 8)).join(' '))?.values[0]![voxelIn(x, y, z)] ?? 0) / volumeOf(0.1) // prettier-ignore
  expect(at(0, 0, 7)).toBeCloseTo(0.75 * 0.5 * 0.25, 6)
  expect(at(1, 0, 7)).toBeCloseTo(0.25 * 0.5 * 0.25, 6)
  expect(at(0, 1, 8)).toBeCloseTo(0.75 * 0.5 * 0.75, 6)
  expect(at(2, 0, 7)).toBe(0)
  expect(blocks.size).toBe(2)
})

test.each([
  ['millimetres', 0.0004, 0.0005, 0.002],
  ['metres, finer than particles', 0.4, 3, 0.1],
  ['hundreds of metres', 2, 400, 25],
  ['far from the origin', 0.01, 0.3, 0.05],
])('what fills space stays the same: %s', (name, radius, size, voxel) => {
  const far = name.startsWith('far') ? 5000 : 0
  const places = Array.from({ length: 300 }, (_, i) => [0, 1, 2].map((axis) => far + size * Math.sin(i * (axis + 1.7)))) // prettier-ignore
  const radii = Float32Array.from(places, (_, i) => radius * (0.5 + (i % 7) / 7))
  const opacity = places.map((_, i) => (i % 4) / 3)
  const fog = splat(populationOf(places, { opacity }), radii, [], voxel)
  const wanted = radii.reduce((sum, r, i) => sum + volumeOf(r) * opacity[i]!, 0)
  expect((densityIn(fog) * voxel ** 3) / wanted).toBeCloseTo(1, 4)
})

test('what they carry is the mean by how much of a voxel each fills', () => {
  // both in the middle of a voxel; the second has eight times the volume
  const two = populationOf([[1, 2, 3], [1, 2, 3]]) // prettier-ignore
  const carried = [{ name: 'velocity', width: 3 as const, values: [9, 0, 0, 0, 0, 18] }]
  const { blocks } = splat(two, Float32Array.of(0.1, 0.2), carried, 1)
  const velocity = blocks.get('0 0 0')!.values[1]!
  const from = voxelIn(1, 2, 3) * 3
  expect([...velocity.subarray(from, from + 3)]).toEqual([expect.closeTo(1, 5), 0, expect.closeTo(16, 5)])
})

test('voxels that are too small are refused with what to choose', () => {
  expect(() => splat(populationOf([[0, 0, 0]]), Float32Array.of(1), [], 0.001)).toThrow(/choose larger ones \(voxel\)/) // prettier-ignore
  const apart = Array.from({ length: 6000 }, (_, i) => [i * 10, 0, 0])
  expect(() =>
    splat(populationOf(apart), new Float32Array(apart.length).fill(0.1), [], 0.1, 2 ** 22),
  ).toThrow(/do not fit into memory: choose larger ones/)
  const kind = EXPORTS.find((one) => one.kind === 'vdb')!
  for (const voxel of ['0', '-1', 'fine', '', 'NaN'])
    expect(() => readChoices({ voxel }, shot.frames, kind)).toThrow(/voxel must be a length/)
  expect(() => readChoices({ voxel: '1' }, shot.frames, EXPORTS[0]!)).toThrow(/voxel can’t be chosen/)
  expect(readChoices({ voxel: '0.02' }, shot.frames, kind).voxel).toBe(0.02)
})

const fogs: Frames = { ...frames, voxel: 0.5 }

test('the same take gives the same bytes; what is broken or cut off is refused', async () => {
  const [one, two] = [await write('vdb', undefined, fogs), await write('vdb', undefined, fogs)]
  expect(one).toEqual(two)
  expect([...one.keys()]).toContain('spray-2.0004.vdb')
  const bytes = one.get('dust.0003.vdb')!
  for (let length = 0; length < bytes.length; length += 1499)
    expect(() => readVdb('dust', bytes.slice(0, length))).toThrow(FormatFault)
  expect(readVdb('dust', bytes).map(({ name, width, voxel }) => [name, width, voxel])).toEqual([
    ['density', 1, 0.5],
    ['velocity', 3, 0.5],
  ])
})

/** What OpenVDB's library finds in each grid: voxel, sums and the values of some voxels. */
const PYTHON = `
import sys, json, pyopenvdb as vdb
out = []
for grid in vdb.readAllGridMetadata(sys.argv[1]):
    grid = vdb.read(sys.argv[1], grid.name)
    found = {' '.join(map(str, it.min)): it.value for it in grid.citerOnValues()}
    assert all(it.count == 1 for it in grid.citerOnValues())
    out.append([grid.name, str(grid.gridClass), grid.transform.voxelSize()[0], found])
print(json.dumps(out))`

test('OpenVDB’s own library finds every voxel with its values', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'tangle-vdb-'))
  const heat = ownName('heat')
  shot.populations[0]!.attributes.push({ id: 'heat', name: 'Heat', type: 'number' } as never)
  const warm = framesFrom(3, 5, (frame) => {
    const now = frameOf(frame)
    const { columns } = now.populations[0]!
    columns[heat] = columns.age!.map((age) => age * 100)
    // on both sides of the origin, over several nodes of the tree
    columns.position = columns.position!.map((x) => (x - 6) * 37)
    return now
  })
  try {
    for (const [name, bytes] of await write('vdb', undefined, { ...warm, voxel: 0.7 })) {
      const file = join(folder, name)
      writeFileSync(file, bytes)
      const read = JSON.parse(execFileSync('/usr/bin/python3', ['-c', PYTHON, file]).toString()) as [string, string, number, Record<string, number | number[]>][] // prettier-ignore
      const ours = readVdb(name, bytes)
      expect(read.map(([grid, kind]) => [grid, kind])).toEqual(
        ours.map((grid) => [grid.name, 'fog volume']).sort(),
      )
      for (const [grid, , voxel, voxels] of read) {
        const same = ours.find((one) => one.name === grid)!
        expect(voxel).toBe(same.voxel)
        expect(new Map(Object.entries(voxels).map(([at, value]) => [at, [value].flat()]))).toEqual(
          same.voxels,
        )
      }
      if (name === 'dust.0005.vdb') expect(ours.map((grid) => [grid.name, grid.voxels.size > 200])).toEqual([['density', true], ['velocity', true], ['heat', true]]) // prettier-ignore
    }
  } finally {
    shot.populations[0]!.attributes.pop()
    rmSync(folder, { recursive: true })
  }
})
