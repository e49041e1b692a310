import { expect, test } from '@playwright/test'
import { choose, drop, firstCount, goTo, newShot, openCopy, type Inside } from './help.ts'

/** One tetrahedron as binary STL. */
function tetrahedronStl(): Buffer {
  const corners = [
    [0, 0, 0],
    [1, 0, 0],
    [0, 1, 0],
    [0, 0, 1],
  ]
  const faces = [
    [0, 2, 1],
    [0, 1, 3],
    [1, 2, 3],
    [0, 3, 2],
  ]
  const out = Buffer.alloc(84 + 50 * faces.length)
  out.writeUInt32LE(faces.length, 80)
  faces.forEach((face, t) =>
    face.forEach((c, k) =>
      corners[c]!.forEach((x, axis) => out.writeFloatLE(x, 84 + 50 * t + 12 + k * 12 + axis * 4)),
    ),
  )
  return out
}

test('a mesh dropped on the stage is placed by its handles and by numbers, and undone', async ({ page }) => {
  await newShot(page)
  await drop(page, 'piece.stl', tetrahedronStl())
  await expect(page.getByTestId('mesh-facts')).toContainText('1 × 1 × 1 m')
  await expect(page.getByTestId('mesh-facts')).toContainText('none: closed')
  await drop(page, 'piece.stl', tetrahedronStl().subarray(0, 150))
  await expect(page.getByText(/piece\.stl — byte 80: says 4 triangles/)).toBeVisible()

  // take the handle of the height: straight above the origin, as the camera sees it
  await page.keyboard.press('Control+k')
  await page.getByRole('combobox', { name: 'Find' }).fill('from the front')
  await page.keyboard.press('Enter')
  await page.waitForTimeout(800)
  const at = await page.evaluate(() => {
    const { world } = (globalThis as unknown as Inside).tangle.stage
    const box = document.querySelector('canvas')!.getBoundingClientRect()
    const seen = world.camera.position.clone().set(0, 0, 0).project(world.camera)
    return { x: box.x + ((seen.x + 1) / 2) * box.width, y: box.y + ((1 - seen.y) / 2) * box.height }
  })
  await page.mouse.move(at.x, at.y - 55)
  await page.waitForTimeout(200)
  await page.mouse.down()
  await page.mouse.move(at.x, at.y - 95, { steps: 5 })
  await page.mouse.up()
  const height = page.getByRole('textbox', { name: 'Position y' })
  await expect(height).not.toHaveValue('0')
  await expect(page.getByRole('textbox', { name: 'Position x' })).toHaveValue('0')
  await page.keyboard.press('Control+z')
  await expect(height).toHaveValue('0')
  await height.fill('150 cm')
  await height.press('Enter')
  await expect(height).toHaveValue('1.5')
  await page.keyboard.press('Control+z')
  await height.fill('2 kg')
  await height.press('Enter')
  await expect(height).toHaveAttribute('aria-invalid', 'true')
  await height.press('Escape')
  await expect(height).toHaveValue('0')
})

test('a value is keyed under the pointer, changes over time, and acts', async ({ page }) => {
  await openCopy(page, 'Lantern sparks', 'Motion')
  await firstCount(page, 60)
  await page.getByRole('group', { name: 'Drag' }).getByRole('button', { name: 'Drag', exact: true }).click()
  const strength = page.getByRole('textbox', { name: 'Strength', exact: true })
  const engine = (frame: number) =>
    page.evaluate((at) => (globalThis as unknown as Inside).tangle.engine.seek(at), frame)
  await engine(10)
  await page.getByText('Strength', { exact: true }).hover()
  await page.keyboard.press('k')
  await expect(page.getByRole('button', { name: 'Remove key for Strength' })).toBeVisible()
  await engine(60)
  await strength.fill('0')
  await strength.press('Enter')
  await engine(35)
  await expect(strength).toHaveValue('0.8') // half of 1.6 by the smooth ease
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')
  await expect(strength).toHaveValue('1.6')
})

test('the score: a weight is dragged, an influence soloed, removed and brought back', async ({ page }) => {
  await openCopy(page, 'Lantern sparks', 'Motion')
  const cell = page.getByRole('spinbutton', { name: 'Weight of Drag in Flying' })
  const box = (await cell.boundingBox())!
  await page.mouse.move(box.x + 30, box.y + 10)
  await page.mouse.down()
  await page.mouse.move(box.x - 20, box.y + 10, { steps: 4 })
  await page.mouse.up()
  await expect(cell).toHaveText('0.50')
  await page.keyboard.press('Control+z')
  await expect(cell).toHaveText('1.00')
  await page.getByRole('button', { name: 'Solo Gravity' }).click()
  await expect(page.getByRole('button', { name: 'Solo Gravity' })).toHaveAttribute('aria-pressed', 'true')
  await page.getByRole('button', { name: 'Solo Gravity' }).click()
  await page.getByRole('group', { name: 'Heat' }).hover()
  await page.getByRole('button', { name: 'Remove Heat' }).click()
  await expect(page.getByRole('group', { name: 'Heat' })).toHaveCount(0)
  await page.keyboard.press('Control+z')
  await expect(page.getByRole('group', { name: 'Heat' })).toBeVisible()
})

test('a mesh taken out takes its births along, and undo brings both back', async ({ page }) => {
  await openCopy(page, 'Lantern sparks', 'Meshes')
  await page.getByRole('button', { name: 'Remove Lantern' }).click()
  await expect(page.getByText('No mesh yet')).toBeVisible()
  await expect(page.getByText('Sparks is never born')).toBeVisible()
  await page.getByRole('button', { name: 'Undo' }).last().click()
  await goTo(page, 'Births')
  await expect(page.getByRole('button', { name: /On vertices/ })).toBeVisible()
})

test('a grid too fine to hold is told where it is seen, and the page lives on', async ({ page }) => {
  await openCopy(page, 'Lantern sparks', 'Births')
  await page.getByRole('button', { name: '+ Birth' }).click()
  await page.getByRole('option', { name: /^\W*In the volume/ }).click()
  await choose(page, 'Fill', 'on a grid')
  await page.getByRole('textbox', { name: 'Spacing' }).fill('0.0002')
  await page.getByRole('textbox', { name: 'Spacing' }).press('Enter')
  await expect(page.getByTestId('readouts').getByRole('alert')).toContainText('make the spacing larger')
  await page.keyboard.press('Control+z')
  await expect(page.getByTestId('readouts').getByRole('alert')).toHaveCount(0)
  for (let i = 0; i < 2; i++) await page.keyboard.press('Control+z')
  await firstCount(page, 20)
})
