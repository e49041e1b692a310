import { expect, test } from '@playwright/test'
import { execFile } from 'node:child_process'
import { promisify } from 'node:util'
import { openShot } from './help.ts'

const FRAMES = [1, 8, 18]
/** A float that bursts at frame 30, and its pieces in the air at 33. */
const BURSTING = [1, 31, 33]
const DEMOS: Record<string, string> = {
  // much of what the others do, with more particles
  ...(process.env.TANGLE_WIDE && { 'Beacon to dust': 'beacon-to-dust' }),
  'The bell and the fog': 'the-bell-and-the-fog',
  'The float that mends': 'the-float-that-mends',
}

/** Fingerprints from the command line. */
async function inNode(demo: string, frames: number[], threads: number): Promise<string[]> {
  const { stdout } = await promisify(execFile)(
    'node',
    [
      '.build/cli.mjs',
      'bake',
      `demo:${demo}`,
      '--frames',
      `1-${frames.at(-1)}`,
      '--threads',
      String(threads),
      '--json',
    ],
    { maxBuffer: 1 << 26 },
  )
  const lines = stdout
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as { frame?: number; fingerprint?: string })
  return frames.map((frame) => lines.find((line) => line.frame === frame)!.fingerprint!)
}

type Source = { asset: string } | { text: unknown }
interface Inside {
  tangle: {
    sourceKey(source: Source, shot: unknown): string
    engine: { meshOf(source: Source): { mesh: unknown } | undefined }
    createPreview(options: { threads: number; budget: number }): {
      setShot(shot: unknown, meshes: Map<string, unknown>): void
      fingerprints(shot: unknown, frames: number[], restoreAt?: number): Promise<string[]>
      dispose(): void
    }
  }
}

for (const [name, slug] of Object.entries(DEMOS)) {
  test(`${name}: the same bytes in Node and Chromium, with 1 and 2 threads, and after restore`, async ({
    page,
  }) => {
    // the float takes long: the page has both at once, and Node's other thread is left to the unit tests
    const isLong = slug === 'the-float-that-mends'
    const frames = isLong ? BURSTING : FRAMES
    const expected = await inNode(slug, frames, 1)
    if (!isLong) expect(await inNode(slug, frames, 2)).toEqual(expected)
    await openShot(page, name)
    const address = page.url().replace(/\/shots\/([^/]+)\/.*/, '/api/shots/$1')
    const ways: [threads: number, restoreAt?: number][] = isLong ? [[2, 32]] : [[1], [2, 7]]
    for (const [threads, restoreAt] of ways) {
      const found = await page.evaluate(
        async ({ address, frames, threads, restoreAt }) => {
          const { engine, createPreview, sourceKey } = (globalThis as unknown as Inside).tangle
          const { document: shot } = (await (await fetch(address)).json()) as {
            document: { meshes: { source: Source }[] }
          }
          const sources = shot.meshes.map((mesh) => mesh.source)
          while (!sources.every((source) => engine.meshOf(source)))
            await new Promise((resolve) => setTimeout(resolve, 50))
          const preview = createPreview({ threads, budget: 0 })
          preview.setShot(
            shot,
            new Map(sources.map((source) => [sourceKey(source, shot), engine.meshOf(source)!.mesh])),
          )
          const fingerprints = await preview.fingerprints(shot, frames, restoreAt)
          preview.dispose()
          return fingerprints
        },
        { address, frames, threads, restoreAt },
      )
      expect(found).toEqual(expected)
    }
  })
}
