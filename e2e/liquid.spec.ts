import { expect, test, type Page } from '@playwright/test'
import { add, ballObj, choose, file, goTo, type Inside, newShot, type } from './help.ts'

/** How many there are at a frame, how far the farthest is from the middle of the vessel, their mean height, and how dense they are. */
const at = (page: Page, frame: number) =>
  page.evaluate((frame) => {
    const { engine } = (globalThis as unknown as Inside).tangle
    const [water] = engine.populationsAt(frame) ?? []
    if (!water) return null
    let [far, height] = [0, 0]
    for (let k = 0; k < water.positions.length; k += 3) {
      const [x, y, z] = [0, 1, 2].map((axis) => water.positions[k + axis]!) as [number, number, number]
      far = Math.max(far, Math.hypot(x, y - 0.6, z))
      height += y / water.ids.length
    }
    return {
      count: water.ids.length,
      far,
      height,
      high: engine.measuresAt(frame)?.populations[0]?.liquid?.high,
      temperature: engine.measuresAt(frame)?.populations[0]?.temperature,
    }
  }, frame)

test('fill and settle by the interface: a dropped vessel is filled with water, the forgotten collider is told and mended by a click, it lies, has a skin, and is warmed', async ({
  page,
}) => {
  page.setDefaultTimeout(20_000)
  await newShot(page)
  await page.getByTestId('mesh-file').setInputFiles([file('vessel.obj', ballObj(0.6, 24))])
  await expect(page.getByRole('button', { name: 'vessel', exact: true })).toBeVisible()

  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  await type(page, 'Radius', '0.045')
  await page.getByRole('button', { name: 'Material' }).click()
  await page.getByRole('option', { name: /^\W*Water/ }).click()
  await page.getByRole('button', { name: '+ Birth' }).click()
  await page.getByRole('option', { name: /^\W*Fill/ }).click()
  await page.getByRole('button', { name: 'Remove birth 1' }).click()
  await goTo(page, 'Motion')
  await add(page, 'Gravity')

  // nothing holds it: it falls through, and that is said
  await expect(page.getByText('Nothing holds', { exact: false })).toBeVisible()
  await page.getByRole('button', { name: 'Collide with vessel' }).click()
  await expect(page.getByText('Nothing holds', { exact: false })).toBeHidden()

  await expect.poll(async () => (await at(page, 30))?.count ?? 0, { timeout: 120_000 }).toBeGreaterThan(400)
  const [first, later] = [(await at(page, 1))!, (await at(page, 30))!]
  expect(later.count).toBe(first.count)
  expect(later.far).toBeLessThan(0.6)
  expect(Math.abs(later.height - first.height)).toBeLessThan(0.03)
  expect(later.high!).toBeLessThan(0.03)

  // a skin by one click: a mesh in its frames, in place of the particles
  await goTo(page, 'Look')
  await page.getByLabel('Skin', { exact: true }).getByRole('button', { name: 'a surface' }).click()
  const skin = () =>
    page.evaluate(() => {
      const { engine } = (globalThis as unknown as Inside).tangle
      return engine.liveMeshes().find(({ id }) => id.endsWith('.skin'))?.triangles.length ?? 0
    })
  await expect.poll(skin, { timeout: 60_000 }).toBeGreaterThan(1000)
  const fine = await skin()
  await type(page, 'Cells', '1')
  await expect.poll(async () => (await skin()) < fine && (await skin()) > 0, { timeout: 60_000 }).toBe(true)

  // warmed from below: it takes on a temperature, by which it is coloured
  await goTo(page, 'Motion')
  await add(page, 'Heat')
  await page.getByLabel('From', { exact: true }).getByRole('button', { name: 'a point' }).click()
  await type(page, 'Reach', '0.5')
  await add(page, 'Warmth')
  await goTo(page, 'Look')
  await choose(page, 'Colour by', 'temperature')
  await page.getByLabel('Coloured', { exact: true }).getByRole('button', { name: 'as its particles' }).click()
  const warmth = async () => {
    const { coldest = 0, warmest = 0 } = (await at(page, 12))?.temperature ?? {}
    return coldest < 21 && warmest > 40
  }
  await expect.poll(warmth, { timeout: 120_000 }).toBe(true)
  const carries = () =>
    page.evaluate(() => {
      const { engine } = (globalThis as unknown as Inside).tangle
      engine.seek(12)
      const skin = engine.liveMeshes().find(({ id }) => id.endsWith('.skin'))
      return Math.max(...(skin?.columns?.temperature ?? [0]))
    })
  await expect.poll(carries, { timeout: 60_000 }).toBeGreaterThan(21)

  // honey in its place: density, viscosity and surface tension as of a handbook
  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Material' }).click()
  await page.getByRole('option', { name: /^\W*Honey/ }).click()
  await expect(page.getByText(/density, viscosity and surface tension as of honey/)).toBeVisible()
})
