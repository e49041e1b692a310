import { expect, test } from '@playwright/test'
import { add, choose, file, goTo, type Inside, newShot, type } from './help.ts'

/** A closed box as OBJ text. */
const boxObj = (x: number, y: number, z: number): string =>
  [
    ...[0, 1, 2, 3, 4, 5, 6, 7].map(
      (i) => `v ${((i & 1) - 0.5) * x} ${((i >> 1) & 1) * y} ${((i >> 2) - 0.5) * z}`,
    ),
    'f 1 3 4 2',
    'f 5 6 8 7',
    'f 1 2 6 5',
    'f 3 7 8 4',
    'f 1 5 7 3',
    'f 2 4 8 6',
  ].join('\n')

test('the cutting job by the interface: a soft block is linked, cut by a moving blade, and part is carried away', async ({
  page,
}) => {
  page.setDefaultTimeout(15_000)
  await newShot(page)
  await page
    .getByTestId('mesh-file')
    .setInputFiles([file('block.obj', boxObj(0.6, 0.3, 0.3)), file('blade.obj', boxObj(0.03, 1, 0.8))])
  await expect(page.getByRole('button', { name: 'blade', exact: true })).toBeVisible()
  // the blade comes down through the middle by frame 21, and then moves aside
  await type(page, 'Position y', '0.5')
  await page.getByRole('button', { name: 'Set key for Position y' }).click()
  for (let n = 0; n < 2; n++) await page.keyboard.press('Shift+ArrowRight')
  await type(page, 'Position y', '-0.02')
  await page.getByRole('button', { name: 'Set key for Position x' }).click()
  for (let n = 0; n < 2; n++) await page.keyboard.press('Shift+ArrowRight')
  await type(page, 'Position x', '0.5')

  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  await page.getByRole('button', { name: '+ Birth' }).click()
  await page.getByRole('option', { name: /^\W*In the volume/ }).click()
  await page.getByRole('button', { name: 'Remove birth 1' }).click()
  await choose(page, 'Mesh', 'block')
  await choose(page, 'Fill', 'on a grid')
  await type(page, 'Spacing', '0.06')
  await page.getByRole('button', { name: 'all points' }).click()
  await type(page, 'Radius', '0.028')
  await page.getByRole('button', { name: 'Material' }).click()
  await page.getByRole('option', { name: /^\W*Jelly/ }).click()
  await expect(page.getByText(/density and every contact as of jelly/)).toBeVisible()

  await goTo(page, 'Motion')
  await add(page, 'Gravity')
  await add(page, 'Floor')
  await add(page, 'Self-collision')
  // a mesh to hit is the last that was brought: the blade
  await add(page, 'Collide')
  await add(page, 'Link')
  await choose(page, 'To', 'grid: and across faces')
  await type(page, 'Stiffness', '0.9')
  await choose(page, 'Cut by', 'blade')
  await type(page, 'Breaks at', '0.6')
  await page.getByRole('button', { name: /frame range and rate$/ }).click()
  await type(page, 'Substeps', '8')
  // the first Escape may still belong to the field
  await expect(async () => {
    await page.keyboard.press('Escape')
    await expect(page.getByRole('textbox', { name: 'Substeps', exact: true })).toBeHidden({ timeout: 500 })
  }).toPass()

  const at = (frame: number) =>
    page.evaluate((f) => {
      const { engine } = (globalThis as unknown as Inside).tangle
      const found = engine.measuresAt(f)?.populations[0]
      engine.seek(f)
      const [shown] = engine.populations()
      if (!found?.links || !found.contact || !shown || found.links.made < 500) return null
      const x = Array.from({ length: shown.count }, (_, i) => shown.positions[i * 3]!)
      const { inside } = found.contact
      return { ...found.links, inside, left: Math.min(...x), right: Math.max(...x) }
    }, frame)
  // about a hundred links lie in the blade's way
  await expect.poll(async () => (await at(41))?.broken ?? 0, { timeout: 150_000 }).toBeGreaterThan(60)
  const whole = (await at(5))!
  const parted = (await at(41))!
  expect([whole.broken, whole.inside]).toEqual([0, 0])
  // a few are caught between the blade and the floor
  expect(parted.inside).toBeLessThan(12)
  expect(parted.alive).toBeGreaterThan(0.6 * parted.made)
  // one part is carried half a metre on, the other stays
  expect(parted.right).toBeGreaterThan(0.55)
  expect(parted.left).toBeLessThan(-0.2)
  await page.getByTestId('stage').click({ position: { x: 5, y: 200 } })
  await page.keyboard.press('c')
  await choose(page, 'Chart', 'Links')
  await expect(page.getByRole('combobox', { name: 'Chart', exact: true })).toHaveText('Links')
})

