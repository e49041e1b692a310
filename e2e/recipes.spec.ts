import { expect, test, type Page } from '@playwright/test'
import { ballObj, file, type Inside } from './help.ts'

/** How many of each population there are at a frame, once it is computed. */
const countsAt = (page: Page, frame: number) =>
  page.evaluate((frame) => {
    const { engine } = (globalThis as unknown as Inside).tangle
    if ((engine.computedTo() ?? 0) < frame) return null
    return engine.measuresAt(frame)?.populations.map(({ alive, phases }) => ({ alive, phases })) ?? null
  }, frame)

/** From the shots' page to a recipe for a dropped mesh, 24 cm wide. */
async function start(page: Page, recipe: RegExp, meshes: [slot: string, file: string][]): Promise<void> {
  await page.goto('/')
  await page.getByRole('button', { name: 'Start from a recipe…' }).click()
  await page.getByRole('button', { name: recipe }).click()
  for (const [slot, name] of meshes) {
    await page.getByTestId(`recipe-file-${slot}`).setInputFiles([file(`${name}.obj`, ballObj(0.12, 16))])
    await expect(page.getByRole('dialog').getByText(name, { exact: true })).toBeVisible()
  }
  await page.getByRole('button', { name: 'Make it' }).click()
  await expect(page).toHaveURL(/motion$/)
}

const noChecks = (page: Page) => expect(page.getByRole('button', { name: 'Leave it' })).toHaveCount(0)

test('dust, morph, snow and break of a dropped mesh, each within a minute from the shots’ page', async ({
  page,
}) => {
  page.setDefaultTimeout(30_000)
  await start(page, /^Turn to dust/, [['body', 'urn']])
  await expect
    .poll(async () => (await countsAt(page, 60))?.[0]?.alive ?? 0, { timeout: 60_000 })
    .toBeGreaterThan(3000)
  await noChecks(page)
  // values to try first are ordinary ones: twice the grains are twice as many
  await page.getByRole('textbox', { name: 'Grains in all' }).fill('400000')
  await page.keyboard.press('Enter')
  await expect
    .poll(async () => (await countsAt(page, 60))?.[0]?.alive ?? 0, { timeout: 60_000 })
    .toBeGreaterThan(9000)
  // and the whole recipe is one step of undo
  await page.keyboard.press('Control+z')
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(page.getByRole('region', { name: 'Try first' })).toHaveCount(0)

  await start(page, /^Morph into/, [['body', 'urn'], ['target', 'pot']]) // prettier-ignore
  await expect
    .poll(async () => (await countsAt(page, 150))?.[0]?.phases.Going ?? 0, { timeout: 60_000 })
    .toBeGreaterThan(10_000)
  await noChecks(page)

  await start(page, /^Snow over/, [['body', 'urn']])
  await expect
    .poll(async () => (await countsAt(page, 110))?.[0]?.phases['On the ground'] ?? 0, { timeout: 60_000 })
    .toBeGreaterThan(5)
  await noChecks(page)

  await start(page, /^Break and mend/, [['body', 'urn']])
  await expect
    .poll(async () => (await countsAt(page, 60))?.[0]?.phases.Loose ?? 0, { timeout: 60_000 })
    .toBeGreaterThan(60)
  await noChecks(page)
})

test('a file that is no mesh is refused in the recipe', async ({ page }) => {
  await page.goto('/')
  await page.getByRole('button', { name: 'Start from a recipe…' }).click()
  await page.getByRole('button', { name: /^Morph into/ }).click()
  await page.getByTestId('recipe-file-body').setInputFiles([file('picture.png', 'no mesh')])
  await expect(page.getByRole('alert').getByText(/picture\.png/)).toBeVisible()
  await page.getByRole('button', { name: 'Other recipes' }).click()
  await expect(page.getByRole('heading', { name: 'Start from a recipe' })).toBeVisible()
})
