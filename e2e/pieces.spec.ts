import { expect, test } from '@playwright/test'
import { ballObj, file, goTo, newShot } from './help.ts'

interface Inside {
  tangle: {
    engine: {
      computedTo(): number | null
      seek(frame: number): void
      measuresAt(
        frame: number,
      ): { populations: { bonds: { bodies: number; broken: number } | null }[] } | undefined
      populations(): {
        id: string
        count: number
        positions: Float32Array
        turns: Int16Array | null
        pieces: Uint32Array | null
      }[]
    }
  }
}

test('an OBJ is broken, its pieces fall and lie, and fly home', async ({ page }) => {
  await newShot(page)
  await page.getByTestId('mesh-file').setInputFiles(file('ball.obj', ballObj(0.4, 16)))
  await expect(page.getByTestId('mesh-facts')).toContainText('none: closed')
  await page.getByRole('textbox', { name: 'Position y' }).fill('1')
  await page.getByRole('textbox', { name: 'Position y' }).press('Enter')

  await page.getByRole('button', { name: 'Break…' }).click()
  await expect(page.getByTestId('mesh-facts')).toContainText('Pieces100', { timeout: 150_000 })
  await page.getByRole('textbox', { name: 'Pieces', exact: true }).fill('30')
  await page.getByRole('textbox', { name: 'Pieces', exact: true }).press('Enter')
  await expect(page.getByTestId('mesh-facts')).toContainText('Pieces30', { timeout: 150_000 })
  await expect(page.getByTestId('mesh-facts')).toContainText(/Smallest[\d.]+ cm/)
  await page.getByRole('slider', { name: 'Spread apart' }).fill('0.5')

  await page.getByRole('button', { name: 'Its pieces as particles' }).click()
  await goTo(page, 'Births')
  await expect(page.getByTestId('born-total')).toContainText('30 in the whole shot')

  await goTo(page, 'Motion')
  const at = (frame: number) =>
    page.evaluate((wanted) => {
      const { engine } = (globalThis as unknown as Inside).tangle
      if ((engine.computedTo() ?? -1) < wanted) return null
      engine.seek(wanted)
      const [one] = engine.populations()
      if (!one || one.count === 0) return null
      const heights = Array.from({ length: one.count }, (_, i) => one.positions[i * 3 + 1]!)
      return {
        count: one.count,
        low: Math.min(...heights),
        high: Math.max(...heights),
        pieces: one.pieces!.length,
      }
    }, frame)
  // born in place, in one ball about 1 m up
  await expect.poll(async () => (await at(1))?.low ?? 0, { timeout: 150_000 }).toBeGreaterThan(0.6)
  // and lie on the floor, none below it
  await expect.poll(async () => (await at(72))?.high ?? 9, { timeout: 150_000 }).toBeLessThan(0.5)
  const lying = (await at(72))!
  expect(lying).toMatchObject({ count: 30, pieces: 30 })
  expect(lying.low).toBeGreaterThan(0)

  // pieces are kept for when the page is opened again
  await page.reload()
  await expect.poll(async () => (await at(1))?.count ?? 0, { timeout: 150_000 }).toBe(30)
  const kept = await page.evaluate(async () => (await indexedDB.databases()).map(({ name }) => name))
  expect(kept).toContain('tangle-made-meshes')

  // bonded they are one body once they are let go; weak bonds break as it lands
  await page.getByRole('button', { name: '+ Influence' }).click()
  await page
    .getByRole('option', { name: /^.?\s*Bonds/ })
    .first()
    .click()
  await page.getByRole('textbox', { name: 'Bears' }).fill('20')
  await page.getByRole('textbox', { name: 'Bears' }).press('Enter')
  const bonds = () =>
    page.evaluate(() => {
      const { engine } = (globalThis as unknown as Inside).tangle
      // they are held for 12 frames
      return [16, 72].map((frame) => engine.measuresAt(frame)?.populations[0]?.bonds ?? null)
    })
  await expect.poll(async () => (await bonds())[1]?.broken ?? 0, { timeout: 150_000 }).toBeGreaterThan(0)
  const [whole] = await bonds()
  expect(whole).toMatchObject({ bodies: 1, broken: 0 })

  await page.getByRole('button', { name: '+ Influence' }).click()
  await page
    .getByRole('option', { name: /Fly home/ })
    .first()
    .click()
  await expect(page.getByRole('group', { name: 'Fly home' })).toBeVisible()
  // led in the only phase that they are in: home from wherever they are
  await page.getByRole('button', { name: 'Mute Rigid body' }).click()
  await expect.poll(async () => (await at(72))?.low ?? 0, { timeout: 150_000 }).toBeGreaterThan(0.6)

  await page.getByRole('button', { name: 'Make a take' }).first().click()
  await expect(page.getByTestId('take-status')).toHaveText('done', { timeout: 120_000 })
})

test('a shell is laid around a mesh and broken; an open mesh is closed and broken; a sheet is refused with the reason', async ({
  page,
}) => {
  await newShot(page)
  await page.getByTestId('mesh-file').setInputFiles(file('ball.obj', ballObj(0.4, 12)))
  await expect(page.getByTestId('mesh-facts')).toContainText('none: closed')
  await page.getByRole('button', { name: 'Shell…' }).click()
  await expect(page.getByRole('textbox', { name: 'Gap' })).toBeVisible()
  await expect(page.getByTestId('mesh-facts')).toContainText('none: closed', { timeout: 150_000 })
  await page.getByRole('button', { name: 'Break…' }).click()
  await expect(page.getByTestId('mesh-facts')).toContainText(/Pieces1\d\d/, { timeout: 150_000 })

  const open = 'v 0 0 0\nv 1 0 0\nv 0 1 0\nv 0 0 1\nf 1 3 2\nf 1 2 4\nf 2 3 4\n'
  await page.getByTestId('mesh-file').setInputFiles(file('torn.obj', open))
  await page.getByRole('button', { name: 'Break…' }).click()
  await expect(page.getByTestId('mesh-facts')).toContainText(/Pieces\d+/, { timeout: 150_000 })

  await page.getByTestId('mesh-file').setInputFiles(file('sheet.obj', 'v 0 0 0\nv 1 0 0\nv 0 1 0\nf 1 2 3\n'))
  await page.getByRole('button', { name: 'Break…' }).click()
  await expect(page.getByRole('alert').filter({ hasText: 'open: 3 open edges in 1 hole' })).toBeVisible()
})
