import { expect, test } from '@playwright/test'
import {
  ballObj,
  choose,
  downloaded,
  file,
  firstCount,
  goTo,
  newShot,
  openCopy,
  particlesAt,
} from './help.ts'

test('from an empty shot and a mesh file to a take that a renderer reads', async ({ page }) => {
  await newShot(page)
  await expect(page.getByText('No mesh yet')).toBeVisible()

  // a broken file is refused with its line, and leaves nothing
  await page.getByTestId('mesh-file').setInputFiles(file('torn.obj', 'v 0 0 0\nv 1 0 0\nf 1 2 7\n'))
  await expect(
    page.getByText('torn.obj — line 3: the face names vertex 7, but there are 2 so far'),
  ).toBeVisible()
  await expect(page.getByText('No mesh yet')).toBeVisible()

  await page.getByTestId('mesh-file').setInputFiles(file('ball.obj', ballObj(0.5)))
  await expect(page.getByTestId('mesh-facts')).toContainText('1 × 1 × 1 m')
  await expect(page.getByTestId('mesh-facts')).toContainText('none: closed')
  await page.getByRole('textbox', { name: 'Scale x' }).fill('1+1')
  await page.getByRole('textbox', { name: 'Scale x' }).press('Enter')
  await expect(page.getByTestId('mesh-facts')).toContainText('2 × 1 × 1 m')

  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  await expect(page.getByTestId('per-frame')).toHaveText('208.3 a frame at 24 frames/s')
  await page.getByRole('textbox', { name: 'Rate', exact: true }).fill('24*50')
  await page.getByRole('textbox', { name: 'Rate', exact: true }).press('Enter')
  await expect(page.getByTestId('per-frame')).toHaveText('50 a frame at 24 frames/s')
  await expect(page.getByTestId('born-total')).toContainText(/5\s950 in the whole shot/)
  await particlesAt(page, 25, 1200)

  await goTo(page, 'Motion')
  const add = async (kind: string) => {
    await page.getByRole('button', { name: '+ Influence' }).click()
    await page
      .getByRole('option', { name: new RegExp(`^.*${kind}`) })
      .first()
      .click()
  }
  await add('Gravity')
  await add('Turbulence')
  await expect(page.getByRole('group', { name: 'Turbulence' })).toBeVisible()
  await page.getByRole('spinbutton', { name: 'Weight of Gravity in Loose' }).press('Enter')
  await page.getByRole('textbox', { name: 'Weight of Gravity in Loose' }).fill('0.25')
  await page.getByRole('textbox', { name: 'Weight of Gravity in Loose' }).press('Enter')
  await expect(page.getByRole('spinbutton', { name: 'Weight of Gravity in Loose' })).toHaveText('0.25')
  await page.getByRole('button', { name: 'Mute Turbulence' }).click()
  await particlesAt(page, 25, 1200)

  await goTo(page, 'Look')
  await page.getByRole('combobox', { name: 'Draw as' }).click()
  await page.getByRole('option', { name: 'spheres' }).click()
  await choose(page, 'Colour by', 'distance')
  await expect(page.getByTestId('save')).toHaveText(/saved \d\d/)

  await page.getByRole('button', { name: 'Make a take' }).first().click()
  await expect(page.getByTestId('take-status')).toHaveText('done', { timeout: 150_000 })
  await page.getByRole('button', { name: /^Play take/ }).click()
  await expect(page.getByText('take, from the server')).toBeVisible()
  // Space pauses, and does not press the button that was just clicked
  await page.keyboard.press('Space')
  await expect(page.getByRole('button', { name: 'Pause' })).toHaveCount(0)
  await expect(page.getByText('take, from the server')).toBeVisible()
  const text = await downloaded(page, 'USD (text)')
  expect(text).toContain('def Points "dust"')
  // 1200 are alive at frame 25: as many ids as in the preview
  const ids = /int64\[\] ids\.timeSamples = \{[\s\S]*?\n\s+25: \[([^\]]*)\]/.exec(text)![1]!
  expect(ids.split(',').length).toBe(1200)
})

test('play, step, undo, finder, theme and steps by the keyboard', async ({ page }) => {
  await openCopy(page, 'Lantern sparks', 'Motion')
  const before = await firstCount(page, 40)
  const frame = page.getByTestId('frame')
  await page.keyboard.press('Home')
  await expect(frame).toHaveText('0001')
  await page.keyboard.press('Shift+ArrowRight')
  await page.keyboard.press('ArrowRight')
  await expect(frame).toHaveText('0012')
  await page.keyboard.press('Space')
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible()
  await expect(frame).not.toHaveText('0012')
  await page.keyboard.press('Space')

  // mute the first influence by M, see that it is undone and redone
  await page
    .getByRole('group', { name: 'Gravity' })
    .getByRole('button', { name: 'Gravity', exact: true })
    .click()
  await page.keyboard.press('m')
  const mute = page.getByRole('button', { name: 'Mute Gravity' })
  await expect(mute).toHaveAttribute('aria-pressed', 'true')
  await page.keyboard.press('Control+z')
  await expect(mute).toHaveAttribute('aria-pressed', 'false')
  await particlesAt(page, 40, before)

  await page.keyboard.press('Control+k')
  await page.getByRole('combobox', { name: 'Find' }).fill('light')
  await page.keyboard.press('Enter')
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'light')
  await page.keyboard.press('5')
  await expect(page).toHaveURL(/look$/)
})

test('a check says what is wrong, and 100,000 particles are previewed', async ({ page }) => {
  await openCopy(page, 'Lantern sparks', 'Births')
  const count = page.getByRole('textbox', { name: 'Count', exact: true })
  await page.getByRole('button', { name: 'burst' }).click()
  await count.fill('100000')
  await count.press('Enter')
  // a burst on vertices can't be larger than their number
  await expect(page.getByText(/Only 637 of 100/)).toBeVisible()
  await page.getByRole('button', { name: '+ Birth' }).click()
  await page.getByRole('option', { name: /^\W*On the surface/ }).click()
  await page.getByRole('button', { name: 'burst' }).click()
  await count.fill('100000')
  await count.press('Enter')
  await particlesAt(page, 12, 100_637)
})
