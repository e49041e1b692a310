import { expect, test, type Page } from '@playwright/test'
import { add, ballObj, choose, downloaded, file, goTo, type Inside, newShot, type } from './help.ts'

/** How much of the mesh is left at a frame, and how far particles that were just born are from the middle of what cuts, in its radii. */
const at = (page: Page, frame: number, middle: number) =>
  page.evaluate(
    ([frame, middle]) => {
      const { engine } = (globalThis as unknown as Inside).tangle
      const cut = engine.measuresAt(frame!)?.cuts?.[0]
      if (!cut) return null
      engine.seek(frame!)
      const [dust] = engine.populations()
      if (!dust) return null
      const old = new Set(engine.populationsAt(frame! - 1)?.[0]?.ids)
      const far: number[] = []
      dust.ids.forEach((id, i) => {
        if (old.has(id)) return
        const [x, y, z] = [0, 1, 2].map((k) => dust.positions[i * 3 + k]!) as [number, number, number]
        far.push(Math.hypot(x - middle!, y - 0.6, z) / 0.6)
      })
      const triangles = engine.liveMeshes().reduce((sum, one) => sum + one.triangles.length, 0)
      return {
        part: cut.left / cut.volume,
        count: dust.count,
        least: Math.min(...far),
        most: Math.max(...far),
        triangles,
      }
    },
    [frame, middle],
  )

test('dissolving by a travelling body, by the interface: a ball that goes through another eats it, dust is born on the cut faces, is thinned out, and files carry what is left', async ({
  page,
}) => {
  page.setDefaultTimeout(20_000)
  await newShot(page)
  await page.getByTestId('mesh-file').setInputFiles([file('cake.obj', ballObj(0.6, 32)), file('eater.obj', ballObj(0.6, 24))]) // prettier-ignore
  await expect(page.getByRole('button', { name: 'eater', exact: true })).toBeVisible()
  // the eater comes in from the right, and stops half way in by frame 31
  await type(page, 'Position x', '1.5')
  await page.getByRole('button', { name: 'Set key for Position x' }).click()
  for (let n = 0; n < 3; n++) await page.keyboard.press('Shift+ArrowRight')
  await type(page, 'Position x', '0.6')
  await page.getByRole('button', { name: 'cake', exact: true }).click()
  await page.getByRole('button', { name: 'Hide eater' }).click()
  await page.getByRole('button', { name: '+ Cut' }).click()
  await expect(page.getByRole('combobox', { name: 'Cut by' })).toHaveText('eater')

  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  await page.getByRole('button', { name: '+ Birth' }).click()
  await page.getByRole('option', { name: /^\W*On the cut/ }).click()
  await page.getByRole('button', { name: 'Remove birth 1' }).click()
  await choose(page, 'Mesh', 'cake')
  await type(page, 'Rate', '3000')

  // two balls of the same size whose middles are a radius apart share 5/16 of one
  await expect.poll(async () => (await at(page, 33, 0.6))?.part ?? 1, { timeout: 90_000 }).toBeLessThan(0.7)
  const half = (await at(page, 33, 0.6))!
  expect(half.part).toBeCloseTo(1 - 5 / 16, 2)
  expect(half.count).toBeGreaterThan(1000)
  // those that are born now stand on the eater
  expect(half.least).toBeGreaterThan(0.97)
  expect(half.most).toBeLessThan(1.03)
  const before = (await at(page, 5, 1.4))!
  expect(before.count).toBe(0)
  expect(before.part).toBe(1)
  // the stage shows the whole ball, 32 × 31 × 2 triangles, and then what is left of it
  const whole = 32 * 31 * 2 * 3
  await expect.poll(async () => (await at(page, 5, 1.4))!.triangles).toBe(whole)
  await expect.poll(async () => (await at(page, 33, 0.6))!.triangles).not.toBe(whole)

  // thinned out to a fifth, from then on
  await goTo(page, 'Motion')
  await add(page, 'Thin out')
  await type(page, 'Share', '0.2')
  await expect
    .poll(async () => (await at(page, 33, 0.6))?.count ?? 0, { timeout: 90_000 })
    .toBeLessThan(half.count / 3)

  await page.getByRole('button', { name: /frame range and rate$/ }).click()
  await type(page, 'Last frame', '34')
  await page.keyboard.press('Escape')
  await page.getByRole('button', { name: 'Make a take' }).first().click()
  await expect(page.getByTestId('take-status')).toHaveText('done', { timeout: 150_000 })
  const text = await downloaded(page, 'USD (text)')
  const written = [...text.matchAll(/def (Mesh|Points) "(\w+)"/g)].map(([, type, name]) => `${type} ${name}`)
  expect(written.toSorted()).toEqual(['Mesh cake_mesh', 'Points dust'])
})
