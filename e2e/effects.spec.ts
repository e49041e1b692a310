/** Effects made by hand from an empty shot; dust, morph, streams, a cut, snow, pieces, liquids and takes are in specs of their own. */
import { expect, test, type Page } from '@playwright/test'
import { add, ballObj, choose, file, goTo, type Inside, newShot, type } from './help.ts'

test.beforeEach(async ({ page }) => {
  page.setDefaultTimeout(20_000)
  await newShot(page)
})

/** Particles of a population at a frame, where it is computed. */
const at = (page: Page, frame: number, population = 0) =>
  page.evaluate(
    ([frame, population]) => {
      const { engine } = (globalThis as unknown as Inside).tangle
      const one = engine.populationsAt(frame!)?.[population!]
      const measured = engine.measuresAt(frame!)?.populations[population!]
      if (!one || !measured) return null
      const middle = [0, 1, 2].map(
        (axis) =>
          one.positions.reduce((sum, x, k) => (k % 3 === axis ? sum + x : sum), 0) /
          Math.max(1, one.ids.length),
      )
      const heights = [...one.positions].filter((_, k) => k % 3 === 1)
      return {
        count: one.ids.length,
        middle: middle as [number, number, number],
        low: Math.min(...heights),
        high: Math.max(...heights),
        phases: measured.phases as Record<string, number>,
        speed: measured.speed.median,
      }
    },
    [frame, population],
  )
type Seen = NonNullable<Awaited<ReturnType<typeof at>>>
/** Waits until what is seen at a frame is so: frames before an edit are shown until those after it are there. */
async function soon(page: Page, frame: number, is: (seen: Seen) => boolean, population = 0): Promise<Seen> {
  await expect
    .poll(
      async () => {
        const seen = await at(page, frame, population)
        return seen !== null && is(seen)
      },
      { timeout: 150_000 },
    )
    .toBe(true)
  return (await at(page, frame, population))!
}
const bring = async (page: Page, ...meshes: [name: string, obj: string][]): Promise<void> => {
  await page.getByTestId('mesh-file').setInputFiles(meshes.map(([name, obj]) => file(`${name}.obj`, obj)))
  for (const [name] of meshes) await expect(page.getByRole('button', { name, exact: true })).toBeVisible()
}
/** The birth that is open gives so many at once, which live for ever. */
async function allAtOnce(page: Page, count: string): Promise<void> {
  await page.getByRole('button', { name: 'burst', exact: true }).click()
  await type(page, 'Count', count)
  await page.getByRole('group', { name: 'Lifespan' }).getByRole('button').first().click()
}
/** A population on the first mesh, so many of it at once, for ever. */
async function burst(page: Page, count: string): Promise<void> {
  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  await allAtOnce(page, count)
}
/** A population of dry sand that fills the first mesh, for ever. Metres. */
async function fillWithSand(page: Page, spacing: string, radius: string): Promise<void> {
  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  await page.getByRole('button', { name: 'Material' }).click()
  await page.getByRole('option', { name: /^\W*Dry sand/ }).click()
  await page.getByRole('button', { name: '+ Birth' }).click()
  await page.getByRole('option', { name: /^\W*In the volume/ }).click()
  await page.getByRole('button', { name: 'Remove birth 1' }).click()
  await choose(page, 'Fill', 'packed like balls')
  await type(page, 'Spacing', spacing)
  await page.getByRole('button', { name: 'all points' }).click()
  await type(page, 'Radius', radius)
  await type(page, 'Radius spread', '5')
  await page.getByRole('group', { name: 'Lifespan' }).getByRole('button').first().click()
}
/** A phase after the last one, which all pass into at a frame; the last one's pill is named. */
async function phaseAtFrame(page: Page, pill: string, frame: string): Promise<void> {
  await page.getByRole('button', { name: '+ Phase' }).click()
  await page
    .getByRole('group', { name: 'Cue line' })
    .getByRole('button', { name: new RegExp(`^${pill} \\d+: phase$`) })
    .click()
  await page.getByRole('menuitem', { name: 'At a frame' }).click()
  await type(page, 'Frame', frame)
  await type(page, 'Varies', '0')
}
/** New influences act in a phase. */
const inPhase = (page: Page, phase: string) =>
  page.getByRole('region', { name: 'Score' }).getByRole('button', { name: phase, exact: true }).click()

