/** Comparing the preview with a take: what is beyond the line is the take, at the same frame, and what differs is said. */
import { expect, test } from '@playwright/test'
import { apart, firstCount, goTo, openCopy, still, type Inside } from './help.ts'

test('a take is compared with the preview by a line; keys move it, and what differs is told', async ({
  page,
}) => {
  page.setDefaultTimeout(20_000)
  await openCopy(page, 'Lantern sparks', 'Takes')
  await page.getByRole('button', { name: 'Make a take' }).first().click()
  await expect(page.getByTestId('take-status')).toHaveText('done', { timeout: 120_000 })
  await goTo(page, 'Motion')
  await page.getByRole('button', { name: 'Mute Heat' }).click()
  await goTo(page, 'Takes')
  await firstCount(page, 100)
  await page.evaluate(() => (globalThis as unknown as Inside).tangle.engine.seek(60))
  const preview = await still(page)
  await page.getByRole('button', { name: 'Compare', exact: true }).click()
  await expect(page.getByRole('status').filter({ hasText: 'Heat' })).toContainText('muted or not')
  const line = page.getByRole('slider', { name: 'Line between them' })
  await line.focus()
  await page.keyboard.press('Home')
  await expect(line).toHaveAttribute('aria-valuenow', '0')
  const take = await still(page)
  expect(apart(take, preview)).toBeGreaterThan(0.5)
  await page.keyboard.press('End')
  expect(apart(await still(page), preview)).toBeLessThan(0.1)
  // half and half: the left of the one, the right of the other
  const { x, y, width, height } = (await page.getByTestId('stage').boundingBox())!
  const handle = (await line.boundingBox())!
  await page.mouse.move(handle.x + 3, y + height / 2)
  await page.mouse.down()
  await page.mouse.move(x + width / 2, y + height / 2, { steps: 4 })
  await page.mouse.up()
  const half = await still(page)
  const side = (all: number[], right: boolean): number[] =>
    all.filter((_, i) => (right ? i % 48 > 25 : i % 48 < 22))
  expect(apart(side(half, false), side(preview, false))).toBeLessThan(0.1)
  expect(apart(side(half, true), side(take, true))).toBeLessThan(0.1)
  // particles by how far they are from where they are in the other, and charts with the lines of both
  const apartButton = page.getByRole('button', { name: 'How far apart' })
  await apartButton.click()
  expect(apart(await still(page), half)).toBeGreaterThan(0.1)
  await expect(page.getByText(/^Half of them at most .* m apart, all at most .* m/)).toBeVisible()
  await apartButton.click()
  expect(apart(await still(page), half)).toBeLessThan(0.1)
  await page.keyboard.press('c')
  await expect(page.getByText('Flying, compared')).toBeVisible()
  await page.keyboard.press('c')
  // side by side either is whole
  await page.getByRole('button', { name: 'Side by side' }).click()
  await expect(line).toBeHidden()
  const both = await still(page)
  expect(apart(side(both, false), side(preview, false))).toBeGreaterThan(0.5)
  await page.getByRole('button', { name: 'Stop comparing' }).first().click()
  await expect(line).toBeHidden()
  expect(apart(await still(page), preview)).toBeLessThan(0.1)
  await page.getByRole('button', { name: 'Play take 1' }).click()
  await page.evaluate(() => (globalThis as unknown as Inside).tangle.engine.pause())
  await page.evaluate(() => (globalThis as unknown as Inside).tangle.engine.seek(60))
  expect(apart(await still(page), take)).toBeLessThan(0.1)
})
