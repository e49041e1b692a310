import { meshFacts } from '@tangle/core'
import { readPainted, textMesh } from '@tangle/formats'
import type { ReadingRequest } from './reading.ts'

onmessage = async ({ data }: MessageEvent<ReadingRequest>) => {
  try {
    const { mesh, materials } =
      'text' in data
        ? { mesh: textMesh(data.text, data.font), materials: [] }
        : await readPainted(data.name, data.bytes)
    postMessage({ mesh, facts: meshFacts(mesh), materials })
  } catch (error) {
    postMessage({ fault: (error as Error).message })
  }
}
