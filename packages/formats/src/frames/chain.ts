import type { CachedFrame, Decoded } from './cachedFrame.ts'
import { codecReady } from './ready.ts'
import { decodeFrame, frameHead } from './decode.ts'

/** Bytes of decoded frames that are kept at most, so that those before the last one are at hand (a take is read backward, too). */
const ROOM = 128 * 1024 * 1024

/**
 * Reads frames of a take in any order: each goes back to a key frame, and what is decoded on the way is kept while there is room.
 * `onTheWay` hears of those.
 */
export function frameChain(
  bytesOf: (frame: number) => Promise<Uint8Array>,
  onTheWay: (frame: CachedFrame) => void = () => undefined,
): (frame: number) => Promise<Decoded> {
  let kept = new Map<number, Decoded>()
  const keep = (frame: Decoded): void => {
    if (frame.key === frame.frame || !kept.has(frame.frame - 1)) kept = new Map()
    kept.set(frame.frame, frame)
    const most = Math.max(2, Math.floor(ROOM / (1 + sizeOf(frame))))
    for (const first of kept.keys()) if (kept.size > most) kept.delete(first)
  }
  async function read(frame: number): Promise<Decoded> {
    await codecReady()
    const known = kept.get(frame)
    if (known) return known
    const bytes = await bytesOf(frame)
    const { key } = frameHead(bytes)
    let before: Decoded | null = null
    let from = key
    for (let at = frame - 1; at >= key && !before; at--) {
      before = kept.get(at) ?? null
      if (before) from = at + 1
    }
    for (let at = from; at < frame; at++) {
      before = decodeFrame(await bytesOf(at), before)
      keep(before)
      onTheWay(before)
    }
    const last = decodeFrame(bytes, before)
    keep(last)
    return last
  }
  // one after the other: each may be what the next one needs
  let queue: Promise<unknown> = Promise.resolve()
  return (frame) => {
    const next = queue.then(() => read(frame))
    queue = next.catch(() => undefined)
    return next
  }
}

const sizeOf = ({ populations, meshes, slices }: Decoded): number =>
  [
    ...populations.flatMap(({ columns }) => Object.values(columns)),
    ...meshes.flatMap(({ positions, triangles }) => [positions, triangles]),
  ].reduce((sum, column) => sum + (column?.byteLength ?? 0), 0) *
  // what a frame was put together from is kept, too
  (slices ? 2 : 1)
