/** What is written between frames: particles on the way from one to the next, and meshes that move, where they are then. */
import { completeMesh, readShot, type Mesh, type PopulationFrame, type Shot } from '@tangle/core'
import { Euler, Matrix4, Quaternion, Vector3 } from 'three'
import {
  EXPORTS,
  framesChosen,
  readChoices,
  type CachedFrame,
  type Frames,
  type GivenChoices,
} from '../src/index.ts'

const RATE = 24
const read = readShot({
  format: 'tangle-shot',
  version: 1,
  name: 'Between',
  frames: { first: 1, last: 4, rate: RATE },
  populations: [{ id: 'dust' }],
})
const shot = read.shot as Shot
const keys = (...values: (number | string)[][]) => ({ keys: values })
const kindOf = (kind: string) => EXPORTS.find((one) => one.kind === kind)!

/** Particles thrown up, each with its own velocity; one more is born in each frame, and the first dies after two. */
function thrown(frame: number): CachedFrame {
  const ids = Array.from({ length: 6 + frame }, (_, id) => id).filter((id) => id > 0 || frame <= 2)
  const t = frame / RATE
  const of = (value: (id: number) => number[]): Float32Array => Float32Array.from(ids.flatMap(value))
  const columns: PopulationFrame['columns'] = {
    id: Uint32Array.from(ids),
    position: of((id) => [id * t, 3 * t - 4.905 * t * t, 1]),
    velocity: of((id) => [id, 3 - 9.81 * t, 0]),
    radius: of((id) => [0.01 * (id + 1) * (1 + t)]),
    age: of(() => [t]),
    orientation: of((id) => new Quaternion().setFromEuler(new Euler(0, id * t, 0)).toArray()),
    phase: Uint32Array.from(ids, () => frame % 2),
  }
  return { frame, populations: [{ id: 'dust', count: ids.length, columns }], meshes: [] }
}
function chosen(given: GivenChoices, of: Shot = shot, meshes = new Map<string, Mesh>()): Frames {
  const { first, last } = of.frames
  const kind = kindOf('usdc')
  const frames = { first, last, read: (frame: number) => Promise.resolve(thrown(frame)) }
  return framesChosen(frames, readChoices(given, of.frames, kind), { shot: of, meshes, kind })
}
const near = (found: ArrayLike<number>, wanted: number[], error = 1e-5): void =>
  wanted.forEach((value, k) => expect(Math.abs(found[k]! - value)).toBeLessThan(error))

test('times go evenly from frame to frame, and end with the last', () => {
  expect(chosen({ samples: '4' }).times).toEqual([1, 1.25, 1.5, 1.75, 2, 2.25, 2.5, 2.75, 3, 3.25, 3.5, 3.75, 4])
  expect(chosen({ samples: '2', from: '2', to: '3', number: '101' }).times).toEqual([101, 101.5, 102])
  expect(chosen({}).times).toEqual([1, 2, 3, 4])
}) // prettier-ignore

test.each([1.25, 1.5, 2.75, 3.5])('at %d a throw is where the law of free fall says', async (time) => {
  const [now, frame] = [(await chosen({ samples: '4' }).read(time)).populations[0]!, Math.floor(time)]
  const t = time / RATE
  const ids = [...now.columns.id!]
  expect(ids).toEqual([...thrown(frame).populations[0]!.columns.id!])
  const gone = frame === 2 ? 1 : 0 // who dies goes straight on
  ids.slice(gone).forEach((id, k) => {
    const row = k + gone
    near(now.columns.position!.subarray(row * 3), [id * t, 3 * t - 4.905 * t * t, 1])
    near(now.columns.velocity!.subarray(row * 3), [id, 3 - 9.81 * t, 0], 1e-4)
    near(now.columns.radius!.subarray(row), [0.01 * (id + 1) * (1 + t)])
    near(now.columns.orientation!.subarray(row * 4), new Quaternion().setFromEuler(new Euler(0, id * t, 0)).toArray(), 1e-4) // prettier-ignore
    near(now.columns.age!.subarray(row), [t])
  })
  if (gone) near(now.columns.position!, [0, thrown(2).populations[0]!.columns.position![1]! + (3 - 9.81 * (2 / RATE)) * (t - 2 / RATE), 1]) // prettier-ignore
  expect([...now.columns.phase!]).toEqual(ids.map(() => frame % 2))
})

