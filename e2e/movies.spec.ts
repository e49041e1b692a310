/** Movies are read by ffmpeg: how many pictures, how large, how long, and what is in the first and the last. */
import { execFileSync } from 'node:child_process'
import { mkdtempSync, readFileSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { expect, test, type Page } from '@playwright/test'
import { unzipSync } from 'fflate'
import { choose, firstCount, goTo, openCopy, type } from './help.ts'

const FRAMES = { first: 25, last: 34 }
const COUNT = 10
const [WIDTH, HEIGHT] = [64, 36]

/** Makes a movie by the dialog; gives the file's place. */
async function movie(page: Page, kind: string, folder: string, background = true): Promise<string> {
  await page.getByRole('button', { name: 'Movie…' }).click()
  const dialog = page.getByRole('dialog', { name: 'Make a movie' })
  await dialog.getByRole('button', { name: kind, exact: true }).click()
  await type(page, 'Last frame', String(FRAMES.last))
  await type(page, 'First frame', String(FRAMES.first))
  if (!background) await dialog.getByRole('button', { name: 'without', exact: true }).click()
  const download = page.waitForEvent('download', { timeout: 180_000 })
  await dialog.getByRole('button', { name: 'Make the movie' }).click()
  const saved = await download
  const path = join(folder, saved.suggestedFilename())
  await saved.saveAs(path)
  await expect(dialog).toBeHidden()
  return path
}

/** Of a video: its pictures, made small, as grey bytes each. */
const greysOf = (path: string): Buffer =>
  execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-vf', `scale=${WIDTH}:${HEIGHT}`, '-f', 'rawvideo', '-pix_fmt', 'gray', '-']) // prettier-ignore
/** Mean difference of two pictures, of 255. */
const apart = (a: Buffer, b: Buffer): number =>
  a.reduce((sum, x, i) => sum + Math.abs(x - b[i]!), 0) / a.length

test('movies of the preview: read by another program, with the frames that were asked for', async ({
  page,
}) => {
  page.setDefaultTimeout(60_000)
  const folder = mkdtempSync(join(tmpdir(), 'tangle-movies-'))
  await openCopy(page, 'Lantern sparks', 'Takes')
  await firstCount(page, FRAMES.last)

  const zip = unzipSync(readFileSync(await movie(page, 'PNG frames', folder)))
  const names = Object.keys(zip).toSorted()
  expect(names).toHaveLength(COUNT)
  expect(names[0]).toMatch(/\.0025\.png$/)
  const greys = [names[0]!, names.at(-1)!].map((name) => {
    const path = join(folder, name)
    writeFileSync(path, zip[name]!)
    return greysOf(path)
  })
  // something has happened from the first to the last
  const moved = apart(greys[0]!, greys[1]!)
  expect(moved).toBeGreaterThan(0.1)

  for (const [kind, codec] of [
    ['MP4', 'h264'],
    ['WebM', 'vp9'],
  ] as const) {
    const path = await movie(page, kind, folder)
    const asked = ['-v', 'error', '-count_frames', '-show_entries', 'stream=codec_name,width,height,nb_read_frames,r_frame_rate:format=duration', '-of', 'json', path] // prettier-ignore
    const { streams, format } = JSON.parse(execFileSync('ffprobe', asked, { encoding: 'utf8' })) as { streams: object[]; format: { duration: string } } // prettier-ignore
    expect(streams).toEqual([expect.objectContaining({ codec_name: codec, width: 1280, height: 720, nb_read_frames: String(COUNT), r_frame_rate: '24/1' })]) // prettier-ignore
    expect(Number(format.duration)).toBeCloseTo(COUNT / 24, 2)
    const all = greysOf(path)
    const size = WIDTH * HEIGHT
    expect(all.length).toBe(COUNT * size)
    // they are the pictures that the frames are, each nearer to its own than to the other
    const [first, last] = [all.subarray(0, size), all.subarray(-size)]
    expect(apart(first, greys[0]!)).toBeLessThan(Math.min(4, apart(first, greys[1]!)))
    expect(apart(last, greys[1]!)).toBeLessThan(Math.min(4, apart(last, greys[0]!)))
  }

  const bare = unzipSync(readFileSync(await movie(page, 'PNG frames', folder, false)))
  writeFileSync(join(folder, 'bare.png'), bare[names[0]!]!)
  const alpha = execFileSync('ffmpeg', ['-v', 'error', '-i', join(folder, 'bare.png'), '-vf', 'alphaextract', '-f', 'rawvideo', '-pix_fmt', 'gray', '-'], { maxBuffer: 1e8 }) // prettier-ignore
  const share = alpha.filter((a) => a > 128).length / alpha.length
  expect(share).toBeGreaterThan(0.005)
  expect(share).toBeLessThan(0.3)

  // the stage is as it was, and a movie that is cancelled leaves nothing
  await page.getByRole('button', { name: 'Movie…' }).click()
  await page.getByRole('button', { name: 'Make the movie' }).click()
  await page.getByRole('button', { name: 'Cancel' }).click()
  await expect(page.getByRole('button', { name: 'Make the movie' })).toBeEnabled()
  await page.keyboard.press('Escape')
  const [canvas, box] = await page.getByTestId('stage').evaluate((one) => [[(one as HTMLCanvasElement).width, (one as HTMLCanvasElement).height], [one.clientWidth, one.clientHeight]] as const) // prettier-ignore
  expect(canvas[0] / canvas[1]).toBeCloseTo(box[0] / box[1], 1)
  await goTo(page, 'Look')
  await choose(page, 'Draw as', /^points$/)
})
