/** The crate, read by others: tinyusdz and three's parser. */
import { completeAttribute, ownName, type Mesh } from '@tangle/core'
import { jest } from '@jest/globals'
import { execFileSync } from 'node:child_process'
import { USDCParser } from 'three/addons/loaders/usd/USDCParser.js'
import { packBytes, packIntegers, unpackBytes, unpackIntegers } from '../src/export/crateCodes.ts'
import { readCrate } from '../src/export/crateReader.ts'
import { readText, type PrimSamples } from '../src/export/usdReader.ts'
import { type CachedFrame, type Frames } from '../src/index.ts'
import { framesFrom, frameOf, frames, meshOf, shot, withAll, write } from './take.ts'

const only = async (kind: string, meshes?: Map<string, Mesh>, take?: Frames): Promise<Uint8Array> =>
  [...(await write(kind, meshes, take)).values()][0]!
const asText = (crate: Uint8Array): Uint8Array =>
  execFileSync(process.execPath, [`${import.meta.dirname}/crateAsText.mjs`], {
    input: crate,
    maxBuffer: 2 ** 28,
  })
const textOf = (bytes: Uint8Array): string => new TextDecoder().decode(bytes)
/** Every number as f32, −0 as 0, which tinyusdz does not write; ids are whole. */
const plain = (prims: PrimSamples[], without = /^$/): unknown =>
  prims
    .filter(({ samples }) => samples.size > 0)
    .map(({ type, id, samples }) => {
      const frameOf = (all: Record<string, number[]>): unknown =>
        Object.entries(all)
          .filter(([name]) => !without.test(name))
          .map(([name, values]) => [name, values.map((v) => (/^ids?$/.test(name) ? v : Math.fround(v) + 0))])
          .sort()
      return [type, id, [...samples].map(([frame, all]) => [frame, frameOf(all)])]
    })

test('an independent reader finds what the text has: every prim, attribute, frame and value', async () => {
  await withAll(async (sources, steady) => {
    for (const take of [frames, steady]) {
      const [crate, text] = [await only('usdc', sources, take), await only('usda', sources, take)]
      const read = asText(crate)
      expect(plain(readText(read))).toEqual(plain(readText(text)))
      // text has the real part of a turn first, a crate has it last
      expect(plain(readCrate(crate), /^orientation/)).toEqual(plain(readText(text), /^orientation/))
      for (const line of [
        'def BasisCurves "dust_trails"',
        'def PointInstancer "spray_2"',
        'rel prototypes = [</Two_counts/spray_2/bolt_0>, </Two_counts/spray_2/nut_1>]',
        'uniform token type = "linear"',
        'uniform token subdivisionScheme = "none"',
        'int[] faceVertexIndices = [0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3]',
        'upAxis = "Y"',
        'timeCodesPerSecond = 30',
        'startTimeCode = 3',
        'endTimeCode = 5',
        'interpolation = "vertex"',
      ])
        expect(textOf(read)).toContain(line)
    }
  })
})

test('another reader, which knows the scene alone, finds points, indices and tokens', async () => {
  const { rate } = shot.frames
  shot.frames.rate = 23.976
  const bytes = await only('usdc')
  shot.frames.rate = rate
  const warn = jest.spyOn(console, 'warn').mockImplementation(() => undefined) // it reads no whole numbers of 64 bits
  const { specsByPath } = new USDCParser().parseData(bytes.buffer as ArrayBuffer) as {
    specsByPath: Record<string, { specType: number; fields: Record<string, unknown> }>
  }
  warn.mockRestore()
  expect(specsByPath['/']!.fields).toMatchObject({ framesPerSecond: 23.976, upAxis: 'Y', metersPerUnit: 1, defaultPrim: 'Two_counts', primChildren: ['Two_counts'] }) // prettier-ignore
  const samples = (path: string) => specsByPath[path]!.fields.timeSamples as { times: number[]; values: ArrayLike<number>[] } // prettier-ignore
  const points = samples('/Two_counts/dust.points')
  expect(points.times).toEqual([3, 4, 5])
  expect(points.values).toEqual([3, 4, 5].map((frame) => frameOf(frame).populations[0]!.columns.position))
  const corners = samples('/Two_counts/tower_mesh.faceVertexIndices')
  expect(Array.from(corners.values[0]!)).toEqual(Array.from(meshOf(3).triangles))
  expect(specsByPath['/Two_counts/dust.widths']!.fields).toMatchObject({ typeName: 'float[]', interpolation: 'vertex' }) // prettier-ignore
})

