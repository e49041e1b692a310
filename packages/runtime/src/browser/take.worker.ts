/** Fetches and decodes frames of a take, off the page's own thread. */
import { codecReady, decodeFrame } from '@tangle/formats'
import { buffersOf, packMesh, packPopulation, type PackedMesh, type PackedPopulation } from './packed.ts'

export interface TakeFrameAnswer {
  frame: number
  populations?: PackedPopulation[]
  meshes?: PackedMesh[]
  fault?: string
}

onmessage = async ({ data }: MessageEvent<{ address: string; frame: number; backward: boolean }>) => {
  let answer: TakeFrameAnswer
  try {
    await codecReady()
    const response = await fetch(`${data.address}/frames/${data.frame}${data.backward ? '?backward=1' : ''}`)
    if (!response.ok) throw new Error(`frame ${data.frame}: the server answers ${response.status}`)
    const { populations, meshes } = decodeFrame(new Uint8Array(await response.arrayBuffer()))
    answer = {
      frame: data.frame,
      populations: populations.map((one) => packPopulation(one)),
      meshes: meshes.map(packMesh),
    }
  } catch (error) {
    answer = { frame: data.frame, fault: (error as Error).message }
  }
  const buffers = buffersOf(answer.populations ?? [], answer.meshes)
  ;(globalThis as unknown as Worker).postMessage(answer, buffers)
}
