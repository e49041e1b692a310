/** Units, the axis that is up, ranges and numbers of frames: the same take, said otherwise. */
import type { Mesh } from '@tangle/core'
import { readCrate } from '../src/export/crateReader.ts'
import { Quaternion, Vector3 } from 'three'
import { instancesOf } from '../src/export/instances.ts'
import { spaceInWords } from '../src/export/space.ts'
import {
  EXPORTS,
  filesOf,
  framesChosen,
  readChoices,
  type CachedFrame,
  type ExportChoices,
  type GivenChoices,
} from '../src/index.ts'
import { frameOf, shot, withAll } from './take.ts'

const range = { first: 3, last: 5 }
const kindOf = (kind: string) => EXPORTS.find((one) => one.kind === kind)!
const chosen = (given: GivenChoices, kind = 'usdc'): ExportChoices => readChoices(given, range, kindOf(kind))
const all = { ...range, read: (frame: number) => Promise.resolve(frameOf(frame)) }

const writtenAt = (choices: ExportChoices, time: number, kind = { meshes: true }) =>
  framesChosen(all, choices, { shot, meshes: new Map(), kind }).read(time)

async function filesWith(kind: string, choices: ExportChoices, sources = new Map<string, Mesh>()) {
  const files = new Map<string, Uint8Array>()
  for await (const { name, pieces } of filesOf(kindOf(kind), shot, all, sources, choices)) {
    const parts: Uint8Array[] = []
    for await (const piece of pieces) parts.push(piece)
    files.set(name, new Uint8Array(Buffer.concat(parts)))
  }
  return files
}
async function readBack(kind: string, files: Map<string, Uint8Array>): Promise<CachedFrame[]> {
  const out: CachedFrame[] = []
  for await (const frame of kindOf(kind).readBack(
    (name) => Promise.resolve(files.get(name)!),
    [...files.keys()],
  ))
    out.push(frame)
  return out.toSorted((a, b) => a.frame - b.frame)
}

test('what is not said has a default, and what can’t be is refused with what may be', () => {
  expect(chosen({})).toEqual({
    first: 3,
    last: 5,
    number: 3,
    digits: 4,
    backward: false,
    space: { unit: 'm', up: 'y' },
    scenery: 'changing',
    samples: 1,
    voxel: null,
  })
  for (const [given, says] of [
    [{ unit: 'yd' }, /unit must be one of m, cm, mm, in, ft, not "yd"/],
    [{ up: 'x' }, /up must be one of y, z/],
    [{ from: '2' }, /from must be a whole number from 3 to 5, not "2"/],
    [{ from: '5', to: '4' }, /to must be a whole number from 5 to 5/],
    [{ to: '' }, /to must be/],
    [{ number: '1.5' }, /number must be a whole number/],
    [{ digits: '0' }, /digits must be a whole number from 1 to 10/],
    [{ meshes: 'some' }, /meshes must be one of changing, all, none/],
    [{ samples: '17' }, /samples must be a whole number from 1 to 16/],
  ] as const)
    expect(() => chosen(given)).toThrow(says)
  expect(() => chosen({ unit: 'cm' }, 'glb')).toThrow(/glTF.* is always in metres with Y up/)
  expect(chosen({ unit: 'm', number: '7' }, 'glb').number).toBe(7)
})

