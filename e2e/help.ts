import { readFile } from 'node:fs/promises'
import { expect, type Page } from '@playwright/test'

interface Measures {
  populations: {
    alive: number
    born: number
    phases: Record<string, number>
    speed: { median: number }
    contact: { inside: number } | null
    liquid?: { high: number } | null
    temperature?: { coldest: number; warmest: number } | null
    links: { alive: number; made: number; broken: number } | null
    goals: { paired: number; arrived: number; median: number }[]
    events: Record<string, number>
  }[]
  meshes: { area: number; swept: number; left: number }[]
  covers: { volume: number; deepest: number }[]
  cuts?: { volume: number; left: number }[]
}
interface Engine {
  frame: number
  computedTo(): number | null
  seek(frame: number): void
  pause(): void
  populations(): { id: string; count: number; ids: Uint32Array; positions: Float32Array }[]
  populationsAt(frame: number): { ids: Uint32Array; positions: Float32Array }[] | undefined
  arrows(): Float32Array | null
  measures(): Measures | undefined
  measuresAt(frame: number): Measures | undefined
  liveMeshes(): {
    id: string
    triangles: Uint32Array
    values?: Float32Array
    columns?: Record<string, Float32Array>
  }[]
  surface(): { meshes: { others?: Float32Array }[]; plane: Float32Array | null } | null
  picture(): Promise<Blob | null>
}
interface Point {
  x: number
  y: number
  clone(): Point
  set(x: number, y: number, z: number): Point
  project(camera: Camera): Point
}
interface Camera {
  position: Point
}
interface World {
  camera: Camera
  picture(alone: boolean): Promise<Blob | null>
}
export interface Inside {
  tangle: { engine: Engine; stage: { world: World } }
}

/** Opens a shot of Heron Quay by its name. */
export async function openShot(page: Page, name: string, step?: string): Promise<void> {
  await page.goto('/')
  await page
    .getByRole('link', { name: `Open ${name}`, exact: true })
    .first()
    .click()
  await expect(page.getByTestId('stage')).toBeVisible()
  if (step)
    await page
      .getByRole('navigation', { name: 'Steps' })
      .getByRole('link', { name: new RegExp(`^${step}`) })
      .click()
}

/** Opens a copy of a shot of Heron Quay: what a test does to it, the next one does not find. */
export async function openCopy(page: Page, name: string, step: string): Promise<void> {
  const cards = (await (await page.request.get('/api/shots')).json()) as { id: string; name: string }[]
  const { id } = cards.find((card) => card.name === name)!
  const copy = (await (await page.request.post(`/api/shots/${id}/duplicate`)).json()) as { id: string }
  await page.goto(`/shots/${copy.id}/${step.toLowerCase()}`)
  await expect(page.getByTestId('stage')).toBeVisible()
}

/** A new, empty shot. */
export async function newShot(page: Page): Promise<void> {
  await page.goto('/')
  await page.getByRole('button', { name: 'New shot', exact: true }).click()
  await expect(page.getByTestId('stage')).toBeVisible()
}

/** The text of a take in a format, by the buttons of the Takes step. */
export async function downloaded(page: Page, format: string): Promise<string> {
  await page.getByRole('combobox', { name: 'Format of the files' }).click()
  await page.getByRole('option', { name: format }).click()
  const download = page.waitForEvent('download')
  await page.getByRole('link', { name: 'Download' }).click()
  return readFile(await (await download).path(), 'utf8')
}

export const goTo = (page: Page, step: string) =>
  page
    .getByRole('navigation', { name: 'Steps' })
    .getByRole('link', { name: new RegExp(`^${step}`) })
    .click()

/** Waits until the preview of a shot that has just been opened reaches a frame; gives the particles there. */
export async function firstCount(page: Page, frame: number): Promise<number> {
  await page.waitForFunction(
    (at) => ((globalThis as unknown as Inside).tangle.engine.computedTo() ?? -1) >= at,
    frame,
  )
  return countAt(page, frame)
}

