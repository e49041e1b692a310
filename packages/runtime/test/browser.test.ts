/** The page's side of the workers: what it asks, what it keeps, and what it makes of their answers. */
import {
  emptyShot,
  completeInfluence,
  completePopulation,
  createSimulation,
  type Measures,
  type Mesh,
  type Shot,
} from '@tangle/core'
import { createMachine } from '@tangle/kernels'
import type { Answer, FrameContent, Request } from '../src/browser/messages.ts'
import { createPreview, type Preview } from '../src/browser/preview.ts'
import { sampleBirth } from '../src/browser/sample.ts'
import { createSurfaces } from '../src/browser/surfaces.ts'
import { box } from '../../core/test/help.ts'
import { packed, worker } from './silentWorker.ts'

const shot = (strength: number, last = 10): Shot => ({
  ...emptyShot('Preview'),
  frames: { first: 1, last, rate: 24 },
  populations: [
    completePopulation({
      id: 'dust',
      births: [{ id: 'b', kind: 'surface', mesh: 'm', into: 'Loose', amount: { burst: 5, at: 1 } } as never],
      influences: [
        completeInfluence({ id: 'g', kind: 'gravity', weights: { Loose: 1 }, strength } as never, ['Loose']),
      ],
    }),
  ],
})
const keyed = (at: number, value: number): Shot => {
  const base = shot(1)
  const [population] = base.populations
  const strength = { keys: [[1, 1, 'hold'], [at, value, 'hold']] } // prettier-ignore
  const influences = population!.influences.map((one) => ({
    ...one,
    strength,
  })) as typeof population.influences
  return { ...base, populations: [{ ...population!, influences }] }
}