test('what does not change is written once, and a crate is a third of the text', async () => {
  const still = (last: number): Frames => framesFrom(1, last, (frame) => ({ ...frameOf(4), frame, populations: frameOf(4).populations.map((one) => ({ ...one, columns: { ...one.columns, position: one.columns.position!.map((x) => x * frame) } })) })) // prettier-ignore
  const [one, ten] = [await only('usdc', undefined, still(1)), await only('usdc', undefined, still(10))]
  const places = 9 * 40 * 12
  // points, their boxes, and for each frame of some two dozen attributes a time and a value
  expect(ten.length - one.length).toBeLessThan(places + 9 * 24 * 24)
  expect(ten.length).toBeLessThan((await only('usda', undefined, still(10))).length / 3)
  expect(readCrate(ten)[1]!.samples.size).toBe(10)
})

test('whole numbers come back however they are, and so do bytes with matches in them', () => {
  const random = (n: number, of: (k: number) => number): number[] =>
    Array.from({ length: n }, (_, k) => of(k))
  const words = [
    [],
    [7],
    [-2147483648, 2147483647, -1, 0, 1, 127, 128, -128, -129, 32767, 32768, -32769],
    random(1000, (k) => k * 3 + 5),
    random(1000, (k) => ((k * 7919) % 65521) - 30000),
    random(1000, (k) => Math.floor(Math.sin(k) * 2 ** 31)),
  ]
  for (const values of words)
    expect(Array.from(unpackIntegers(packIntegers(values, 4), values.length, 4))).toEqual(values)
  const long = [...words, random(500, (k) => 4_294_000_000 + k * 1900), [2 ** 52, 0, 2 ** 40, 5]]
  for (const values of long)
    expect(Array.from(unpackIntegers(packIntegers(values, 8), values.length, 8))).toEqual(values)
  // in their bits those that are not signed are the same
  const unsigned = [4294967295, 0, 4294967295, 3]
  expect(Array.from(unpackIntegers(packIntegers(unsigned, 4), 4, 4), (v) => v >>> 0)).toEqual(unsigned)
  // runs of the same step take two bits each
  expect(
    packIntegers(
      random(10_000, (k) => 50 + k),
      8,
    ).length,
  ).toBeLessThan(2600)
  for (const length of [0, 1, 14, 15, 16, 269, 270, 271, 5000]) {
    const bytes = Uint8Array.from({ length }, (_, k) => (k * 31) & 255)
    expect(unpackBytes(packBytes(bytes), length)).toEqual(bytes)
  }
  // by hand: "ab", six from two back, "c"
  expect(textOf(unpackBytes(Uint8Array.of(0, 0x22, 97, 98, 2, 0, 0x10, 99), 9))).toBe('abababab' + 'c')
  expect(() => unpackBytes(Uint8Array.of(0, 0x12, 97, 9, 0, 0x10, 99), 9)).toThrow(/broken/)
  expect(() => unpackBytes(Uint8Array.of(0, 0xf0, 200, 97), 999)).toThrow(/cut off/)
})

test('what is no crate, another version or cut off anywhere is refused with where', async () => {
  const bytes = await only('usdc')
  expect(() => readCrate(new TextEncoder().encode('#usda 1.0'))).toThrow(
    /byte 0.*not the bytes of a USD crate/,
  )
  expect(() => readCrate(Uint8Array.from(bytes, (byte, k) => (k === 9 ? 7 : byte)))).toThrow(
    /0\.7; only 0\.8/,
  )
  for (let length = 88; length < bytes.length; length += 97)
    expect(() => readCrate(bytes.slice(0, length))).toThrow(/broken or cut off/)
})

test('attributes of the artist’s own have names that USD takes, each its own; those that are not kept are left out', async () => {
  const [dust] = shot.populations
  const { attributes } = dust!
  const ids = ['a-b', 'a_b', 'displayColor', 'gone']
  dust!.attributes = ids.map((id) => completeAttribute({ id, name: id, type: 'number' }))
  const read = (frame: number): CachedFrame => {
    const now = frameOf(frame)
    ids
      .slice(0, 3)
      .forEach(
        (id, n) => (now.populations[0]!.columns[ownName(id)] = new Float32Array(frame * 10).fill(n + 1)),
      )
    return now
  }
  try {
    for (const kind of ['usda', 'usdc']) {
      const bytes = await only(kind, undefined, framesFrom(3, 3, read))
      const told = readText(kind === 'usda' ? bytes : asText(bytes))[0]!.samples.get(3)!
      expect(['a_b', 'a_b_2', 'displayColor_2'].map((name) => told[name]![0])).toEqual([1, 2, 3])
      expect(told.displayColor).toHaveLength(90)
      expect(Object.keys(told)).not.toContain('gone')
    }
  } finally {
    dust!.attributes = attributes
  }
})
