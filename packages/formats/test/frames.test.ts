/** The frame codec: what comes back is what went in, to the bit or to the error that is stated. */
import { ATTRIBUTES, type AttributeName, type PopulationFrame } from '@tangle/core'
import {
  codecReady,
  decodeFrame,
  encodeFrame,
  frameChain,
  PLACE_ERROR,
  type CachedFrame,
  type Decoded,
  type Encoding,
} from '../src/index.ts'
import { MeshoptEncoder } from 'meshoptimizer/encoder'
import { dustFrames } from './dust.ts'

beforeAll(codecReady)

const RATE = 24
type Columns = PopulationFrame['columns']
const frameOf = (frame: number, columns: Columns, count = columns.id!.length): CachedFrame => ({
  frame,
  populations: [{ id: 'dust', count, columns }],
  meshes: [],
})
/** Encodes frames one after the other and hands out the bytes of each. */
function encodeAll(frames: CachedFrame[], more: Partial<Encoding> = {}): Map<number, Uint8Array> {
  let before: Decoded | null = null
  return new Map(
    frames.map((one) => {
      const { bytes, decoded } = encodeFrame(one, { rate: RATE, before, ...more })
      before = decoded
      return [one.frame, bytes]
    }),
  )
}
const chainOf = (stored: Map<number, Uint8Array>, asked: number[] = []) =>
  frameChain((frame) => {
    asked.push(frame)
    return Promise.resolve(stored.get(frame)!)
  })
const bitsOf = (column: Float32Array | Uint32Array): number[] => [
  ...new Uint32Array(column.buffer, column.byteOffset, column.length),
]
const sameBits = (a: CachedFrame, b: CachedFrame): void => {
  expect(a.frame).toBe(b.frame)
  a.populations.forEach((one, i) => {
    const other = b.populations[i]!
    expect(one.count).toBe(other.count)
    for (const [name, column] of Object.entries(one.columns))
      expect([name, bitsOf(column)]).toEqual([name, bitsOf(other.columns[name as 'id']!)])
  })
}
const compact = { precision: () => 'compact' as const }

/** Numbers that a codec may stumble over. */
const ODD = [0, -0, 1e-45, -1e-45, 1.17e-38, 3.4e38, -3.4e38, Infinity, -Infinity, NaN, 1, -1, 16777216, 1e7]
function odd(frame: number, count: number): CachedFrame {
  let state = frame * 7919 + 1
  const random = (): number => (state = (Math.imul(state, 1664525) + 1013904223) >>> 0)
  const some = (width: number): Float32Array =>
    Float32Array.from({ length: count * width }, () =>
      random() % 3 === 0 ? ODD[random() % ODD.length]! : (random() / 2 ** 32 - 0.5) * 10 ** (random() % 9),
    )
  let id = 0
  return frameOf(frame, {
    id: Uint32Array.from({ length: count }, () => (id += 1 + (random() % 5))),
    phase: Uint32Array.from({ length: count }, random),
    position: some(3),
    velocity: some(3),
    age: some(1),
    lifespan: some(1),
    radius: some(1),
    parent: Uint32Array.from({ length: count }, random),
    parentPopulation: Uint32Array.from({ length: count }, random),
    generation: Uint32Array.from({ length: count }, random),
    travelled: some(1),
    colour: some(3),
    opacity: some(1),
    orientation: some(4),
    piece: Uint32Array.from({ length: count }, random),
    angularVelocity: some(3),
    stress: some(1),
    pressure: some(1),
    compression: some(1),
    temperature: some(1),
    bonds: Uint32Array.from({ length: count }, random),
    'own.heat': some(2),
  })
}

test('exactly: random frames of odd numbers, births and deaths come back to the bit, in any order', async () => {
  const frames = [...Array(40).keys()].map((n) => odd(n - 3, (n * 37) % 101))
  const read = chainOf(encodeAll(frames))
  for (const n of [39, 0, 13, 12, 11, 38, 37, 36, 25, 24, 23, 1, 39]) sameBits(frames[n]!, await read(n - 3))
})