describe('the preview', () => {
  const opened = (of = shot(1)) => {
    const preview = createPreview({ threads: 3, budget: 1e9 })
    const heard = { changes: 0 }
    preview.subscribe(() => heard.changes++)
    give(preview, of)
    return { preview, heard }
  }
  /** Gives a shot; the worker says that no sketch comes first. */
  const give = (preview: Preview, of: Shot, meshes = new Map<string, Mesh>()): void => {
    const before = last('shot')?.generation
    preview.setShot(of, meshes, 3)
    if (last('shot').generation !== before) worker().answer(sketch(null))
  }
  const sketch = (content: FrameContent | null, part = 1): Answer => ({
    type: 'sketch',
    generation: last('shot').generation,
    part,
    content,
  })
  const last = <T extends Request['type']>(type: T) =>
    worker().asked.findLast((one) => (one as Request).type === type) as Extract<Request, { type: T }>
  const frame = (generation: number, n: number, count = 5): Answer => ({
    type: 'frame',
    generation,
    frame: n,
    populations: [packed(count)],
    covers: [],
    seen: [],
    measures: {} as Measures,
    milliseconds: 7,
    memory: 1000 + n,
  })

  test('starts the worker with its threads and budget, and keeps the frames that come', () => {
    const { preview, heard } = opened()
    expect(worker().asked[0]).toMatchObject({ type: 'start', threads: 3, budget: 1e9 })
    const { generation } = last('shot')
    expect([preview.state.busy, preview.state.computedTo]).toEqual([true, null])
    worker().answer(frame(generation, 1))
    worker().answer(frame(generation, 3))
    // a gap: only the unbroken run from the first frame counts
    expect(preview.state.computedTo).toBe(1)
    worker().answer(frame(generation, 2))
    expect(preview.state.computedTo).toBe(3)
    expect(preview.frame(3)!.populations[0]!.count).toBe(5)
    expect(preview.frame(4)).toBeUndefined()
    expect(preview.state.solverBytes).toBe(1002)
    expect(preview.state.frameBytes).toBe(3 * (preview.state.frameBytes / 3))
    worker().answer({ type: 'done', generation, full: false })
    expect([preview.state.busy, preview.state.full]).toEqual([false, false])
    expect(heard.changes).toBeGreaterThan(3)
  })

  test('an edit keeps the frames before it, and answers to what was before are not heard', () => {
    const { preview } = opened(keyed(6, 2))
    const before = last('shot').generation
    for (let n = 1; n <= 10; n++) worker().answer(frame(before, n))
    const bytes = preview.state.frameBytes
    give(preview, keyed(6, 3))
    const { generation, have, haveBytes } = last('shot')
    expect(generation).toBeGreaterThan(before)
    // what is keyed at frame 6 is held until there: frames up to the one before the change stay, the last do not
    expect(have.length).toBeGreaterThanOrEqual(4)
    expect(have.length).toBeLessThan(8)
    expect(haveBytes).toBeCloseTo((bytes / 10) * have.length, 6)
    expect(preview.frame(10)).toBeUndefined()
    worker().answer(frame(before, 10, 99))
    expect(preview.frame(10)).toBeUndefined()
    worker().answer(frame(generation, 10, 7))
    expect(preview.frame(10)!.populations[0]!.count).toBe(7)
  })

  test('what rays have seen up to a frame is joined from the frames that are here, and stays the same until one is added', () => {
    const { preview } = opened()
    const { generation } = last('shot')
    const seen = (n: number, places: number[]): Answer =>
      ({ ...frame(generation, n), seen: [{ mask: 'met', places: Float32Array.from(places), frames: new Float64Array(places.length / 3).fill(n) }] }) as Answer // prettier-ignore
    const until = (n: number) => preview.seenUntil(n).map(({ mask, places, frames }) => [mask, [...places], [...frames]]) // prettier-ignore
    expect(preview.seenUntil(5)).toEqual([])
    worker().answer(seen(1, [1, 2, 3]))
    worker().answer(seen(3, [7, 8, 9]))
    worker().answer(seen(2, [4, 5, 6, 0, 0, 1]))
    expect(until(1)).toEqual([['met', [1, 2, 3], [1]]])
    // in the order of frames, however they came
    expect(until(9)).toEqual([['met', [1, 2, 3, 4, 5, 6, 0, 0, 1, 7, 8, 9], [1, 2, 2, 3]]])
    const joined = preview.seenUntil(9)
    expect(preview.seenUntil(9)).toBe(joined)
    worker().answer(seen(4, []))
    expect(preview.seenUntil(9)).not.toBe(joined)
  })

  test('an edit of the look computes nothing; a longer range goes on', () => {
    const { preview } = opened()
    const { generation } = last('shot')
    for (let n = 1; n <= 10; n++) worker().answer(frame(generation, n))
    const asked = worker().asked.length
    const base = shot(1)
    const [population] = base.populations
    const look = { ...population!.look, draw: 'spheres' as const }
    give(preview, { ...base, populations: [{ ...population!, look }] })
    expect(worker().asked).toHaveLength(asked)
    give(preview, shot(1, 20))
    expect(last('shot').have).toHaveLength(10)
    expect(last('shot').generation).toBe(generation + 1)
  })

  test('until a frame is computed, what it was before the edit is shown; then a sketch, then the frame', () => {
    const { preview } = opened()
    const { generation } = last('shot')
    for (let n = 1; n <= 4; n++) worker().answer(frame(generation, n))
    preview.setShot(shot(2), new Map(), 3)
    expect(last('shot').at).toBe(3)
    expect([preview.frame(3), preview.shown(3)!.populations[0]!.count]).toEqual([undefined, 5])
    expect([preview.shown(4), preview.state.sketch]).toEqual([undefined, null])
    worker().answer(sketch({ frame: 3, populations: [packed(2)], covers: [], seen: [] }, 0.25))
    expect([preview.shown(3)!.populations[0]!.count, preview.state.sketch]).toEqual([2, 0.25])
    // where one edit follows another the sketch of the one before is shown, and said to be one
    preview.setShot(shot(3), new Map(), 3)
    expect([preview.shown(3)!.populations[0]!.count, preview.state.sketch]).toEqual([2, 0.25])
    worker().answer(sketch({ frame: 3, populations: [packed(2)], covers: [], seen: [] }, 0.25))
    // sketches are not counted among the frames, nor are they read as such
    expect([preview.state.computedTo, preview.frame(3), preview.state.frameBytes]).toEqual([
      null,
      undefined,
      0,
    ])
    worker().answer(frame(last('shot').generation, 3, 9))
    expect([preview.shown(3)!.populations[0]!.count, preview.state.sketch]).toEqual([9, null])
  })

  test('edits that come while a sketch is on its way wait for it, and only the last of them is computed', () => {
    const { preview } = opened()
    const shots = (): number => worker().asked.filter((one) => (one as Request).type === 'shot').length
    preview.setShot(shot(2), new Map(), 3)
    for (const strength of [3, 4, 5]) preview.setShot(shot(strength), new Map(), 3)
    expect(shots()).toBe(2)
    worker().answer(sketch({ frame: 3, populations: [packed(1)], covers: [], seen: [] }, 0.1))
    expect(shots()).toBe(3)
    expect(last('shot').shot.populations[0]!.influences[0]!.strength).toBe(5)
    // a fault in between lets the next one through, too
    preview.setShot(shot(6), new Map(), 3)
    expect(shots()).toBe(3)
    worker().answer({ type: 'fault', generation: last('shot').generation, message: 'No memory left' })
    expect(shots()).toBe(4)
    expect(preview.state.fault).toBeNull()
  })

  test('a mesh goes to the worker once, and again only where it is another', () => {
    const { preview } = opened()
    const mesh: Mesh = { positions: new Float32Array(9), triangles: new Uint32Array(3) }
    const sent = () => worker().asked.filter((one) => (one as Request).type === 'mesh').length
    give(preview, shot(1), new Map([['a', mesh]]))
    give(preview, shot(2), new Map([['a', mesh]]))
    expect(sent()).toBe(1)
    give(preview, shot(3), new Map([['a', { ...mesh }]]))
    expect(sent()).toBe(2)
  })

  test('a fault is told, and the next edit tries again, even one that changes nothing', () => {
    const { preview } = opened()
    worker().answer({ type: 'fault', generation: last('shot').generation, message: 'No memory left' })
    expect([preview.state.fault, preview.state.busy]).toEqual(['No memory left', false])
    give(preview, shot(1))
    expect([preview.state.fault, preview.state.busy]).toEqual([null, true])
    worker().onerror({ message: '' })
    expect(preview.state.fault).toMatch(/stopped unexpectedly: reload/)
  })

  test('questions are answered each by its own answer, in whatever order', async () => {
    const { preview } = opened()
    const first = preview.sampleBirth(shot(1), 'dust', 'b', 1)
    const second = preview.fingerprints(shot(1), [1, 2])
    const [births, prints] = [last('births'), last('fingerprints')]
    expect(prints.restoreAt).toBeNull()
    worker().answer({ type: 'fingerprints', request: prints.request, fingerprints: ['x', 'y'] })
    worker().answer({ type: 'births', request: births.request, positions: new Float32Array(3), normals: new Float32Array(3), total: 1 }) // prettier-ignore
    expect(await second).toEqual(['x', 'y'])
    expect((await first).total).toBe(1)
    preview.dispose()
    expect(worker().ended).toBe(true)
  })
})

