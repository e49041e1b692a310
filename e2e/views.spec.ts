import { AxeBuilder } from '@axe-core/playwright'
import { expect, test, type Page } from '@playwright/test'
import { firstCount, goTo, openCopy, type Inside } from './help.ts'

/** What a reader of the screen could not use, or an eye not read. */
async function faults(page: Page, contrastAlone: boolean): Promise<string[]> {
  const axe = new AxeBuilder({ page })
  const asked = contrastAlone ? axe.withRules(['color-contrast']) : axe.withTags(['wcag2a', 'wcag2aa'])
  const { violations } = await asked.analyze()
  return violations.flatMap(({ id, nodes }) => nodes.map((node) => `${id}: ${node.target.join(' ')}`))
}

test('every view and dialog can be used without eyes or mouse, in both themes: axe finds nothing', async ({
  page,
}) => {
  const found: Record<string, string[]> = {}
  const look = async (view: string): Promise<void> => {
    // only colours are others in the second theme
    const now = await faults(page, view.endsWith('light'))
    if (now.length > 0) found[view] = now
  }
  const press = (name: string | RegExp) => page.getByRole('button', { name }).first().click()
  const dialog = async (name: string): Promise<void> => {
    await expect(page.getByRole('dialog')).toBeVisible()
    // until it has faded in
    await page.waitForTimeout(400)
    await look(name)
    await page.keyboard.press('Escape')
    await expect(page.getByRole('dialog')).toHaveCount(0)
  }
  for (const [theme, other] of [
    ['dark', 'Light theme'],
    ['light', 'Dark theme'],
  ] as const) {
    await page.goto('/')
    await expect(page.getByTestId('shot-card').first()).toBeVisible()
    await look(`shots, ${theme}`)
    await press(/^More for /)
    await look(`menu of a shot, ${theme}`)
    await page.keyboard.press('Escape')
    await press(/recipe/)
    await dialog(`recipes, ${theme}`)
    await openCopy(page, 'Lantern sparks', 'Motion')
    await firstCount(page, 3)
    for (const step of ['Meshes', 'Masks', 'Births', 'Motion', 'Look', 'Takes']) {
      await goTo(page, step)
      await page.waitForTimeout(400)
      await look(`${step}, ${theme}`)
    }
    await press('Sweep…')
    await dialog(`sweep, ${theme}`)
    await goTo(page, 'Masks')
    await press('+ Combing')
    await expect(page.getByRole('textbox', { name: 'Brush size' })).toBeVisible()
    await look(`combing, ${theme}`)
    await goTo(page, 'Births')
    await page.keyboard.press('p')
    await expect(page.getByRole('table', { name: 'Particles' })).toBeVisible()
    await look(`particles, ${theme}`)
    await press('Events')
    await page.waitForTimeout(600)
    await look(`events, ${theme}`)
    await press('Charts')
    await expect(page.getByRole('combobox', { name: 'Chart' })).toBeVisible()
    await look(`charts, ${theme}`)
    await page.keyboard.press('Control+k')
    await expect(page.getByRole('combobox', { name: 'Find' })).toBeVisible()
    await look(`finder, ${theme}`)
    await page.keyboard.press('Escape')
    await press(other)
  }
  expect(found).toEqual({})
})

test('an attribute of their own: born, set, coloured by, in the table; and what happened in the frame', async ({
  page,
}) => {
  page.setDefaultTimeout(20_000)
  await openCopy(page, 'Lantern sparks', 'Births')
  await firstCount(page, 12)
  await page.getByRole('button', { name: '+ Attribute' }).click()
  await page
    .getByRole('option', { name: /^\W*Number/ })
    .first()
    .click()
  await page.getByRole('textbox', { name: 'Value', exact: true }).fill('7')
  await page.getByRole('textbox', { name: 'Value', exact: true }).press('Enter')
  await expect
    .poll(
      () =>
        page.evaluate(() => {
          const { engine } = (globalThis as unknown as Inside).tangle
          if ((engine.computedTo() ?? -1) < 12) return null
          engine.seek(12)
          const [first] = engine.populations() as unknown as { own: Record<string, Float32Array> }[]
          return first?.own.number1?.[0] ?? null
        }),
      { timeout: 150_000 },
    )
    .toBe(7)
  await page.keyboard.press('p')
  await expect(page.getByRole('columnheader', { name: 'Number 1' })).toBeVisible()
  await page.getByRole('textbox', { name: 'Filter' }).fill('number1 = 7')
  await expect(page.getByTestId('table-count')).toContainText(/^\d+/)
  await page.getByRole('button', { name: 'Events', exact: true }).click()
  await expect(page.getByRole('table', { name: 'Events' })).toBeVisible()
  await page.getByRole('textbox', { name: 'Filter' }).fill('what = born')
  await page.getByRole('row').nth(1).click()
  await expect(page.getByRole('row', { selected: true })).toHaveCount(1)
  await goTo(page, 'Look')
  await page.getByRole('combobox', { name: 'Colour by' }).click()
  await page.getByRole('option', { name: 'attribute' }).click()
  await expect(page.getByRole('combobox', { name: 'Attribute', exact: true }).first()).toHaveText('Number 1')
})

test('edits are there after the page is left in the same moment', async ({ page }) => {
  await openCopy(page, 'Lantern sparks', 'Motion')
  const id = /shots\/([^/]+)/.exec(page.url())![1]!
  await page.getByLabel('Name of the shot').fill('Left at once')
  await page.getByLabel('Name of the shot').press('Enter')
  await page.goto('about:blank')
  await expect
    .poll(async () => ((await (await page.request.get(`/api/shots/${id}`)).json()) as { name: string }).name)
    .toBe('Left at once')
})

test('a shot is opened by its name as by its picture', async ({ page }) => {
  await page.goto('/')
  await page.getByTestId('shot-card').getByText('Lantern sparks', { exact: true }).first().click()
  await expect(page.getByTestId('stage')).toBeVisible()
})

test('the selection is framed as a whole, though a mask has eaten part of the mesh', async ({ page }) => {
  await openCopy(page, 'Beacon to dust', 'Meshes')
  await firstCount(page, 30)
  await page.evaluate(() => (globalThis as unknown as Inside).tangle.engine.seek(30))
  await page.keyboard.press('f')
  // from so far that both ends of the lighthouse, 10 m high, are in the picture
  const ends = () =>
    page.evaluate(() => {
      const { camera } = (globalThis as unknown as Inside).tangle.stage.world
      return [0.1, 9.8].map((height) => {
        const point = camera.position.clone()
        point.set(0, height, 0)
        return Math.abs(point.project(camera).y)
      })
    })
  await expect.poll(async () => Math.max(...(await ends()))).toBeLessThan(1)
  expect(Math.max(...(await ends()))).toBeGreaterThan(0.4)
})