test.each(EXPORTS.filter(({ fixedSpace }) => !fixedSpace).map(({ kind }) => kind))(
  '%s: in centimetres with Z up, numbered from 1001: every value is that of our space, turned and scaled',
  async (kind) => {
    const choices = chosen({ unit: 'cm', up: 'z', from: '4', number: '1001', digits: '6' }, kind)
    const files = await filesWith(kind, choices)
    const frames = await readBack(kind, files)
    expect(frames.map(({ frame }) => frame)).toEqual([1001, 1002])
    if (kindOf(kind).sequence) expect([...files.keys()].some((name) => /\.?001002\./.test(name))).toBe(true)
    for (const [n, frame] of frames.entries()) {
      const was = frameOf(4 + n)
      for (const population of frame.populations) {
        const { columns } = was.populations.find(({ id }) => id === population.id)!
        const is = population.columns
        const turned = (values: Float32Array): number[] =>
          Array.from(values, (_, i) => {
            const [x, y, z] = values.subarray(i - (i % 3), i - (i % 3) + 3)
            return Math.fround([x!, -z!, y!][i % 3]! * 100)
          })
        near(is.position as Float32Array, turned(columns.position as Float32Array))
        near(is.velocity as Float32Array, turned(columns.velocity as Float32Array))
        near(
          is.radius as Float32Array,
          Array.from(columns.radius!, (r) => r * 100),
        )
        expect(is.id).toEqual(columns.id)
      }
    }
  },
)
/** As near as f32 is; −0 is 0. */
const near = (is: Float32Array, was: number[]): void => {
  expect(is.length).toBe(was.length)
  is.forEach((x, i) => expect(Math.abs(x - was[i]!)).toBeLessThanOrEqual(2e-7 * Math.abs(was[i]!)))
}

test('USD says its unit and its axis, and a ramp over speeds colours as in metres', async () => {
  const files = await filesWith('usda', chosen({ unit: 'in', up: 'z' }, 'usda'))
  const text = new TextDecoder().decode([...files.values()][0])
  expect(text).toContain('metersPerUnit = 0.0254')
  expect(text).toContain('upAxis = "Z"')
  const colours = (of: Uint8Array) =>
    readCrate(of).flatMap(({ samples }) =>
      [...samples.values()].map((one) => one.displayColor ?? one['primvars:displayColor']),
    )
  const [inches, metres] = await Promise.all(
    [chosen({ unit: 'in', up: 'z' }), chosen({})].map(
      async (one) => [...(await filesWith('usdc', one)).values()][0]!,
    ),
  )
  expect(colours(inches!).filter(Boolean).length).toBeGreaterThan(2)
  expect(colours(inches!)).toEqual(colours(metres!))
  expect(spaceInWords({ unit: 'ft', up: 'z' })).toBe('feet, feet per second, Z up')
})

test.each(['radius', 'own'])(
  'instances that fit %s: a corner of a mesh is where it would be in our space, turned and scaled',
  async (fit) => {
    await withAll(async (sources) => {
      const spray = shot.populations[1]!
      spray.look = { ...spray.look, instances: { ...spray.look.instances!, fit } }
      const corners = async (given: GivenChoices): Promise<number[][]> => {
        const choices = chosen(given)
        const population = (await writtenAt(choices, 3)).populations[1]!
        const { meshes, which, scales } = instancesOf(shot, 'spray-2', sources, choices.space)!
        const [numbers, sizes] = [which(population), scales(population)]
        const { position, orientation } = population.columns as Record<string, Float32Array>
        return Array.from({ length: population.count }).flatMap((_, i) => {
          const { positions } = meshes[numbers[i]!]!.mesh
          const turn = new Quaternion(...orientation!.subarray(i * 4, i * 4 + 4))
          return Array.from({ length: positions.length / 3 }, (_, v) =>
            new Vector3(...positions.subarray(v * 3, v * 3 + 3))
              .multiplyScalar(sizes[i]!)
              .applyQuaternion(turn)
              .add(new Vector3(...position!.subarray(i * 3, i * 3 + 3)))
              .toArray(),
          )
        })
      }
      const [ours, theirs] = [await corners({}), await corners({ unit: 'cm', up: 'z' })]
      expect(ours.length).toBe(8)
      ours.forEach(([x, y, z], i) =>
        [x! * 100, -z! * 100, y! * 100].forEach((want, c) => expect(theirs[i]![c]).toBeCloseTo(want, 3)),
      )
    })
  },
)

test('backward in a range: the last frame of the range comes first, under the first number', async () => {
  const choices = chosen({ from: '3', to: '4', number: '1', backward: '1' })
  expect((await writtenAt(choices, 1)).frame).toBe(1)
  const last = await writtenAt(choices, 2)
  expect(last.frame).toBe(2)
  expect(last.populations[0]!.columns.velocity![1]).toBe(-frameOf(3).populations[0]!.columns.velocity![1]!)
})
