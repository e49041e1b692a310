import { expect, test, type Page } from '@playwright/test'
import { add, ballObj, goTo, type Inside, newShot } from './help.ts'

/** Particles of the population at a frame, once it is computed: how far from the middle, and their mean velocity along the axes, m/s. */
const sparksAt = (page: Page, frame: number) =>
  page.evaluate((at) => {
    const { engine } = (globalThis as unknown as Inside).tangle
    if ((engine.computedTo() ?? -1) < at) return null
    engine.seek(at)
    const [after] = engine.populations()
    const before = engine.populationsAt(at - 1)?.[0]
    if (!after || !before || after.count === 0) return null
    const rows = new Map([...before.ids].map((id, i) => [id, i]))
    const far: number[] = []
    const way = [0, 0, 0]
    let moved = 0
    after.ids.forEach((id, i) => {
      const place = [0, 1, 2].map((k) => after.positions[i * 3 + k]!)
      // the middle of the ball is a metre up
      far.push(Math.hypot(place[0]!, place[1]! - 1, place[2]!))
      const row = rows.get(id)
      if (row === undefined) return
      moved++
      place.forEach((x, k) => (way[k] = way[k]! + (x - before.positions[row * 3 + k]!) * 24))
    })
    return {
      least: Math.min(...far),
      most: Math.max(...far),
      count: after.count,
      way: way.map((x) => x / moved),
    }
  }, frame)

test('combed flow by the interface: directions start down the slope, a brush combs them, sparks follow them off the surface and pulse', async ({
  page,
}) => {
  page.setDefaultTimeout(20_000)
  await newShot(page)
  const ball = { name: 'ball.obj', mimeType: 'text/plain', buffer: Buffer.from(ballObj(1)) }
  await page.getByTestId('mesh-file').setInputFiles([ball])
  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  await page.getByRole('button', { name: 'burst', exact: true }).click()
  const count = page.getByRole('textbox', { name: 'Count', exact: true }).first()
  await count.fill('400')
  await count.press('Enter')

  // Follow brings a combing along, whose directions lead down the slope, at a height that fits the mesh
  await goTo(page, 'Motion')
  await add(page, 'Follow')
  await expect(page.getByRole('combobox', { name: 'Combing' })).toHaveText('Combing of ball')
  await expect
    .poll(async () => (await sparksAt(page, 30))?.way[1] ?? 0, { timeout: 60_000 })
    .toBeLessThan(-0.2)
  const down = (await sparksAt(page, 30))!
  expect(down.least).toBeGreaterThan(0.97)
  expect(down.most).toBeLessThan(1.06)

  // a stroke across the front turns those there aside
  await goTo(page, 'Masks')
  await page.getByRole('button', { name: /^Combing of ball/ }).click()
  await expect
    .poll(() => page.evaluate(() => (globalThis as unknown as Inside).tangle.engine.arrows()?.length ?? 0))
    .toBeGreaterThan(1000)
  const size = page.getByRole('textbox', { name: 'Brush size' })
  await size.fill('1.5')
  await size.press('Enter')
  const strength = page.getByRole('textbox', { name: 'Brush strength' })
  await strength.fill('1')
  await strength.press('Enter')
  await page.keyboard.press('f')
  const box = (await page.getByTestId('stage').boundingBox())!
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2]
  await page.mouse.move(x - 60, y)
  await page.mouse.down()
  await page.mouse.move(x + 60, y, { steps: 8 })
  await page.mouse.up()
  await expect(page.getByTestId('strokes')).toContainText('1 stroke;')
  const across = (to: { way: number[] }) => Math.hypot(to.way[0]!, to.way[2]!)
  await expect
    .poll(
      async () => {
        const now = await sparksAt(page, 12)
        return now ? across(now) : 0
      },
      { timeout: 60_000 },
    )
    .toBeGreaterThan(0.06)
  // taken back, they run down again, all around
  await page.keyboard.press('Control+z')
  await expect(page.getByTestId('strokes')).toContainText('0 strokes')
  await expect
    .poll(
      async () => {
        const now = await sparksAt(page, 12)
        return now ? across(now) : 1
      },
      { timeout: 60_000 },
    )
    .toBeLessThan(0.02)
})