test('backward they are on the same way, turned round', async () => {
  const frames = chosen({ samples: '2', backward: '1' })
  const now = (await frames.read(1.5)).populations[0]! // 3.5 of the shot
  const t = 3.5 / RATE
  // who is there from the first sample to the next is settled by the first
  expect([...now.columns.id!]).toEqual([...(await frames.read(1)).populations[0]!.columns.id!])
  const row = [...now.columns.id!].indexOf(4)
  near(now.columns.position!.subarray(row * 3), [4 * t, 3 * t - 4.905 * t * t, 1])
  near(now.columns.velocity!.subarray(row * 3), [-4, -(3 - 9.81 * t), 0], 1e-4)
})

test('without velocities they go straight from place to place', async () => {
  const bare = (frame: number): CachedFrame => {
    const { velocity: _, ...columns } = thrown(frame).populations[0]!.columns
    return { frame, meshes: [], populations: [{ id: 'dust', count: columns.id!.length, columns }] }
  }
  const kind = kindOf('usdc')
  const frames = { first: 1, last: 4, read: (frame: number) => Promise.resolve(bare(frame)) }
  const { read: at } = framesChosen(frames, readChoices({ samples: '2' }, frames, kind), { shot, meshes: new Map(), kind }) // prettier-ignore
  const [a, b] = [1, 2].map((frame) => bare(frame).populations[0]!.columns.position!)
  near(
    (await at(1.5)).populations[0]!.columns.position!,
    [...a!].map((x, i) => (x + b![i]!) / 2),
  )
})

describe('meshes that move', () => {
  const wedge: Mesh = {
    positions: new Float32Array([0, 0, 0, 1, 0, 0, 0, 2, 0, 0, 0, 3]),
    triangles: new Uint32Array([0, 2, 1, 0, 1, 3, 0, 3, 2, 1, 2, 3]),
  }
  const place = { position: [keys([1, 0], [4, 3]), 1, 0], rotation: [0, keys([1, 0], [4, 90]), 0], scale: [2, 2, 2] } // prettier-ignore
  const mesh = (id: string, more: object) => completeMesh({ id, source: { asset: id }, ...more } as never)
  const stage: Shot = {
    ...shot,
    meshes: [
      mesh('arm', { place }),
      mesh('wall', {}),
      mesh('hidden', { place, visible: false }),
      mesh('eaten', { place, eaten: { mask: 'm', level: 0.5 } }),
    ],
  }
  const meshes = new Map(stage.meshes.map(({ id }) => [id, wedge]))

  test.each([1, 2, 2.5, 3.25])('at %d they are in the world where their keys put them', async (time) => {
    const { meshes: found } = await chosen({ samples: '4' }, stage, meshes).read(time)
    expect(found.map(({ id }) => id)).toEqual(['arm'])
    const done = (time - 1) / 3
    const matrix = new Matrix4().compose(
      new Vector3(3 * done, 1, 0),
      new Quaternion().setFromEuler(new Euler(0, (done * Math.PI) / 2, 0)),
      new Vector3(2, 2, 2),
    )
    for (let v = 0; v < 4; v++)
      near(found[0]!.positions.subarray(v * 3), new Vector3(...wedge.positions.subarray(v * 3)).applyMatrix4(matrix).toArray()) // prettier-ignore
    expect([...found[0]!.triangles]).toEqual([...wedge.triangles])
  })

  test('all that are seen, or none; in the space that was chosen', async () => {
    const all = await chosen({ meshes: 'all', unit: 'cm', up: 'z' }, stage, meshes).read(1)
    expect(all.meshes.map(({ id }) => id)).toEqual(['arm', 'wall'])
    near(all.meshes[1]!.positions, [0, 0, 0, 100, 0, 0, 0, 0, 200, 0, -300, 0], 1e-3)
    expect((await chosen({ meshes: 'none' }, stage, meshes).read(1)).meshes).toEqual([])
  })

  test('a format that has particles only is not asked for meshes', () => {
    expect(() => readChoices({ meshes: 'all' }, shot.frames, kindOf('csv'))).toThrow(/meshes can’t be chosen/)
    for (const kind of ['ply', 'glb', 'vtp', 'csv'])
      expect(() => readChoices({ samples: '2' }, shot.frames, kindOf(kind))).toThrow(/samples must be 1: .* USD does/) // prettier-ignore
  })
})
