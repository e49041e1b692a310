/** Frames that were computed in slices: read in any order they are as if they had been computed in one. */
import { codecReady, encodeFrame, frameChain, inOne, type CachedFrame, type Decoded } from '../src/index.ts'
import { dustFrames } from './dust.ts'

beforeAll(codecReady)

const frames = dustFrames({ frames: 30, count: 3000, size: 2, rate: 24 })
const runOf = (id: number): number => Math.floor(id / 256)

/** A frame without those whose ids do not belong to a slice. */
function slice(frame: CachedFrame, index: number, of: number): CachedFrame {
  return {
    ...frame,
    populations: frame.populations.map(({ id, count, columns }) => {
      const ids = columns.id as Uint32Array
      const rows = [...ids.keys()].filter((i) => runOf(ids[i]!) % of === index)
      const picked = Object.entries(columns).map(([name, column]) => {
        const width = column.length / count
        const values = rows.flatMap((i) => [...column.subarray(i * width, (i + 1) * width)])
        return [name, name === 'id' || name === 'phase' ? Uint32Array.from(values) : Float32Array.from(values)] // prettier-ignore
      })
      return { id, count: rows.length, columns: Object.fromEntries(picked) as typeof columns }
    }),
    meshes: index === 0 ? frame.meshes : [],
  }
}

function stored(of: number, all = frames): Map<number, Uint8Array> {
  const before: (Decoded | null)[] = Array.from({ length: of }, () => null)
  return new Map(
    all.map((frame) => {
      const parts = before.map((last, k) => {
        const { bytes, decoded } = encodeFrame(slice(frame, k, of), { rate: 24, before: last })
        before[k] = decoded
        return bytes
      })
      return [frame.frame, inOne(parts)]
    }),
  )
}
const plain = ({ frame, populations, meshes }: CachedFrame): CachedFrame => ({ frame, populations, meshes })
const reader = (bytes: Map<number, Uint8Array>) => frameChain((frame) => Promise.resolve(bytes.get(frame)!))

test.each([1, 2, 7, 40])('%d slices, forward, backward and at random', async (of) => {
  const bytes = stored(of)
  const order = [1, 2, 3, 14, 13, 30, 29, 5, 25, 24, 1]
  const read = reader(bytes)
  for (const frame of order) expect(plain(await read(frame))).toEqual(frames[frame - 1])
})

test('slices that have nobody, and frames in which nobody is', async () => {
  const few = frames.slice(0, 3).map((frame) => slice(frame, 1, 30))
  const none = { ...slice(frames[3]!, 999, 1000) }
  const bytes = stored(4, [...few, none])
  const read = reader(bytes)
  for (const frame of [...few, none]) {
    const { populations } = await read(frame.frame)
    expect(populations[0]!.count).toBe(frame.populations[0]!.count)
    expect([...populations[0]!.columns.id!]).toEqual([...frame.populations[0]!.columns.id!])
    expect([...populations[0]!.columns.position!]).toEqual([...frame.populations[0]!.columns.position!])
  }
})

test('what all slices have comes from the first one', async () => {
  const mesh = { id: 'hull', positions: Float32Array.of(0, 0, 0, 1, 0, 0, 0, 1, 0), triangles: Uint32Array.of(0, 1, 2) } // prettier-ignore
  const bytes = stored(3, frames.map((frame) => ({ ...frame, meshes: [mesh] }))) // prettier-ignore
  expect((await reader(bytes)(20)).meshes).toEqual([mesh])
})

test('what is cut off is refused with a word', async () => {
  const bytes = stored(3)
  for (const length of [5, 15, 40, bytes.get(1)!.length - 1]) {
    const cut = new Map([[1, bytes.get(1)!.slice(0, length)]])
    await expect(reader(cut)(1)).rejects.toThrow(/cut off in its slices/)
  }
})
