/** Light: what is seen of it in the picture. */
import { expect, test, type Page } from '@playwright/test'
import { apart, ballObj, drop, goTo, newShot, still, type } from './help.ts'

/** Mean brightness of the ground left and right of what stands in the middle. */
async function groundBeside(page: Page): Promise<[left: number, right: number]> {
  const picture = await still(page)
  const mean = (from: number, to: number): number => {
    const those = picture.filter((_, i) => i % 48 >= from && i % 48 < to && i >= 48 * 12 && i < 48 * 18)
    return those.reduce((sum, x) => sum + x, 0) / those.length
  }
  return [mean(8, 18), mean(30, 40)]
}

test('the sun throws a shadow on the ground, on the other side; plain pictures have none', async ({
  page,
}) => {
  page.setDefaultTimeout(20_000)
  await newShot(page)
  await drop(page, 'float.obj', Buffer.from(ballObj(0.5)))
  await expect(page.getByTestId('mesh-facts')).toContainText('1 × 1 × 1 m')
  // without the ball itself, its shadow alone is in the picture
  await page.getByRole('button', { name: 'its shadow', exact: true }).click()
  await page.keyboard.press('Control+k')
  await page.getByRole('combobox', { name: 'Find' }).fill('look from above')
  await page.keyboard.press('Enter')
  await goTo(page, 'Look')
  await page.getByRole('button', { name: 'Paper', exact: true }).click()
  await type(page, 'Height', '20')
  await type(page, 'Bearing', '-90')
  const [left, right] = await groundBeside(page)
  expect(left).toBeGreaterThan(right + 8)
  await type(page, 'Bearing', '90')
  const [lit, shaded] = (await groundBeside(page)).toReversed() as [number, number]
  expect(lit).toBeGreaterThan(shaded + 8)

  const shadows = await still(page)
  await page.getByRole('button', { name: 'plain', exact: true }).click()
  const plain = await still(page)
  expect(apart(plain, shadows)).toBeGreaterThan(2)
  const [one, other] = await groundBeside(page)
  expect(Math.abs(one - other)).toBeLessThan(4)
  // a stop more is brighter
  await type(page, 'Exposure', '-2')
  const dark = await still(page)
  const sum = (all: number[]): number => all.reduce((a, b) => a + b, 0)
  expect(sum(dark)).toBeLessThan(0.75 * sum(plain))
})