test('meshes of a moment: while one is on its way only the last that is wanted waits', () => {
  const surfaces = createSurfaces()
  const of = shot(1)
  const ask = (frame: number) => surfaces.ask({ shot: of, frame, heat: null }, new Map())
  for (const frame of [1, 2, 3, 4]) ask(frame)
  const frames = () => (worker().asked as { frame?: number }[]).flatMap((one) => one.frame ?? [])
  expect(frames()).toEqual([1])
  worker().answer({ frame: 1, meshes: [], plane: null })
  expect(frames()).toEqual([1, 4])
  expect(surfaces.latest).toMatchObject({ frame: 1 })
  worker().answer({ frame: 4, meshes: [], plane: null })
  expect(frames()).toEqual([1, 4])
  surfaces.forget()
  expect(surfaces.latest).toBeNull()
})

describe('points to be born', () => {
  const square: Mesh = {
    positions: new Float32Array([-1, 0, -1, 1, 0, -1, 1, 0, 1, -1, 0, 1]),
    triangles: new Uint32Array([0, 2, 1, 0, 3, 2]),
  }
  const asset = `sha256:${'7'.repeat(64)}`
  const born = (amount: object): Shot => ({
    ...emptyShot('Born'),
    frames: { first: 1, last: 25, rate: 24 },
    meshes: [{ ...(shot(1).meshes[0] ?? {}), id: 'm', name: 'M', source: { asset }, visible: true, place: { position: [0, 0, 0], rotation: [0, 0, 0], scale: [1, 1, 1] }, deform: [], eaten: null, detail: 'auto', playback: { delay: 0, speed: 1, after: 'hold' } } as never], // prettier-ignore
    populations: [
      completePopulation({
        id: 'dust',
        births: [{ id: 'b', kind: 'surface', mesh: 'm', into: 'Loose', amount, speed: 2 } as never],
      }),
    ],
  })
  const sample = (of: Shot, frame = 3, birth = 'b') =>
    sampleBirth(createMachine(), new Map([[asset, square]]), { shot: of, population: 'dust', birth, frame })

  test.each([
    ['a burst', { burst: 120, at: 7 }, 120, 120],
    ['a rate', { rate: 240 }, 240, 240],
    ['a rate that is capped', { rate: 240, cap: 30 }, 30, 30],
    ['more than are shown', { burst: 100_000, at: 1 }, 100_000, 20_000],
  ])('%s: where they are born, the way they set out, and how many in all', (_, amount, total, shown) => {
    const found = sample(born(amount))
    expect(found.total).toBe(total)
    const count = found.positions.length / 3
    expect(Math.abs(count - shown) / shown).toBeLessThan(0.05)
    for (let i = 0; i < count; i++) {
      expect(Math.abs(found.positions[i * 3 + 1]!)).toBeLessThan(1e-6)
      expect(Math.hypot(...found.normals.subarray(i * 3, i * 3 + 3))).toBeCloseTo(2, 4)
    }
  })

  test('are as many as there are places for, where a burst asks for more', () => {
    const grid = { kind: 'volume', fill: 'grid', spacing: 0.1 }
    const [of, cube] = [born({ burst: 100_000, at: 1 }), box(0.5, 0.5, 0.5)]
    Object.assign(of.populations[0]!.births[0]!, grid)
    const found = sampleBirth(createMachine(), new Map([[asset, cube]]), { shot: of, population: 'dust', birth: 'b', frame: 1 }) // prettier-ignore
    const simulation = createSimulation(createMachine(), of, new Map([[asset, cube]]))
    expect(found.total).toBe(simulation.populations()[0]!.count)
    expect(found.total).toBeGreaterThan(60)
    expect(found.total).toBeLessThan(200)
    simulation.dispose()
  })

  test('are the very ones that the shot then gives', () => {
    const of = born({ burst: 50, at: 1 })
    const simulation = createSimulation(createMachine(), of, new Map([[asset, square]]))
    expect(Array.from(sample(of, 1).positions)).toEqual(
      Array.from(simulation.populations()[0]!.columns.position!),
    )
    simulation.dispose()
  })

  test('are where a mesh that moves in its file is at that frame', () => {
    const places = Array.from({ length: 25 }, (_, n) => square.positions.map((x, k) => x + (k % 3 === 1 ? n / 10 : 0))) // prettier-ignore
    const rising: Mesh = { ...square, motion: { rate: null, count: 25, by: { places }, middles: new Uint32Array(0) } } // prettier-ignore
    const heights = (amount: object, frame: number): number[] => {
      const asked = { shot: born(amount), population: 'dust', birth: 'b', frame }
      const { positions, message } = sampleBirth(createMachine(), new Map([[asset, rising]]), asked)
      expect(message).toBeUndefined()
      return Array.from(positions.filter((_, k) => k % 3 === 1))
    }
    for (const [amount, frame, at] of [[{ burst: 40, at: 7 }, 3, 7], [{ rate: 240 }, 12, 12], [{ burst: 40, at: 1 }, 9, 1]] as const) {
      const found = heights(amount, frame)
      expect(found.length).toBeGreaterThan(30)
      for (const y of found) expect(y).toBeCloseTo((at - 1) / 10, 5)
    } // prettier-ignore
  })

  test('nothing where there is no such birth', () => {
    expect(sample(born({ burst: 5, at: 1 }), 1, 'other')).toMatchObject({ total: 0 })
  })
})
