/** Fetches and decodes frames of a take, off the page's own thread. */
import { codecReady, decodeFrame } from '@tangle/formats'
import { packPopulation, type PackedPopulation } from './packed.ts'

export interface TakeFrameAnswer {
  frame: number
  populations?: PackedPopulation[]
  fault?: string
}

onmessage = async ({ data }: MessageEvent<{ address: string; frame: number }>) => {
  let answer: TakeFrameAnswer
  try {
    await codecReady()
    const response = await fetch(`${data.address}/frames/${data.frame}`)
    if (!response.ok) throw new Error(`frame ${data.frame}: the server answers ${response.status}`)
    const { populations } = decodeFrame(new Uint8Array(await response.arrayBuffer()))
    answer = { frame: data.frame, populations: populations.map(packPopulation) }
  } catch (error) {
    answer = { frame: data.frame, fault: (error as Error).message }
  }
  const buffers = (answer.populations ?? []).flatMap(
    (p) => [p.positions.buffer, p.values.buffer] as ArrayBuffer[],
  )
  ;(globalThis as unknown as Worker).postMessage(answer, buffers)
}