test('snow by the interface: a region over a slab, a cover that grows on it, and flakes drawn as meshes', async ({
  page,
}) => {
  page.setDefaultTimeout(15_000)
  await newShot(page)
  await page
    .getByTestId('mesh-file')
    .setInputFiles([file('crystal.obj', boxObj(0.2, 0.2, 0.02)), file('slab.obj', boxObj(2, 0.2, 2))])
  await expect(page.getByRole('button', { name: 'slab', exact: true })).toBeVisible()
  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  await page.getByRole('button', { name: '+ Birth' }).click()
  await page.getByRole('option', { name: /^\W*In a region/ }).click()
  await page.getByRole('button', { name: 'Remove birth 1' }).click()
  for (const axis of ['x', 'z']) await type(page, `Size ${axis}`, '1.6')
  await type(page, 'Middle y', '0.6')
  await type(page, 'Rate', '800')
  await type(page, 'Speed', '1')
  await page.getByRole('button', { name: 'few large' }).click()

  await goTo(page, 'Motion')
  await add(page, 'Gravity')
  await add(page, 'Collide')
  await type(page, 'Bounce', '0')
  await type(page, 'Friction at rest', '3')
  await add(page, 'Gather to a cover')
  await type(page, 'Gathers', '20')
  const cover = (frame: number) =>
    page.evaluate((f) => {
      const { engine } = (globalThis as unknown as Inside).tangle
      if ((engine.computedTo() ?? -1) < f) return null
      engine.seek(f)
      const [shown] = engine.liveMeshes()
      const [measured] = engine.measures()?.covers ?? []
      return { triangles: shown?.triangles.length ?? 0, volume: measured?.volume ?? 0 }
    }, frame)
  await expect.poll(async () => (await cover(30))?.triangles ?? 0, { timeout: 150_000 }).toBeGreaterThan(300)
  const early = (await cover(30))!.volume
  await expect
    .poll(async () => (await cover(60))?.volume ?? 0, { timeout: 150_000 })
    .toBeGreaterThan(1.8 * early)

  await goTo(page, 'Look')
  const stage = page.getByTestId('stage')
  const before = await stage.screenshot()
  await choose(page, 'Draw as', 'instances')
  await choose(page, 'Instance 1', 'crystal')
  await page.getByRole('button', { name: 'Add a mesh' }).click()
  await type(page, 'Weight of instance 2', '0')
  await type(page, 'Size', '3')
  await expect.poll(async () => before.equals(await stage.screenshot())).toBe(false)
  // a mesh that is taken away is taken out of the set, too
  await goTo(page, 'Meshes')
  await page.getByRole('button', { name: 'crystal', exact: true }).click()
  await page.getByRole('button', { name: 'Remove crystal' }).click()
  await goTo(page, 'Look')
  await expect(page.getByRole('combobox', { name: 'Instance 2', exact: true })).toHaveCount(0)
  await expect(page.getByRole('combobox', { name: 'Instance 1', exact: true })).toHaveText('slab')
})