test('compactly: each number is as near as the table states, in every frame', async () => {
  for (const size of [1e-3, 1, 500]) {
    const frames = dustFrames({ frames: 25, count: 600, size, rate: RATE })
    const read = chainOf(encodeAll(frames, compact))
    for (const frame of frames) {
      const [was, is] = [frame.populations[0]!.columns, (await read(frame.frame)).populations[0]!.columns]
      const side = sideOf(was.position as Float32Array)
      const most = (name: AttributeName, error: (value: number) => number): void => {
        const [a, b] = [was[name]!, is[name]!]
        let worst = 0
        for (let i = 0; i < a.length; i++) worst = Math.max(worst, Math.abs(a[i]! - b[i]!) / error(a[i]!))
        expect([name, worst]).toEqual([name, expect.any(Number)])
        expect(worst).toBeLessThanOrEqual(1)
      }
      expect(is.id).toEqual(was.id)
      expect(is.phase).toEqual(was.phase)
      most('position', () => PLACE_ERROR * side)
      most('velocity', () => PLACE_ERROR * side * RATE)
      most('age', () => 1 / (512 * RATE))
      most('radius', (r) => 2 ** -12 * r)
      most('lifespan', (t) => 2 ** -12 * t)
    }
  }
})

test('compactly: what does not fit a step is kept all the same', async () => {
  // one far away, one alone, none, all at one place, and a frame that bursts
  const at = (frame: number, xs: number[]): CachedFrame =>
    frameOf(frame, {
      id: Uint32Array.from(xs, (_, i) => i),
      position: Float32Array.from(xs.flatMap((x) => [x, 0, -x])),
      velocity: Float32Array.from(xs.flatMap((x) => [x, x, x])),
    })
  const frames = [
    [1e7, 1e7 + 1],
    [3],
    [],
    [2, 2, 2],
    [0, 1e-30],
    [-1e6, 1e6, 5],
    [Infinity, 0],
    [NaN, 1],
  ].map((xs, n) => at(n + 1, xs))
  const read = chainOf(encodeAll(frames, compact))
  for (const frame of frames) {
    const [was, is] = [frame, await read(frame.frame)].map(
      (one) => one.populations[0]!.columns.position as Float32Array,
    )
    const side = was!.every(Number.isFinite) ? sideOf(was!) : 0
    was!.forEach((x, i) => {
      if (Number.isFinite(x)) expect(Math.abs(is![i]! - x)).toBeLessThanOrEqual(PLACE_ERROR * side)
      else expect(Object.is(is![i], x)).toBe(true)
    })
  }
})

test('one that has flown away, however far, leaves the others as near as they were', () => {
  const [frame] = dustFrames({ frames: 1, count: 2000, size: 1, rate: RATE })
  const { columns, count } = frame!.populations[0]!
  const side = sideOf(columns.position as Float32Array)
  for (const away of [30, 1e3, 1e6, 3e38]) {
    const position = columns.position!.slice() as Float32Array
    position.set([away, -away, away], 3 * 777)
    const velocity = columns.velocity!.slice() as Float32Array
    velocity.set([away, 0, 0], 3 * 777)
    const { decoded } = encodeFrame(frameOf(1, { ...columns, position, velocity }, count), { rate: RATE, before: null, ...compact }) // prettier-ignore
    const is = decoded.populations[0]!.columns
    position.forEach((x, i) => expect(Math.abs(is.position![i]! - x)).toBeLessThanOrEqual(PLACE_ERROR * side))
    velocity.forEach((x, i) =>
      expect(Math.abs(is.velocity![i]! - x)).toBeLessThanOrEqual(PLACE_ERROR * side * RATE),
    )
  }
})

test('who goes on after another has the same bytes as one who was there all the time', () => {
  const frames = dustFrames({ frames: 20, count: 500, size: 2, rate: RATE })
  const stored = encodeAll(frames, compact)
  let before: Decoded | null = null
  for (const frame of frames.slice(0, 15)) before = decodeFrame(stored.get(frame.frame)!, before)
  for (const frame of frames.slice(15)) {
    const next = encodeFrame(frame, { rate: RATE, before, ...compact })
    expect(next.bytes).toEqual(stored.get(frame.frame))
    before = next.decoded
  }
})

