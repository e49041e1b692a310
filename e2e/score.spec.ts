import { expect, test, type Page } from '@playwright/test'
import {
  ballObj,
  downloaded,
  drop,
  firstCount,
  goTo,
  newShot,
  openCopy,
  openShot,
  type Inside,
} from './help.ts'

/** How much of the stage is bright: what is drawn before the dusk. */
const bright = (page: Page): Promise<number> =>
  page.evaluate(async () => {
    const picture = await (globalThis as unknown as Inside).tangle.engine.picture()
    const bitmap = await createImageBitmap(picture!)
    const canvas = new OffscreenCanvas(bitmap.width, bitmap.height)
    const context = canvas.getContext('2d')!
    context.drawImage(bitmap, 0, 0)
    const { data } = context.getImageData(0, 0, bitmap.width, bitmap.height)
    let found = 0
    for (let i = 0; i < data.length; i += 4) if (data[i]! > 120) found++
    return found
  })
const measures = (page: Page) =>
  page.evaluate(() => (globalThis as unknown as Inside).tangle.engine.measures())
const seek = (page: Page, frame: number) =>
  page.evaluate((at) => (globalThis as unknown as Inside).tangle.engine.seek(at), frame)
const type = async (page: Page, name: string, value: string) => {
  const field = page.getByRole('textbox', { name, exact: true })
  await field.fill(value)
  await field.press('Enter')
}

test('a newcomer turns a dropped OBJ to dust by a handful of clicks', async ({ page }) => {
  const from = Date.now()
  await newShot(page)
  await drop(page, 'float.obj', Buffer.from(ballObj(0.5)))
  await expect(page.getByTestId('mesh-facts')).toContainText('1 × 1 × 1 m')
  await goTo(page, 'Masks')
  await page.getByRole('button', { name: 'Let a front spread' }).click()
  await page.getByRole('button', { name: 'Eat float' }).click()
  await page.getByRole('button', { name: 'Dust where it passes' }).click()
  await goTo(page, 'Births')
  await type(page, 'In all', '9000')
  await expect(page.getByTestId('born-total')).toContainText(/9\s000 once all of it has been swept/)
  await goTo(page, 'Motion')
  await expect(page.getByRole('group', { name: 'Wind' })).toBeVisible()
  // until the frames after the last edit are there, those before it are shown, or none
  const framesNow = () =>
    page.evaluate(() => {
      const { engine } = (globalThis as unknown as Inside).tangle
      return Array.from({ length: 120 }, (_, i) => engine.measuresAt(i + 1))
    })
  const bornIn = (all: Awaited<ReturnType<typeof framesNow>>): number =>
    all.reduce((sum, one) => sum + (one?.populations[0]!.born ?? NaN), 0)
  await expect.poll(async () => bornIn(await framesNow()), { timeout: 120_000 }).toBeLessThan(9100)
  expect(Date.now() - from).toBeLessThan(180_000)

  // what has vanished of the mesh is what was born, to within one
  const frames = (await framesNow()).map((one) => one!)
  let born = 0
  frames.forEach(({ populations, meshes }, i) => {
    born += populations[0]!.born
    const share = meshes[0]!.swept / meshes[0]!.area
    expect(Math.abs(born - 9000 * share)).toBeLessThan(i === 119 ? 2 : 40)
  })
  expect(frames[49]!.meshes[0]!.swept).toBeGreaterThan(0.2)
  expect(frames[49]!.meshes[0]!.left).toBeGreaterThan(0.2)
  // the ball is there at first, less of it with dust around later, and hardly a trace in the end
  const seen: number[] = []
  for (const frame of [1, 50, 120]) {
    await seek(page, frame)
    await page.waitForTimeout(1500)
    seen.push(await bright(page))
  }
  expect(seen[0]).toBeGreaterThan(3000)
  expect(seen[1]).toBeGreaterThan(1000)
  expect(seen[2]).toBeLessThan(seen[0]! / 4)
})