test('a swarm circles about a ball and leaves it at frame 100', async ({ page }) => {
  await bring(page, ['perch', ballObj(0.5)])
  await burst(page, '300')
  await goTo(page, 'Motion')
  await phaseAtFrame(page, 'Loose', '100')
  await inPhase(page, 'Loose')
  await add(page, 'Attract')
  await type(page, 'Point y', '0.5')
  await add(page, 'Wander')
  await inPhase(page, 'Loose 2')
  await add(page, 'Wind')
  await type(page, 'Air speed', '6')
  const before = await soon(page, 99, ({ phases }) => phases.Loose === 300)
  const after = await soon(page, 119, ({ middle }) => middle[0] > 1)
  expect(Math.abs(before.middle[0])).toBeLessThan(1.5)
  expect(after.phases).toMatchObject({ Loose: 0, 'Loose 2': 300 })
})

test('lettering is filled with balls, which fall and lie on the floor as dry sand', async ({ page }) => {
  await page.getByRole('button', { name: 'Text', exact: true }).click()
  await expect(page.getByTestId('mesh-facts')).toBeVisible()
  await fillWithSand(page, '0.065', '0.03')
  await goTo(page, 'Motion')
  for (const kind of ['Gravity', 'Floor', 'Self-collision']) await add(page, kind)
  await expect(page.getByText('stickiness and bounce as of dry sand', { exact: false })).toBeVisible()
  const lying = await soon(page, 70, ({ speed, low }) => speed < 0.1 && low < 0.05)
  expect(lying.count).toBeGreaterThan(300)
  expect(lying.low).toBeGreaterThan(0.015)
  expect(lying.high).toBeLessThan((await at(page, 1))!.high / 2)
  // what is said is what has come
  await goTo(page, 'Births')
  const told = page.getByTestId('born-total')
  await expect(told).toContainText('in the whole shot')
  expect(Number((await told.innerText()).replace(/\D/g, ''))).toBe(lying.count)
})

test('two groups cross and keep apart', async ({ page }) => {
  await bring(page, ['left', ballObj(0.3)], ['right', ballObj(0.3)])
  await type(page, 'Position x', '3')
  await burst(page, '60')
  await page.getByRole('button', { name: '+ Population' }).click()
  await choose(page, 'Mesh', 'right')
  await allAtOnce(page, '60')
  await goTo(page, 'Motion')
  for (const [name, speed] of [
    ['Dust', '1.5'],
    ['Dust 2', '-1.5'],
  ] as const) {
    await page.getByRole('region', { name: 'Score' }).getByRole('button', { name, exact: true }).click()
    await add(page, 'Wind')
    await type(page, 'Air speed', speed)
    await type(page, 'Strength', '4')
    await add(page, 'Avoid')
  }
  const there = await soon(page, 90, ({ middle }) => middle[0] > 2.5)
  const back = await soon(page, 90, ({ middle }) => middle[0] < 0.5, 1)
  expect([there.count, back.count]).toEqual([60, 60])
})

test('a clump comes after a point that is moved by keys', async ({ page }) => {
  await bring(page, ['ball', ballObj(0.3)])
  await burst(page, '200')
  await goTo(page, 'Motion')
  await add(page, 'Attract')
  await type(page, 'Strength', '12')
  await type(page, 'Reach', '8')
  await page.getByRole('button', { name: 'Set key for Point x' }).click()
  await page.keyboard.press('End')
  await type(page, 'Point x', '4')
  await add(page, 'Drag')
  await type(page, 'Strength', '4')
  const last = await soon(page, 119, ({ middle }) => middle[0] > 2.5)
  expect(last.count).toBe(200)
  expect((await at(page, 30))!.middle[0]).toBeLessThan(1.8)
})

test('instances slide down a slope, which is a tilted floor', async ({ page }) => {
  await bring(page, ['stone', ballObj(0.1, 8)], ['source', ballObj(0.3)])
  await type(page, 'Position y', '1')
  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  await choose(page, 'Mesh', 'source')
  await allAtOnce(page, '20')
  await type(page, 'Radius', '0.1')
  await type(page, 'Radius spread', '0')
  await goTo(page, 'Look')
  await choose(page, 'Draw as', 'instances')
  await choose(page, 'Instance 1', 'stone')
  await goTo(page, 'Motion')
  for (const kind of ['Gravity', 'Floor', 'Rigid']) await add(page, kind)
  await page.getByRole('group', { name: 'Floor' }).getByRole('button', { name: 'Floor', exact: true }).click()
  await type(page, 'Faces x', '0.7')
  await type(page, 'Friction at rest', '0.1')
  await type(page, 'Friction sliding', '0.1')
  const down = await soon(page, 60, ({ middle }) => middle[0] > 1)
  expect(down.count).toBe(20)
  // along the slope: nobody falls through
  expect(down.middle[1]).toBeLessThan(-0.5)
  expect(0.7 * down.middle[0] + down.middle[1]).toBeGreaterThan(0)
})

