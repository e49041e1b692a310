import { expect, test, type Page } from '@playwright/test'
import { ballObj, choose, downloaded, goTo, type Inside, newShot, type } from './help.ts'

/** Particles of both populations at a frame, once it is computed; of the second, metres from each to the next by the same parent. */
const wakeAt = (page: Page, frame: number) =>
  page.evaluate((at) => {
    const { engine } = (globalThis as unknown as Inside).tangle
    if ((engine.computedTo() ?? -1) < at) return null
    engine.seek(at)
    const [parents, wake] = engine.populations() as unknown as {
      count: number
      positions: Float32Array
      parents?: { ids: Uint32Array }
    }[]
    if (!parents || !wake?.parents) return null
    const last = new Map<number, number>()
    const gaps: number[] = []
    wake.parents.ids.forEach((parent, i) => {
      const before = last.get(parent)
      if (before !== undefined)
        gaps.push(
          Math.hypot(...[0, 1, 2].map((k) => wake.positions[i * 3 + k]! - wake.positions[before * 3 + k]!)),
        )
      last.set(parent, i)
    })
    return { parents: parents.count, wake: wake.count, least: Math.min(...gaps), most: Math.max(...gaps) }
  }, frame)

test('wakes by the interface: shots from a dropped mesh leave discs one each half metre, which glow and are joined by threads', async ({
  page,
}) => {
  page.setDefaultTimeout(15_000)
  await newShot(page)
  const ball = { name: 'muzzle.obj', mimeType: 'text/plain', buffer: Buffer.from(ballObj(0.1)) }
  await page.getByTestId('mesh-file').setInputFiles([ball])
  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  await page.getByRole('button', { name: 'burst', exact: true }).click()
  await type(page, 'Count', '40')
  await type(page, 'Speed', '6')
  await page.getByRole('button', { name: '+ Offspring' }).click()
  await expect(page.getByText('As Dust go: play to see them')).toBeVisible()
  await type(page, 'One each', '0.5')
  await choose(page, 'Turned', 'as they set out')
  // 6 m/s for a second is twelve each
  await expect
    .poll(async () => (await wakeAt(page, 25))?.wake ?? 0, { timeout: 60_000 })
    .toBeGreaterThan(40 * 11)
  const found = (await wakeAt(page, 25))!
  expect(found.parents).toBe(40)
  expect(Math.abs(found.wake - 40 * 12)).toBeLessThanOrEqual(40)
  expect(found.least).toBeGreaterThan(0.499)
  expect(found.most).toBeLessThan(0.501)

  await goTo(page, 'Look')
  await choose(page, 'Draw as', 'discs')
  await page.getByRole('button', { name: 'gives light' }).click()
  await page.getByRole('button', { name: 'lines', exact: true }).click()
  await expect(page.getByRole('textbox', { name: 'Brightness', exact: true })).toHaveValue('2')
  await type(page, 'Reach', '5')
  await type(page, 'Seen for', '6')
  // something shines on the stage
  const brightest = () =>
    page.evaluate(async () => {
      const blob = await (globalThis as unknown as Inside).tangle.engine.picture()
      const image = await createImageBitmap(blob!)
      const canvas = new OffscreenCanvas(image.width, image.height)
      const context = canvas.getContext('2d')!
      context.drawImage(image, 0, 0)
      return context
        .getImageData(0, 0, image.width, image.height)
        .data.reduce((most, x, k) => (k % 4 === 0 ? Math.max(most, x) : most), 0)
    })
  await expect.poll(brightest, { timeout: 30_000 }).toBeGreaterThan(220)

  // at an event instead, and back again
  await goTo(page, 'Births')
  await choose(page, 'Each bears', 'at an event')
  await choose(page, 'When', 'it is born')
  await expect.poll(async () => (await wakeAt(page, 10))?.wake ?? 0, { timeout: 60_000 }).toBe(400)
  for (let n = 0; n < 2; n++) await page.getByRole('button', { name: 'Undo' }).click()
  await expect.poll(async () => (await wakeAt(page, 10))?.wake ?? 0, { timeout: 60_000 }).not.toBe(400)

  await page.getByRole('button', { name: /frame range and rate$/ }).click()
  await type(page, 'Last frame', '8')
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Make a take' }).first().click()
  await expect(page.getByTestId('take-status')).toHaveText('done', { timeout: 150_000 })
  const text = await downloaded(page, 'USD (text)')
  for (const word of ['int[] primvars:parent', 'def BasisCurves "wake_of_dust_threads"'])
    expect(text).toContain(word)
})