test('phases and cues: a phase is added and named, a cue sends particles on, its details and undo', async ({
  page,
}) => {
  await openCopy(page, 'Lantern sparks', 'Motion')
  await firstCount(page, 60)
  await page.getByRole('button', { name: '+ Phase' }).click()
  const line = page.getByRole('group', { name: 'Cue line' })
  await line.getByRole('button', { name: /^Loose .*: phase$/ }).click()
  await page.getByRole('menuitem', { name: 'Rename Loose' }).click()
  await page.getByRole('textbox', { name: 'Name of the phase' }).fill('Dying')
  await page.keyboard.press('Enter')
  await line.getByRole('button', { name: /^Flying .*: phase$/ }).click()
  await page.getByRole('menuitem', { name: 'After a time' }).click()
  await expect(line.getByText('after 24 ± 6 frames')).toBeVisible()
  await type(page, 'Frames after entering', '4')
  await type(page, 'Chance', '0.5')
  await expect(line.getByText('50 % after 4 ± 6 frames')).toBeVisible()
  await seek(page, 60)
  // the frames before the edit are shown until those after it are there
  const phases = async () => (await measures(page))?.populations[0]?.phases ?? {}
  await expect.poll(async () => (await phases()).Dying ?? 0, { timeout: 150_000 }).toBeGreaterThan(100)
  const { Dying, Flying } = await phases()
  expect(Flying).toBeGreaterThan(Dying! / 2)
  await expect(page.getByRole('spinbutton', { name: 'Weight of Heat in Dying' })).toHaveText('–')
  await page.getByRole('button', { name: 'Remove the cue' }).click()
  await expect(line.getByText(/after 4/)).toHaveCount(0)
  await page.keyboard.press('Control+z')
  await expect(line.getByText(/after 4/)).toBeVisible()
})

test('a strength curve: keys added, dragged, chosen by a box, eased, reversed, copied, nudged and removed', async ({
  page,
}) => {
  await openCopy(page, 'Lantern sparks', 'Motion')
  const row = page.getByRole('group', { name: 'Heat', exact: true })
  await row.getByRole('button', { name: 'Heat', exact: true }).click()
  const curve = page.getByRole('application', { name: 'Strength of Heat over frames' })
  const key = (frame: number) => curve.getByRole('button', { name: new RegExp(`^Key at frame ${frame}:`) })
  const box = (await curve.boundingBox())!
  const x = (frame: number) => box.x + ((frame - 1) / 119) * box.width
  await page.mouse.dblclick(x(31), box.y + 20)
  await page.mouse.dblclick(x(91), box.y + 50)
  await expect(key(31)).toBeVisible()
  await expect(key(91)).toBeVisible()
  // drag the later one ten frames on
  const at = (await key(91).boundingBox())!
  await page.mouse.move(at.x + 5, at.y + 5)
  await page.mouse.down()
  await page.mouse.move(x(101), at.y + 5, { steps: 5 })
  await page.mouse.up()
  await expect(key(101)).toBeVisible()
  // a box over both
  await page.mouse.move(x(20), box.y + 2)
  await page.mouse.down()
  await page.mouse.move(x(115), box.y + box.height - 2, { steps: 5 })
  await page.mouse.up()
  await expect(page.getByText('2 keys')).toBeVisible()
  const value = async (frame: number) =>
    Number(/: (.+)$/.exec((await key(frame).getAttribute('aria-label'))!)![1])
  const [early, late] = [await value(31), await value(101)]
  expect(early).toBeGreaterThan(late)
  const tools = page.getByRole('toolbar', { name: 'Keys' })
  await tools.getByRole('button', { name: 'Reverse' }).click()
  expect([await value(31), await value(101)]).toEqual([late, early])
  await tools.getByRole('combobox', { name: 'Ease of the chosen keys' }).click()
  await page.getByRole('option', { name: 'hold' }).click()
  await curve.press('ArrowRight')
  await expect(key(32)).toBeVisible()
  await tools.getByRole('button', { name: 'Copy' }).click()
  await tools.getByRole('button', { name: 'Delete' }).click()
  await expect(curve.getByRole('button')).toHaveCount(0)
  await seek(page, 10)
  await tools.getByRole('button', { name: 'Paste' }).click()
  await expect(key(10)).toBeVisible()
  await expect(key(80)).toBeVisible()
  // held until the next key: by the document itself
  await expect(page.getByTestId('save')).toHaveText(/saved \d\d/)
  for (let n = 0; n < 3; n++) await page.keyboard.press('Control+z')
  await expect(key(31)).toBeVisible()
  await page.getByRole('button', { name: 'Show fewer frames' }).click()
  const wider = (await curve.boundingBox())!
  expect(wider.width).toBeCloseTo(box.width, 0)
  await page.getByRole('button', { name: 'Show all frames' }).click()
  await expect(key(31)).toBeVisible()
})

