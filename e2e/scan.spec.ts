import { expect, test, type Page } from '@playwright/test'
import { add, ballObj, choose, file, goTo, type Inside, newShot, type } from './help.ts'

/** Marks at a frame, once it is computed: how many, how far from the middle of the target, and how low the lowest lies above it. */
const marksAt = (page: Page, frame: number, middle: number) =>
  page.evaluate(
    ([frame, middle]) => {
      const { engine } = (globalThis as unknown as Inside).tangle
      if ((engine.computedTo() ?? -1) < frame!) return null
      engine.seek(frame!)
      const marks = engine.populations()[1]
      if (!marks || marks.count === 0) return null
      const rows = Array.from({ length: marks.count }, (_, i) =>
        [0, 1, 2].map((k) => marks.positions[i * 3 + k]! - [middle!, 1, 0][k]!),
      )
      const far = rows.map((row) => Math.hypot(...row))
      return {
        count: rows.length,
        least: Math.min(...far),
        most: Math.max(...far),
        lowest: Math.min(...rows.map(([, y]) => y!)),
      }
    },
    [frame, middle],
  )

test('a scan by the interface: a device sweeps over a target, its rays light points up on what they see, which ride on it and are joined by threads; what has been seen is a mask, and each hit an event', async ({
  page,
}) => {
  page.setDefaultTimeout(20_000)
  await newShot(page)
  await page
    .getByTestId('mesh-file')
    .setInputFiles([file('target.obj', ballObj(1, 48)), file('device.obj', ballObj(0.1))])
  await expect(page.getByRole('button', { name: 'device', exact: true })).toBeVisible()
  // the device passes over the target, which moves aside meanwhile
  await type(page, 'Position y', '4')
  await type(page, 'Position x', '-1')
  await page.getByRole('button', { name: 'Set key for Position x' }).click()
  await page.getByRole('button', { name: 'target', exact: true }).click()
  await page.getByRole('button', { name: 'Set key for Position x' }).click()
  for (let n = 0; n < 2; n++) await page.keyboard.press('Shift+ArrowRight')
  await type(page, 'Position x', '0.5')
  await page.getByRole('button', { name: 'device', exact: true }).click()
  await type(page, 'Position x', '1')

  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  await choose(page, 'Mesh', 'device')
  await page.getByRole('button', { name: 'burst', exact: true }).click()
  await type(page, 'Count', '20')
  await goTo(page, 'Motion')
  await add(page, 'Ride')

  await goTo(page, 'Births')
  await page.getByRole('button', { name: '+ Offspring' }).click()
  await choose(page, 'Each bears', 'by time')
  await type(page, 'Rate', '48')
  await choose(page, 'Laid onto', 'target')
  await page.getByRole('button', { name: 'by a ray', exact: true }).click()
  await choose(page, 'Set out', 'direction')
  await type(page, 'Direction y', '-1')
  await type(page, 'Spread', '35')
  await goTo(page, 'Motion')
  await add(page, 'Ride')

  // some 20 · 48 · 20/24 rays; those that miss the target bear nobody
  await expect
    .poll(async () => (await marksAt(page, 21, 0.5))?.count ?? 0, { timeout: 60_000 })
    .toBeGreaterThan(200)
  const marks = (await marksAt(page, 21, 0.5))!
  expect(marks.count).toBeLessThan(800)
  // they lie on the target where it is by now, wherever it was when they were lit
  expect(marks.least).toBeGreaterThan(0.99)
  expect(marks.most).toBeLessThan(1.001)
  // from 2 to 3 m above, nothing of the lower half is seen
  expect(marks.lowest).toBeGreaterThan(0)
  // keys are smooth: 3t² − 2t³ of the way
  const t = 9 / 20
  const before = (await marksAt(page, 10, 0.5 * t * t * (3 - 2 * t)))!
  expect(before.most).toBeLessThan(1.001)
  expect(before.least).toBeGreaterThan(0.99)

  // what has been seen: of a ball from 3 m off less than the upper third, and it shows on the stage
  await goTo(page, 'Masks')
  await page.getByRole('button', { name: '+ Mask' }).click()
  await page.getByRole('option', { name: /^\W*Seen/ }).click()
  await expect(page.getByRole('combobox', { name: 'Mesh', exact: true })).toContainText('target')
  await expect(page.getByTestId('seen-so-far')).toHaveText(/^[1-3]?\d\.\d % of the mesh seen so far$/, { timeout: 30_000 }) // prettier-ignore
  const heat = () =>
    page.evaluate(() => {
      const { engine } = (globalThis as unknown as Inside).tangle
      engine.seek(21)
      return Math.max(...engine.liveMeshes().flatMap(({ values }) => Array.from(values ?? [])))
    })
  await expect.poll(heat, { timeout: 30_000 }).toBeGreaterThan(0.6)
  const kinds = () =>
    page.evaluate(() => {
      const { engine } = (globalThis as unknown as Inside).tangle
      return engine.measuresAt(21)!.populations[0]!.events
    })
  expect((await kinds()).hit).toBeGreaterThan(5)

  await goTo(page, 'Look')
  await page.getByRole('button', { name: 'gives light' }).click()
  await page.getByRole('button', { name: 'lines', exact: true }).click()
  await type(page, 'Seen for', '3')
  await expect(page.getByRole('textbox', { name: 'Seen for', exact: true })).toHaveValue('3')
})