/** Waits until the preview shows so many particles at a frame; after an edit it may take a moment. */
export async function particlesAt(page: Page, frame: number, expected: number): Promise<void> {
  await expect.poll(() => countAt(page, frame), { timeout: 150_000 }).toBe(expected)
}

const countAt = (page: Page, frame: number): Promise<number> =>
  page.evaluate((at) => {
    const { engine } = (globalThis as unknown as Inside).tangle
    if ((engine.computedTo() ?? -1) < at) return -1
    engine.seek(at)
    return engine.populations().reduce((sum, p) => sum + p.count, 0)
  }, frame)

/** A ball of `rings` × `rings` quads as OBJ text, with CRLF, groups and negative numbers. */
export function ballObj(radius = 1, rings = 24): string {
  const lines = ['# made for a test', 'g ball']
  for (let i = 0; i <= rings; i++) {
    for (let k = 0; k < rings; k++) {
      const [a, b] = [(Math.PI * i) / rings, (2 * Math.PI * k) / rings]
      lines.push(
        `v ${radius * Math.sin(a) * Math.sin(b)} ${radius * Math.cos(a) + radius} ${radius * Math.sin(a) * Math.cos(b)}`,
      )
    }
  }
  const count = (rings + 1) * rings
  for (let i = 0; i < rings; i++) {
    for (let k = 0; k < rings; k++) {
      const [a, b] = [i * rings + k, i * rings + ((k + 1) % rings)]
      lines.push(`f ${[a, a + rings, b + rings, b].map((v) => v - count).join(' ')}`)
    }
  }
  return lines.join('\r\n')
}

/** Drops a file onto the page, as from a file manager. */
export async function drop(page: Page, name: string, bytes: Buffer): Promise<void> {
  const data = await page.evaluateHandle(
    ({ name, base64 }) => {
      const transfer = new DataTransfer()
      const content = Uint8Array.from(atob(base64), (c) => c.charCodeAt(0))
      transfer.items.add(new File([content], name))
      return transfer
    },
    { name, base64: bytes.toString('base64') },
  )
  await page.getByTestId('stage').dispatchEvent('drop', { dataTransfer: data })
}

/** Types a value into a field, the first of its name. */
export async function type(page: Page, name: string, value: string): Promise<void> {
  const field = page.getByRole('textbox', { name, exact: true }).first()
  await field.fill(value)
  await field.press('Enter')
}

/** Chooses from a list. */
export async function choose(page: Page, list: string, option: string | RegExp): Promise<void> {
  await page.getByRole('combobox', { name: list, exact: true }).click()
  await page.getByRole('option', { name: option }).click()
}

/** Adds an influence to the open population. */
export async function add(page: Page, kind: string): Promise<void> {
  await page.getByRole('button', { name: '+ Influence' }).click()
  await page.getByRole('option', { name: new RegExp(`^\\W*${kind}`) }).click()
}

/** A text file to be dropped. */
export const file = (name: string, text: string) => ({
  name,
  mimeType: 'text/plain',
  buffer: Buffer.from(text),
})

/** What the stage shows, as bytes of a small grey picture of 48 × 30, once nothing changes any more. */
export async function still(page: Page): Promise<number[]> {
  const look = () =>
    page.evaluate(async () => {
      // as it is seen, a comparison and all
      const picture = await (globalThis as unknown as Inside).tangle.stage.world.picture(false)
      const bitmap = await createImageBitmap(picture!)
      const canvas = new OffscreenCanvas(48, 30)
      const context = canvas.getContext('2d')!
      context.drawImage(bitmap, 0, 0, 48, 30)
      const { data } = context.getImageData(0, 0, 48, 30)
      return Array.from({ length: 48 * 30 }, (_, i) => data[i * 4]! + data[i * 4 + 1]! + data[i * 4 + 2]!)
    })
  let before = await look()
  for (let tries = 0; tries < 40; tries++) {
    await page.waitForTimeout(400)
    const now = await look()
    if (apart(now, before) < 0.02) return now
    before = now
  }
  return before
}
/** Mean difference of two such pictures, of 765. */
export const apart = (a: number[], b: number[]): number =>
  a.reduce((sum, x, i) => sum + Math.abs(x - b[i]!), 0) / a.length