test('rows: carried to another place by drag and by keys, copied into another shot, given a response', async ({
  page,
}) => {
  await openCopy(page, 'Lantern sparks', 'Motion')
  const rows = page.locator('[data-row]')
  await expect(rows.nth(0)).toHaveAttribute('aria-label', 'Gravity')
  const name = page
    .getByRole('group', { name: 'Gravity', exact: true })
    .getByRole('button', { name: 'Gravity', exact: true })
  await name.click()
  await name.focus()
  await page.keyboard.press('Alt+ArrowDown')
  await expect(rows.nth(1)).toHaveAttribute('aria-label', 'Gravity')
  const glyph = rows.nth(1).getByTitle(/Drag to another place/)
  // it waits until the rows have come to rest
  await glyph.hover()
  const to = (await rows.nth(0).boundingBox())!
  await page.mouse.down()
  await page.mouse.move(to.x + 20, to.y + 12, { steps: 6 })
  // the page says so once it has drawn it there
  await expect(page.locator('[id^="DndLiveRegion"]')).toContainText(/moved over droppable area heat/)
  await page.mouse.up()
  await expect(rows.nth(0)).toHaveAttribute('aria-label', 'Gravity')
  await page.keyboard.press('Control+z')
  await page.keyboard.press('Control+z')

  await page.getByRole('button', { name: '+ Strength responds to…' }).click()
  await page.getByRole('menuitem', { name: 'frames in the phase' }).click()
  const point = page.getByRole('button', { name: /frames in the phase, point 2: 48, 0/ })
  await point.focus()
  await page.keyboard.press('ArrowUp')
  await expect(page.getByRole('button', { name: /frames in the phase, point 2: 48, 0\.02/ })).toBeVisible()
  await page.keyboard.press('Control+c')
  await expect(page.getByText('Gravity copied')).toBeVisible()
  await page.getByRole('link', { name: 'Shots' }).click()
  await page.getByRole('link', { name: 'Open First snow on the sheds', exact: true }).first().click()
  await goTo(page, 'Motion')
  await page.keyboard.press('Control+v')
  await expect(page.getByRole('group', { name: 'Gravity', exact: true })).toHaveCount(2)
  await expect(page.getByRole('group', { name: /responds to frames in the phase/ })).toBeVisible()
  await page.keyboard.press('Control+z')
})

test('masks: painted by the brush and undone by stroke, compared with an input off, cut by a plane', async ({
  page,
}) => {
  await newShot(page)
  await drop(page, 'float.obj', Buffer.from(ballObj(0.5)))
  await expect(page.getByTestId('mesh-facts')).toBeVisible()
  await goTo(page, 'Masks')
  await page.getByRole('button', { name: '+ Mask' }).click()
  await page.getByRole('option', { name: /^\W*Painted/ }).click()
  await page.getByRole('button', { name: 'paint', exact: true }).click()
  const stage = (await page.getByTestId('stage').boundingBox())!
  const [x, y] = [stage.x + stage.width / 2, stage.y + stage.height / 2]
  // from here on the mesh shows the mask, dark where nothing is painted
  await expect
    .poll(() =>
      page.evaluate(() => (globalThis as unknown as Inside).tangle.engine.surface()?.meshes.length ?? 0),
    )
    .toBeGreaterThan(0)
  await page.waitForTimeout(300)
  const before = await bright(page)
  for (const dy of [-30, 10]) {
    await page.mouse.move(x - 60, y + dy)
    await page.mouse.down()
    await page.mouse.move(x + 60, y + dy, { steps: 12 })
    await page.mouse.up()
  }
  await expect(page.getByTestId('strokes')).toContainText('2 strokes')
  await expect.poll(() => bright(page)).toBeGreaterThan(before + 1000)
  await page.keyboard.press('Control+z')
  await expect(page.getByTestId('strokes')).toContainText('1 stroke;')
  await page.getByRole('button', { name: 'off', exact: true }).click()

  await page.getByRole('button', { name: '+ Mask' }).click()
  await page.getByRole('option', { name: /^\W*Spread/ }).click()
  await page.getByRole('button', { name: 'mask', exact: true }).click()
  await page.getByRole('button', { name: 'Without ragged' }).click()
  await page.getByRole('group', { name: 'Cut plane' }).getByRole('button', { name: 'z' }).click()
  await expect
    .poll(() =>
      page.evaluate(() => {
        const surface = (globalThis as unknown as Inside).tangle.engine.surface()
        return [surface?.meshes[0]?.others?.length ?? 0, surface?.plane?.length ?? 0].map((n) => n > 0)
      }),
    )
    .toEqual([true, true])
})