test('a ball of linked grains stands, and collapses to a heap of sand at frame 30', async ({ page }) => {
  await bring(page, ['ball', ballObj(0.5)])
  await fillWithSand(page, '0.1', '0.045')
  await goTo(page, 'Motion')
  await phaseAtFrame(page, 'Loose', '30')
  for (const kind of ['Gravity', 'Floor', 'Self-collision']) await add(page, kind)
  await inPhase(page, 'Loose')
  await add(page, 'Link')
  const standing = await soon(page, 28, ({ high }) => high > 0.85)
  const heap = await soon(page, 110, ({ high, speed }) => high < 0.7 && speed < 0.2)
  expect(heap.count).toBe(standing.count)
  expect(heap.low).toBeGreaterThan(0.02)
})

test('streams run down over a ball and never leave it', async ({ page }) => {
  await bring(page, ['ball', ballObj(0.5)])
  await burst(page, '300')
  await goTo(page, 'Motion')
  await add(page, 'March')
  await choose(page, 'Along', 'direction')
  await type(page, 'Direction y', '-1')
  await add(page, 'Stay on surface')
  const before = (await soon(page, 1, ({ count }) => count === 300)).middle[1]
  const after = await soon(page, 60, ({ middle }) => middle[1] < before - 0.3)
  expect(after.count).toBe(300)
  const [least, most] = await page.evaluate(() => {
    const { positions } = (globalThis as unknown as Inside).tangle.engine.populationsAt(60)![0]!
    const from = Array.from({ length: positions.length / 3 }, (_, i) =>
      Math.hypot(positions[3 * i]!, positions[3 * i + 1]! - 0.5, positions[3 * i + 2]!),
    )
    return [Math.min(...from), Math.max(...from)]
  })
  // on the facets of the ball
  expect(least).toBeGreaterThan(0.49)
  expect(most).toBeLessThan(0.5001)
  await goTo(page, 'Look')
  await page.getByRole('button', { name: 'a line', exact: true }).click()
  await expect(page.getByRole('textbox', { name: 'Length', exact: true })).toBeVisible()
})

test('a front wipes a ball away, and what was blown away comes home as it goes back', async ({ page }) => {
  await bring(page, ['ball', ballObj(0.5)])
  await goTo(page, 'Masks')
  await page.getByRole('button', { name: '+ Mask' }).click()
  await page.getByRole('option', { name: /^\W*Slab/ }).click()
  // it comes with keys that take it through the mesh
  for (const [frame, x] of [
    ['1', '-0.8'],
    ['40', '0.8'],
    ['80', '0.8'],
    ['120', '-0.8'],
  ] as const) {
    await page.evaluate((at) => (globalThis as unknown as Inside).tangle.engine.seek(at), Number(frame))
    await type(page, 'Position x', x)
  }
  await page.getByRole('button', { name: 'Eat ball' }).click()
  await goTo(page, 'Births')
  await page.getByRole('button', { name: 'Add a population' }).click()
  await choose(page, 'Amount', 'burst')
  await type(page, 'Count', '400')
  await page.getByRole('group', { name: 'Lifespan' }).getByRole('button').first().click()
  await goTo(page, 'Motion')
  await add(page, 'Ride')
  await page.getByRole('button', { name: '+ Phase' }).click()
  await phaseAtFrame(page, 'Loose 2', '65')
  await page
    .getByRole('group', { name: 'Cue line' })
    .getByRole('button', { name: /^Loose \d*: phase$/ })
    .click()
  await page.getByRole('menuitem', { name: 'By a mask' }).click()
  await inPhase(page, 'Loose 2')
  await add(page, 'Wind')
  await inPhase(page, 'Loose 3')
  await add(page, 'Return')
  const gone = await soon(page, 62, ({ middle }) => middle[0] > 0.5)
  const home = await soon(
    page,
    119,
    ({ middle }) => Math.hypot(...middle) < 0.6 && Math.abs(middle[0]) < 0.05,
  )
  expect([gone.count, home.count]).toEqual([400, 400])
  const left = await page.evaluate(() => {
    const { engine } = (globalThis as unknown as Inside).tangle
    return [1, 62, 119].map((frame) => engine.measuresAt(frame)!.meshes[0]!.left)
  })
  expect(left[1]).toBeLessThan(0.01)
  expect(left[2]).toBeCloseTo(left[0]!, 5)
})
