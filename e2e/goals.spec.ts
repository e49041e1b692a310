import { expect, test, type Page } from '@playwright/test'
import { ballObj, file, goTo, type Inside, newShot, openCopy, type } from './help.ts'

/** The measures of the first goal at a frame, as soon as it is computed. */
async function goalAt(page: Page, frame: number) {
  const at = () =>
    page.evaluate(
      (f) => (globalThis as unknown as Inside).tangle.engine.measuresAt(f)?.populations[0]?.goals[0] ?? null,
      frame,
    )
  await expect.poll(at, { timeout: 120_000 }).not.toBeNull()
  return (await at())!
}

test('two meshes that are dropped become one another by the interface alone', async ({ page }) => {
  await newShot(page)
  await page
    .getByTestId('mesh-file')
    .setInputFiles([file('near.obj', ballObj(0.5)), file('far.obj', ballObj(0.25))])
  await expect(page.getByRole('button', { name: 'far', exact: true })).toBeVisible()
  await type(page, 'Position x', '2')

  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  // two meshes: they are born on the first, so that they can go to the other
  await goTo(page, 'Motion')
  await page.getByRole('button', { name: 'Goals · 0' }).click()
  await page.getByRole('button', { name: '+ Goal' }).click()
  await page.getByRole('option', { name: /^\W*On a surface/ }).click()
  await page.getByRole('button', { name: 'Show where they go' }).click()
  // some are born by frame 21; pairings compare by the way that they make: the nearest places are the least far
  await page.keyboard.press('Shift+ArrowRight')
  await page.keyboard.press('Shift+ArrowRight')
  const way = async (pairing: string): Promise<number> => {
    await page.getByRole('combobox', { name: 'Pairing' }).click()
    await page.getByRole('option', { name: pairing }).click()
    const text = page.getByTestId('mean-way')
    let before = ''
    // until it stands still: the preview computes anew
    await expect
      .poll(
        async () => {
          const now = (await text.count()) > 0 ? await text.innerText() : ''
          const still = now !== '' && now === before
          before = now
          return still
        },
        { intervals: [1500], timeout: 150_000 },
      )
      .toBe(true)
    return parseFloat(before)
  }
  const [random, least, nearest] = [
    await way('at random'),
    await way('least total travel'),
    await way('nearest'),
  ]
  expect(least).toBeLessThan(random)
  expect(nearest).toBeLessThan(least)
  await page.getByRole('combobox', { name: 'Pairing' }).click()
  await page.getByRole('option', { name: 'at random' }).click()
  await page.getByRole('button', { name: 'Morph into it' }).click()
  await expect(page.getByRole('group', { name: 'Cue line' })).toContainText('Going')

  const last = await page.evaluate(
    () =>
      (globalThis as unknown as { tangle: { engine: { frames: { last: number } } } }).tangle.engine.frames
        .last,
  )
  const end = await goalAt(page, last)
  expect(end.paired).toBeGreaterThan(1000)
  expect(end.arrived).toBe(end.paired)
  // they stand on the ball that was dropped second and moved to x = 2
  const off = await page.evaluate((frame) => {
    const { engine } = (globalThis as unknown as Inside).tangle
    engine.seek(frame)
    const { positions, count } = engine.populations()[0]!
    let worst = 0
    for (let i = 0; i < count; i++) {
      const [x, y, z] = positions.subarray(i * 3, i * 3 + 3) as unknown as [number, number, number]
      worst = Math.max(worst, Math.abs(Math.hypot(x - 2, y - 0.25, z) - 0.25))
    }
    return worst
  }, last)
  expect(off).toBeLessThan(0.02)
  await expect(page.getByTestId('readouts')).toContainText(/arrived/)

  // the charts tell when
  await page.keyboard.press('c')
  await page.getByRole('combobox', { name: 'Chart' }).click()
  for (const title of ['Speed (m/s)', 'Distance to far', 'Overlaps'])
    await expect(page.getByRole('option', { name: title })).toBeVisible()
  await page.getByRole('option', { name: 'Arrived at far' }).click()
  await expect(page.locator('.apexcharts-series').first()).toBeVisible()
})

test('points from a CSV as a place of birth; a check about a goal is mended by one click', async ({
  page,
}) => {
  await openCopy(page, 'Moths at the lantern', 'Meshes')
  await page.getByTestId('mesh-file').setInputFiles(file('bad.csv', 'x,y,z\n0,0,0\n0,zero,0\n'))
  await expect(
    page.getByText('bad.csv — line 3: a point needs three numbers, but this has "0,zero,0"'),
  ).toBeVisible()
  await page.getByTestId('mesh-file').setInputFiles(file('marks.csv', 'x,y,z\n0,1,0\n0,1.5,0\n1,1,0\n'))
  await expect(page.getByTestId('mesh-facts')).toContainText('Points3')

  await goTo(page, 'Motion')
  await page.getByRole('button', { name: 'Goals · 2' }).click()
  await page.getByRole('combobox', { name: 'Pairing' }).click()
  await page.getByRole('option', { name: 'by the same UV' }).click()
  await expect(page.getByText('No UV to pair Moths by')).toBeVisible()
  await page.getByRole('button', { name: 'Pair by least travel' }).click()
  await expect(page.getByText('No UV to pair Moths by')).toHaveCount(0)
  await expect(page.getByRole('combobox', { name: 'Pairing' })).toHaveText('least total travel')
})
