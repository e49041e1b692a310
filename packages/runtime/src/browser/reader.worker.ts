import { meshFacts } from '@tangle/core'
import { readMesh } from '@tangle/formats'

onmessage = async ({ data }: MessageEvent<{ name: string; bytes: Uint8Array }>) => {
  try {
    const mesh = await readMesh(data.name, data.bytes)
    postMessage({ mesh, facts: meshFacts(mesh) })
  } catch (error) {
    postMessage({ fault: (error as Error).message })
  }
}
