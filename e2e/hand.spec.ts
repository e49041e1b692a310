/** The hand: what must not be in the way of who works all day. */
import AxeBuilder from '@axe-core/playwright'
import { expect, test } from '@playwright/test'
import { add, ballObj, file, goTo, type Inside, newShot, openCopy, type } from './help.ts'

test('twelve phases leave the timeline its width at every width of the page, and nothing is cut off', async ({
  page,
}) => {
  await openCopy(page, 'Lantern sparks', 'Motion')
  for (let n = 0; n < 11; n++) await page.getByRole('button', { name: '+ Phase' }).click()
  for (const [width, height] of [
    [1024, 768],
    [1280, 800],
    [1920, 1080],
    [853, 533],
  ] as const) {
    await page.setViewportSize({ width, height })
    const box = async (name: string) => (await page.getByRole('button', { name, exact: true }).boundingBox())!
    const curve = (await page
      .getByRole('application', { name: 'Strength of Gravity over frames' })
      .boundingBox())!
    expect(curve.width).toBeGreaterThan(300)
    for (const name of ['Make a take', '+ Phase', '+ Influence']) {
      const { x, width: wide, height: high } = await box(name)
      expect(x + wide).toBeLessThanOrEqual(width)
      // on one line
      expect(high).toBeLessThan(36)
    }
    // the stage is more than its notes
    const stage = (await page.getByTestId('stage').boundingBox())!
    const note = (await page.getByRole('status').last().boundingBox())!
    expect(note.width * note.height).toBeLessThan(0.5 * stage.width * stage.height)
  }
  // the last one is reached by the keyboard, and its name comes into sight with it
  const last = page.getByRole('spinbutton', { name: 'Weight of Gravity in Loose 11' })
  await last.focus()
  const name = page.locator('[data-phase-names]').getByRole('button', { name: 'Loose 11', exact: true })
  await expect(name).toBeInViewport()
  await expect
    .poll(async () => Math.abs((await name.boundingBox())!.x - (await last.boundingBox())!.x))
    .toBeLessThan(12)
})

test('of several files each is answered: meshes come in, what is none is refused in words, and so is a folder', async ({
  page,
}) => {
  await newShot(page)
  await page
    .getByTestId('mesh-file')
    .setInputFiles([
      file('ball.obj', ballObj(0.5)),
      { name: 'photo.png', mimeType: 'image/png', buffer: Buffer.from([137, 80, 78, 71, 13, 10, 26, 10]) },
      file('stone.obj', ballObj(0.2)),
      file('torn.obj', 'v 0 0 zero\nf 1 2 3'),
    ])
  for (const name of ['ball', 'stone'])
    await expect(page.getByRole('button', { name, exact: true })).toBeVisible()
  const alert = page.getByRole('alert')
  await expect(alert).toContainText(/photo\.png.*is not one of OBJ/)
  await expect(alert).toContainText('torn.obj')
  await alert.getByRole('button', { name: 'Close' }).click()
  // a folder, as a file manager drops it
  await page.evaluate(() => {
    const transfer = new DataTransfer()
    transfer.items.add(new File([], 'renders'))
    const drop = new DragEvent('drop', { bubbles: true, dataTransfer: transfer })
    DataTransferItem.prototype.webkitGetAsEntry = () =>
      ({ isDirectory: true, name: 'renders' }) as FileSystemEntry
    document.querySelector('[data-testid=stage]')!.dispatchEvent(drop)
  })
  await expect(page.getByRole('alert')).toContainText('renders is a folder: drop the files that are in it')
})

test('what is half typed when the page is reloaded is there, and undo takes it back', async ({ page }) => {
  await newShot(page)
  await page.getByTestId('mesh-file').setInputFiles([file('ball.obj', ballObj(0.5))])
  await expect(page.getByRole('button', { name: 'ball', exact: true })).toBeVisible()
  const y = page.getByRole('textbox', { name: 'Position y', exact: true })
  // where a save is still under way the browser asks before it leaves: not here
  await expect(page.getByTestId('save')).toHaveText(/saved \d/)
  // as typed by who writes a comma for the point
  await y.fill('1,25')
  await page.reload()
  await page.getByRole('button', { name: 'ball', exact: true }).click()
  await expect(y).toHaveValue('1.25')
  await page.keyboard.press('Control+z')
  await expect(y).toHaveValue('0')
})

test('meshes are seen through by a key, floors are seen, rings say what they are and go', async ({
  page,
}) => {
  await newShot(page)
  await page.getByTestId('mesh-file').setInputFiles([file('ball.obj', ballObj(0.5))])
  await expect(page.getByRole('button', { name: 'ball', exact: true })).toBeVisible()
  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  await goTo(page, 'Motion')
  /** How much of the middle of the stage is as bright as wood. */
  const wood = () =>
    page.evaluate(async () => {
      const picture = await (globalThis as unknown as Inside).tangle.engine.picture()
      const bitmap = await createImageBitmap(picture!)
      const context = new OffscreenCanvas(bitmap.width, bitmap.height).getContext('2d')!
      context.drawImage(bitmap, 0, 0)
      const { data } = context.getImageData(
        bitmap.width * 0.4,
        bitmap.height * 0.4,
        bitmap.width * 0.2,
        bitmap.height * 0.3,
      )
      let found = 0
      for (let i = 0; i < data.length; i += 4) if (data[i]! > 70 && data[i]! > data[i + 2]!) found++
      return found / (data.length / 4)
    })
  await expect.poll(wood).toBeGreaterThan(0.4)
  await page.keyboard.press('g')
  await expect.poll(wood).toBeLessThan(0.2)
  await page.keyboard.press('g')
  await expect.poll(wood).toBeGreaterThan(0.4)
  await add(page, 'Attract')
  const rings = page.getByText(/^Rings of Attract: .*Reach 3 m around its point/)
  await expect(rings).toBeVisible()
  await page.getByRole('button', { name: 'Hide them' }).click()
  await expect(rings).toBeHidden()
  await page.getByRole('button', { name: 'Show its rings' }).click()
  await expect(rings).toBeVisible()
})

test('menus, the list of what happened and the finder can be used by who hears them, in both themes', async ({
  page,
}) => {
  await openCopy(page, 'Lantern sparks', 'Motion')
  await add(page, 'Attract')
  const serious = async (): Promise<string[]> => {
    const { violations } = await new AxeBuilder({ page })
      .withTags(['wcag2a', 'wcag2aa', 'best-practice'])
      .analyze()
    return violations.filter(({ impact }) => impact === 'serious' || impact === 'critical').map(({ id, nodes }) => `${id}: ${nodes[0]!.html.slice(0, 120)}`) // prettier-ignore
  }
  for (const theme of ['Light theme', 'Dark theme']) {
    await page.getByRole('button', { name: theme }).click()
    await page.mouse.move(5, 5)
    expect(await serious()).toEqual([])
    await page.getByRole('button', { name: '+ Influence' }).click()
    expect(await serious()).toEqual([])
    await page.keyboard.press('Escape')
    await expect(page.locator('.MuiPopover-root')).toHaveCount(0)
  }
  for (const name of ['What happened', 'Help on Attract', /frame range and rate$/]) {
    await page.getByRole('button', { name }).click()
    expect(await serious()).toEqual([])
    await page.keyboard.press('Escape')
    await expect(page.locator('.MuiPopover-root, .MuiMenu-root')).toHaveCount(0)
  }
  await type(page, 'Reach', '2')
  await page.keyboard.press('Control+k')
  expect(await serious()).toEqual([])
})