test('charts and the particle table: filtered, sorted, and marked on the stage both ways', async ({
  page,
}) => {
  await openCopy(page, 'Lantern sparks', 'Motion')
  const alive = await firstCount(page, 40)
  await page.keyboard.press('c')
  await expect(page.getByRole('combobox', { name: 'Chart' })).toHaveText('Particles by phase')
  await expect(page.locator('.apexcharts-series path').first()).toBeVisible()
  await page.getByRole('combobox', { name: 'Attribute' }).click()
  await page.getByRole('option', { name: 'radius' }).click()
  await page.keyboard.press('p')
  await expect(page.getByTestId('table-count')).toContainText(
    `of ${alive}`.replace(/(\d)(?=(\d{3})+$)/g, '$1\u202f'),
  )
  await page.getByRole('textbox', { name: 'Filter' }).fill('speed >')
  await expect(page.getByRole('alert')).toContainText('Write a column')
  await page.getByRole('textbox', { name: 'Filter' }).fill('speed > 1')
  await page.getByRole('columnheader', { name: 'speed' }).click()
  const rows = page.getByRole('table', { name: 'Particles' }).getByRole('row')
  const speeds = await rows.locator('[role=cell]:nth-child(6)').allInnerTexts()
  expect(Number(speeds[0])).toBeGreaterThanOrEqual(1)
  expect([...speeds].map(Number)).toEqual([...speeds].map(Number).sort((a, b) => a - b))
  await rows.nth(1).click()
  await expect(rows.nth(1)).toHaveAttribute('aria-selected', 'true')
  // the other way: a click on a particle of the stage selects its row
  await page.getByRole('textbox', { name: 'Filter' }).fill('')
  const place = await page.evaluate(() => {
    const { engine, stage } = (globalThis as unknown as Inside).tangle
    const { positions, ids } = engine.populations()[0]!
    const { camera } = stage.world
    const box = document.querySelector('canvas')!.getBoundingClientRect()
    const seen = camera.position.clone().set(positions[0]!, positions[1]!, positions[2]!).project(camera)
    return {
      x: box.x + ((seen.x + 1) / 2) * box.width,
      y: box.y + ((1 - seen.y) / 2) * box.height,
      id: ids[0]!,
    }
  })
  await page.mouse.click(place.x, place.y)
  await expect(page.locator('[role=row][aria-selected=true]')).toHaveCount(1)
})

test('a take holds what is left of an eaten mesh, and plays and is written backward', async ({
  page,
  request,
}) => {
  await openShot(page, 'The bell and the fog', 'Takes')
  // a short and coarse one: the bell as it comes, few particles
  const id = /shots\/([^/]+)/.exec(page.url())![1]!
  const { document } = (await (await request.get(`/api/shots/${id}`)).json()) as {
    document: {
      name: string
      frames: object
      meshes: { detail: unknown }[]
      populations: { births: { amount: { rate: number } }[] }[]
    }
  }
  document.name = 'Short fog'
  document.frames = { first: 30, last: 36, rate: 24 }
  for (const mesh of document.meshes) mesh.detail = 1e4
  for (const population of document.populations) population.births[0]!.amount.rate = 2000
  const made = (await (
    await request.post('/api/shots', { data: { name: 'Short fog', document } })
  ).json()) as { id: string }
  await page.goto(`/shots/${made.id}/takes`)
  await page.getByRole('button', { name: 'Make a take' }).first().click()
  await expect(page.getByTestId('take-status')).toHaveText('done', { timeout: 150_000 })
  const takes = (await (await request.get(`/api/shots/${made.id}/takes`)).json()) as { id: string }[]
  await page.getByRole('button', { name: 'backward' }).click()
  await page.getByRole('button', { name: /^Play take/ }).click()
  await page.keyboard.press('Space')
  await seek(page, 36)
  const counts = async () =>
    page.evaluate(() => {
      const { engine } = (globalThis as unknown as Inside).tangle
      return [engine.populations()[0]?.count, engine.liveMeshes()[0]?.triangles.length]
    })
  // backward, the last frame is the first one: the bell as it was at frame 30
  await expect.poll(async () => (await counts())[1]).toBeGreaterThan(1000)
  const last = (await counts())[0]!
  await seek(page, 30)
  await expect.poll(async () => (await counts())[0]).toBeGreaterThan(last)
  const text = await downloaded(page, 'USD (text)')
  expect(text).toContain('def Mesh "bell_wall_mesh"')
  const forward = await (await request.get(`/api/takes/${takes[0]!.id}/export?format=usda`)).text()
  const idsAt = (usd: string, frame: number) =>
    new RegExp(`int64\\[\\] ids\\.timeSamples = \\{[\\s\\S]*?\\n\\s+${frame}: (\\[.*)`).exec(usd)![1]
  expect(idsAt(text, 30)).toBe(idsAt(forward, 36))
  await request.delete(`/api/shots/${made.id}`)
})
