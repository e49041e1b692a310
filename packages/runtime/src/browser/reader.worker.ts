import { meshFacts } from '@tangle/core'
import { readMesh, textMesh } from '@tangle/formats'
import type { ReadingRequest } from './reading.ts'

onmessage = async ({ data }: MessageEvent<ReadingRequest>) => {
  try {
    const mesh = 'text' in data ? textMesh(data.text, data.font) : await readMesh(data.name, data.bytes)
    postMessage({ mesh, facts: meshFacts(mesh) })
  } catch (error) {
    postMessage({ fault: (error as Error).message })
  }
}