test('at most twelve frames are read for one, and those at hand are not read again', async () => {
  const frames = dustFrames({ frames: 40, count: 50, size: 1, rate: RATE })
  const asked: number[] = []
  const read = chainOf(encodeAll(frames), asked)
  await read(12)
  expect(asked.toSorted((a, b) => a - b)).toEqual([1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12])
  await read(11)
  await read(13)
  expect(asked.slice(12)).toEqual([13])
  await read(30)
  expect(asked.slice(13).toSorted((a, b) => a - b)).toEqual([25, 26, 27, 28, 29, 30])
})

test('a mesh that stands still has no bytes after the first', () => {
  const mesh = {
    id: 'hull',
    positions: new Float32Array(3000).map((_, i) => Math.sin(i * i)),
    triangles: new Uint32Array(999),
  }
  const frames = [1, 2, 3].map((frame): CachedFrame => ({ frame, populations: [], meshes: [mesh] }))
  const moved = { ...mesh, positions: mesh.positions.map((x) => -x) }
  const stored = encodeAll([...frames, { frame: 4, populations: [], meshes: [moved] }])
  expect(stored.get(2)!.length).toBeLessThan(300)
  expect(stored.get(4)!.length).toBeGreaterThan(3000)
  let before: Decoded | null = null
  for (const bytes of stored.values()) before = decodeFrame(bytes, before)
  expect(before!.meshes).toEqual([moved])
})

test('damage is found, and says where', () => {
  const stored = encodeAll(dustFrames({ frames: 3, count: 200, size: 1, rate: RATE }))
  const bytes = stored.get(1)!
  expect(() => decodeFrame(stored.get(2)!)).toThrow(
    /frame 2: needs frame 1 to be read first, from frame 1 on/,
  )
  expect(() => decodeFrame(bytes.slice(0, bytes.length - 9))).toThrow(/cut off/)
  expect(() => decodeFrame(bytes.slice(3))).toThrow(/not the bytes of a frame/)
  // any bit that is turned
  for (let at = 0; at < bytes.length; at += 97) {
    const broken = bytes.slice()
    broken[at]! ^= 1 << (at % 8)
    expect(() => decodeFrame(broken)).toThrow(/check sum|not the bytes|cut off|head of the frame/)
  }
})

test('frames of older takes are read', async () => {
  const positions = new Float32Array([1, 2, 3, 4, 5, 6])
  const parts = [
    MeshoptEncoder.encodeVertexBuffer(new Uint8Array(Uint32Array.of(3, 9).buffer), 2, 4),
    MeshoptEncoder.encodeVertexBuffer(new Uint8Array(positions.buffer), 2, 12),
  ]
  const columns = ['id', 'position'].map((name, n) => ({ name, bytes: parts[n]!.length }))
  const head = new TextEncoder().encode(
    JSON.stringify({ frame: 7, populations: [{ id: 'dust', count: 2, columns }] }),
  )
  const length = new Uint8Array(Uint32Array.of(head.length).buffer)
  const bytes = Buffer.concat([Buffer.from('TGFR'), length, head, ...parts])
  const { populations } = await frameChain(() => Promise.resolve(bytes))(7)
  expect(populations[0]!.columns).toEqual({ id: Uint32Array.of(3, 9), position: positions })
})

test('every attribute that a frame keeps states how', () => {
  const kept = Object.entries(ATTRIBUTES).flatMap(([name, { frames }]) => (frames ? [name] : []))
  expect(kept).toEqual(
    Object.keys(odd(1, 1).populations[0]!.columns)
      .filter((n) => n !== 'own.heat')
      .toSorted(byTable),
  )
})
const byTable = (a: string, b: string): number => {
  const order = Object.keys(ATTRIBUTES)
  return order.indexOf(a) - order.indexOf(b)
}

function sideOf(positions: Float32Array): number {
  let longest = 0
  for (const axis of [0, 1, 2]) {
    const along = positions.filter((_, i) => i % 3 === axis)
    if (along.length > 0) longest = Math.max(longest, Math.max(...along) - Math.min(...along))
  }
  return longest
}
