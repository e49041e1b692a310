import { expect, test } from '@playwright/test'
import { firstCount, newShot, openCopy } from './help.ts'

test('shots: made, renamed, copied, deleted and brought back', async ({ page }) => {
  await newShot(page)
  await page.getByLabel('Name of the shot').fill('Net float rain')
  await page.getByLabel('Name of the shot').press('Enter')
  await expect(page.getByTestId('save')).toHaveText(/saved \d\d:\d\d/)
  await page.getByRole('link', { name: 'Shots' }).click()
  const more = (name: string) => page.getByRole('button', { name: `More for ${name}`, exact: true })
  await more('Net float rain').click()
  await page.getByRole('menuitem', { name: 'Duplicate' }).click()
  await more('Net float rain, copy').click()
  await page.getByRole('menuitem', { name: 'Rename…' }).click()
  await page.getByLabel('New name').fill('Second rain')
  await page.getByRole('button', { name: 'Rename' }).click()
  await expect(more('Second rain')).toBeVisible()
  await more('Second rain').click()
  await page.getByRole('menuitem', { name: 'Delete' }).click()
  await expect(more('Second rain')).toHaveCount(0)
  await page.getByRole('button', { name: 'Undo' }).click()
  await expect(more('Second rain')).toBeVisible()
})

test('a second window’s change is never overwritten silently', async ({ page, context }) => {
  await newShot(page)
  const other = await context.newPage()
  await other.goto(page.url())
  await other.getByLabel('Name of the shot').fill('Theirs')
  await other.getByLabel('Name of the shot').press('Enter')
  await expect(other.getByTestId('save')).toHaveText(/saved \d\d/)
  await page.getByLabel('Name of the shot').fill('Mine')
  await page.getByLabel('Name of the shot').press('Enter')
  await expect(page.getByText('changed in another window')).toBeVisible()
  await page.getByRole('button', { name: 'Keep mine as a copy' }).click()
  await expect(page.getByLabel('Name of the shot')).toHaveValue('Mine, mine')
  await other.reload()
  await expect(other.getByLabel('Name of the shot')).toHaveValue('Theirs')
})

test('a shot that has played once moves in the list; what is no picture is refused', async ({
  page,
  request,
}) => {
  await openCopy(page, 'Lantern sparks', 'Motion')
  const id = /shots\/([^/]+)/.exec(page.url())![1]!
  await firstCount(page, 120)
  // a still one in its place
  const thumbnail = await (await request.get(`/api/shots/${id}/thumbnail`)).body()
  expect((await request.put(`/api/shots/${id}/strip`, { data: thumbnail })).status()).toBe(204)
  expect((await request.get(`/api/shots/${id}/strip`)).headers()['content-type']).toBe('image/png')
  const kept = page.waitForResponse((one) => one.url().endsWith('/strip') && one.request().method() === 'PUT')
  await page.getByRole('button', { name: 'Play', exact: true }).click()
  await kept
  const strip = await request.get(`/api/shots/${id}/strip`)
  expect(strip.headers()['content-type']).toBe('image/webp')
  await page.getByRole('link', { name: 'Shots' }).click()
  const card = page.locator(`a[href^="/shots/${id}"]`).first()
  await card.hover()
  const size = await card.getByTestId('moving').evaluate(async (image: HTMLImageElement) => {
    await image.decode()
    return [image.naturalWidth, image.naturalHeight]
  })
  expect(size).toEqual([12 * 320, 200])
  for (const [data, status] of [
    [Buffer.from('no picture'), 422],
    [Buffer.alloc(2_100_000), 413],
  ] as const)
    // prettier-ignore
    expect((await request.put(`/api/shots/${id}/strip`, { data })).status()).toBe(status)
})
