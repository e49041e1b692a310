/** Fetches and decodes frames of a take, off the page's own thread. */
import { frameChain, turnedRound, type CachedFrame } from '@tangle/formats'
import { buffersOf, packFrame, type PackedMesh, type PackedPopulation } from './packed.ts'

/** Of a take at an address one frame. `mirror` is set where time runs back: the first and last frame together. */
export interface TakeFrameWanted {
  address: string
  frame: number
  mirror: number | null
}
/** Frames that were decoded on the way come, too. */
export interface TakeFrameAnswer {
  frame: number
  populations?: PackedPopulation[]
  meshes?: PackedMesh[]
  fault?: string
}

let chain: ReturnType<typeof chainOf> | null = null

onmessage = async ({ data }: MessageEvent<TakeFrameWanted>) => {
  const { address, frame, mirror } = data
  try {
    const show = (one: CachedFrame): void =>
      hand(mirror === null ? one : turnedRound(one, mirror - one.frame))
    chain ??= chainOf(address, show)
    show(await chain(mirror === null ? frame : mirror - frame))
  } catch (error) {
    postMessage({ frame, fault: (error as Error).message } satisfies TakeFrameAnswer)
  }
}

const chainOf = (address: string, onTheWay: (frame: CachedFrame) => void) =>
  frameChain(async (frame) => {
    const response = await fetch(`${address}/frames/${frame}`)
    if (!response.ok) throw new Error(`frame ${frame}: the server answers ${response.status}`)
    return new Uint8Array(await response.arrayBuffer())
  }, onTheWay)

function hand(frame: CachedFrame): void {
  const answer = { frame: frame.frame, ...packFrame(frame) }
  ;(globalThis as unknown as Worker).postMessage(answer, buffersOf(answer.populations, answer.meshes))
}
