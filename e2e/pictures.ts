import { test, type Page } from '@playwright/test'
import { execFileSync } from 'node:child_process'
import { mkdir, mkdtemp, readFile, writeFile } from 'node:fs/promises'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { Shot } from '@tangle/core'
import { unzipSync } from 'fflate'
import { goTo, openShot, type, type Inside } from './help.ts'

const FOLDER = 'docs/screenshots'
const picture = (page: Page, name: string) => page.screenshot({ path: `${FOLDER}/${name}.png` })

/** Moves the playhead to a frame as soon as it is computed. */
async function show(page: Page, frame: number): Promise<void> {
  await page.waitForFunction(
    (at) => ((globalThis as unknown as Inside).tangle.engine.computedTo() ?? -1) >= at,
    frame,
    { timeout: 300_000 },
  )
  await page.evaluate((at) => (globalThis as unknown as Inside).tangle.engine.seek(at), frame)
  await page.waitForTimeout(1500)
}

async function thumbnail(page: Page, slug: string, folder = 'demo/thumbnails'): Promise<void> {
  const base64 = await page.evaluate(async () => {
    const blob = await (globalThis as unknown as Inside).tangle.engine.picture()
    const bytes = new Uint8Array(await blob!.arrayBuffer())
    return btoa(bytes.reduce((text, byte) => text + String.fromCharCode(byte), ''))
  })
  await mkdir(folder, { recursive: true })
  await writeFile(`${folder}/${slug}.png`, Buffer.from(base64, 'base64'))
}

test('pictures of every main view, from the demo data', async ({ page }) => {
  await mkdir(FOLDER, { recursive: true })
  await openShot(page, 'First snow on the sheds', 'Motion')
  await show(page, 200)
  await page
    .getByRole('group', { name: 'Cover, ground', exact: true })
    .getByRole('button', { name: 'Cover, ground', exact: true })
    .click()
  await thumbnail(page, 'first-snow-on-the-sheds')
  await picture(page, 'motion-snow')

  await openShot(page, 'Lantern sparks', 'Meshes')
  await show(page, 70)
  await thumbnail(page, 'lantern-sparks')
  await page.getByRole('button', { name: 'Lantern', exact: true }).click()
  await page.waitForTimeout(800)
  await picture(page, 'meshes')
  await goTo(page, 'Births')
  await page.waitForTimeout(1500)
  await picture(page, 'births')
  await page.getByRole('button', { name: 'Make a take' }).first().click()
  await page.getByRole('button', { name: /^Play take/ }).click({ timeout: 60_000 })
  await page.waitForTimeout(2500)
  await page.keyboard.press('Space')
  await show(page, 70)
  await picture(page, 'takes')
  await sweep(page)

  await openShot(page, 'The tub tips over')
  await show(page, 66)
  await thumbnail(page, 'the-tub-tips-over')

  await openShot(page, 'The tar kettle', 'Look')
  await show(page, 84)
  await thumbnail(page, 'the-tar-kettle')
  await picture(page, 'look')

  await openShot(page, 'The storm glass')
  await show(page, 90)
  await thumbnail(page, 'the-storm-glass')

  await openShot(page, 'Oil on brine')
  await show(page, 120)
  await thumbnail(page, 'oil-on-brine')

  await openShot(page, 'Sign in the gale', 'Motion')
  await show(page, 72)
  await thumbnail(page, 'sign-in-the-gale')
  await page
    .getByRole('group', { name: 'Cue line' })
    .getByText(/Ragged wipe/)
    .click()
  await page.waitForTimeout(800)
  await picture(page, 'cue')
  await goTo(page, 'Look')
  await page.waitForTimeout(1500)

  await openShot(page, 'Jelly and the oar', 'Motion')
  await show(page, 90)
  await thumbnail(page, 'jelly-and-the-oar')
  await page
    .getByRole('group', { name: 'Jelly', exact: true })
    .getByRole('button', { name: 'Jelly', exact: true })
    .click()
  await page.keyboard.press('c')
  await page.getByRole('combobox', { name: 'Chart', exact: true }).click()
  await page.getByRole('option', { name: 'Links' }).click()
  await page.waitForTimeout(2500)
  await picture(page, 'cut')
  await page.keyboard.press('c')

  await openShot(page, 'Sandbox crate', 'Look')
  await show(page, 70)
  await thumbnail(page, 'sandbox-crate')

  await openShot(page, 'Rivets on the slipway', 'Look')
  await show(page, 90)
  await thumbnail(page, 'rivets-on-the-slipway')

  await openShot(page, 'The float that mends', 'Look')
  await show(page, 170)
  await thumbnail(page, 'the-float-that-mends')
  await openShot(page, 'The sounder and the wreck', 'Look')
  await show(page, 100)
  await thumbnail(page, 'the-sounder-and-the-wreck')
  await openShot(page, 'Flares over the harbour', 'Look')
  await show(page, 100)
  // light that spills takes long to draw by the processor
  await page.waitForTimeout(5000)
  await thumbnail(page, 'flares-over-the-harbour')

  await openShot(page, 'The float that mends', 'Motion')
  await page.getByText('Glass holds').click()
  await show(page, 37)
  await picture(page, 'pieces')

  await openShot(page, 'Tar off the bollard', 'Look')
  await show(page, 70)
  await thumbnail(page, 'tar-off-the-bollard')

  await openShot(page, 'Letters full of floats', 'Look')
  await show(page, 120)
  await thumbnail(page, 'letters-full-of-floats')

  await openShot(page, 'The bell and the fog', 'Look')
  await show(page, 52)
  await thumbnail(page, 'the-bell-and-the-fog')

  await openShot(page, 'Paper boat to heron', 'Motion')
  await show(page, 84)
  await thumbnail(page, 'paper-boat-to-heron')
  await page.getByRole('button', { name: /^Goals/ }).click()
  await page.getByRole('button', { name: 'Show where they go' }).click()
  await page.waitForTimeout(1000)
  await picture(page, 'goals')
  await page.getByRole('button', { name: 'Show where they go' }).click()

  await openShot(page, 'Moths at the lantern', 'Motion')
  await show(page, 78)
  await thumbnail(page, 'moths-at-the-lantern')
  await page.getByRole('button', { name: 'To the float', exact: true }).click()
  await page.waitForTimeout(800)
  await picture(page, 'swarm')

  await openShot(page, 'Ferry queue', 'Motion')
  await show(page, 300)
  await thumbnail(page, 'ferry-queue')
  await page.keyboard.press('c')
  await page.waitForTimeout(4000)
  await picture(page, 'crowd')
  await page.keyboard.press('c')

  await openShot(page, 'Plankton', 'Motion')
  await show(page, 90)
  await thumbnail(page, 'plankton')

  await openShot(page, 'Ink on the figurehead', 'Look')
  await show(page, 110)
  await thumbnail(page, 'ink-on-the-figurehead')

  await openShot(page, "Wind in the figurehead's hair", 'Look')
  await show(page, 100)
  await page.waitForTimeout(5000)
  await thumbnail(page, 'wind-in-the-figurehead-s-hair')
  await goTo(page, 'Masks')
  await page.getByRole('button', { name: /^Hair/ }).click()
  await page.waitForFunction(() => (globalThis as unknown as Inside).tangle.engine.arrows() !== null)
  await page.waitForTimeout(6000)
  await picture(page, 'combing')

  await openShot(page, 'Beacon to dust', 'Motion')
  await show(page, 118)
  await thumbnail(page, 'beacon-to-dust')
  await page
    .getByRole('group', { name: 'Turbulence', exact: true })
    .getByRole('button', { name: 'Turbulence', exact: true })
    .click()
  await page.waitForTimeout(800)
  await page.keyboard.press('c')
  await page.waitForTimeout(2500)
  await picture(page, 'charts')
  await page.keyboard.press('p')
  await page.waitForTimeout(1200)
  await picture(page, 'table')
  await page.keyboard.press('p')
  await goTo(page, 'Masks')
  await page.getByRole('button', { name: 'Without ragged' }).click()
  await page.waitForTimeout(4000)
  await picture(page, 'masks')
  await goTo(page, 'Motion')
  await page.getByRole('button', { name: 'Light theme' }).click()
  await page.mouse.move(640, 300)
  await page.waitForTimeout(1200)
  await picture(page, 'motion-light')
  await page.getByRole('button', { name: 'Dark theme' }).click()
  await page.goto('/')
  await page.waitForTimeout(1200)
  await picture(page, 'shots')
})

/** The frame at which each recipe is pictured, made for the shapes that it offers first. */
const RECIPES: [name: string, slug: string, frame: number][] = [
  ['Turn to dust', 'dust', 80],
  ['Wipe away and back', 'wipe', 66],
  ['Morph into', 'morph', 90],
  ['Swarm to and leave', 'swarm', 60],
  ['Streams over a surface', 'streams', 120],
  ['Keep a crowd apart', 'crowd', 220],
  ['Pile up', 'pile', 110],
  ['Collapse to sand', 'sand', 40],
  ['Cut', 'cut', 100],
  ['Snow over', 'snow', 260],
  ['Break and mend', 'mend', 40],
  ['Shell away', 'shell', 75],
  ['Scan', 'scan', 110],
  ['Wake', 'wake', 120],
  ['Fill and settle', 'fill', 24],
  ['Living clump', 'clump', 60],
]

test('pictures of the recipes', async ({ page }) => {
  for (const [name, slug, frame] of RECIPES) {
    await page.goto('/')
    await page.getByRole('button', { name: 'Start from a recipe…' }).click()
    await page.getByRole('button', { name: new RegExp(`^${name}`) }).click()
    await page.getByRole('button', { name: 'Make it' }).click()
    await page.waitForURL(/motion$/)
    await page.keyboard.press('Space')
    await show(page, frame)
    await thumbnail(page, slug, 'apps/web/public/recipes')
  }
})

test('the demo’s shots move in the list', async ({ page }) => {
  test.setTimeout(3_600_000)
  const shots = (await (await page.request.get('/api/shots')).json()) as { id: string; name: string }[]
  // recipes have left shots of theirs
  for (const { id, name } of shots.filter((one) => one.name !== 'New shot')) {
    const { document } = (await (await page.request.get(`/api/shots/${id}`)).json()) as { document: Shot }
    await page.goto(`/shots/${id}/look`)
    await show(page, document.frames.last)
    const kept = page.waitForResponse(
      (one) => one.url().endsWith('/strip') && one.request().method() === 'PUT',
      { timeout: 300_000 },
    )
    await page.getByRole('button', { name: 'Play', exact: true }).click()
    await kept
    const strip = await page.request.get(`/api/shots/${id}/strip`)
    const slug = name.toLowerCase().replace(/[^a-z]+/g, '-')
    await writeFile(`demo/thumbnails/${slug}.webp`, await strip.body())
  }
})

/** A sweep of the sparks, seen side by side. */
async function sweep(page: Page): Promise<void> {
  await page.getByRole('button', { name: 'Sweep…' }).click()
  const axis = async (n: number, name: string, values: string): Promise<void> => {
    await page.getByRole('combobox', { name: `Value ${n}` }).fill(name)
    await page.getByRole('option').first().click()
    await page
      .getByLabel(/^Values/)
      .nth(n - 1)
      .fill(values)
  }
  await axis(1, 'Gravity · strength', '0.3, 1')
  await page.getByRole('button', { name: '+ Another value' }).click()
  await axis(2, 'Heat · strength', '0, 2, 5, 12')
  await page.getByRole('button', { name: 'Make 8 takes' }).click()
  await page.getByText('8 of 8 done').waitFor({ timeout: 120_000 })
  await page.getByRole('button', { name: 'Side by side' }).click()
  await page.waitForTimeout(3000)
  await page.getByRole('button', { name: 'Pause', exact: true }).last().click()
  await page.getByRole('slider', { name: 'Frame' }).fill('70')
  await page.waitForTimeout(4000)
  await picture(page, 'sweep')
  await page.getByRole('button', { name: 'Close' }).click()
}

/** Frames of the moving picture, one of each so many, and its width in pixels. */
const MOVING = { first: 24, last: 108, every: 3, width: 480 }

test('the pictures of the README: one of the score, and one that moves', async ({ page }) => {
  await openShot(page, 'Beacon to dust', 'Motion')
  await page
    .getByRole('group', { name: 'Turbulence', exact: true })
    .getByRole('button', { name: 'Turbulence', exact: true })
    .click()
  await show(page, 200)
  await show(page, 118)
  // at rest it is drawn with all there is
  await page.waitForTimeout(9000)
  await picture(page, 'motion')
  await goTo(page, 'Takes')
  await page.getByRole('button', { name: 'Movie…' }).click()
  await page.getByRole('button', { name: 'PNG frames', exact: true }).click()
  await type(page, 'Last frame', String(MOVING.last))
  await type(page, 'First frame', String(MOVING.first))
  const download = page.waitForEvent('download', { timeout: 600_000 })
  await page.getByRole('button', { name: 'Make the movie' }).click()
  const frames = unzipSync(await readFile(await (await download).path()))
  const folder = await mkdtemp(join(tmpdir(), 'tangle-moving-'))
  const some = Object.values(frames).filter((_, n) => n % MOVING.every === 0)
  for (const [n, bytes] of some.entries())
    await writeFile(join(folder, `${String(n).padStart(3, '0')}.png`), bytes)
  const palette = `fps=8,scale=${MOVING.width}:-1:flags=lanczos,split[a][b];[a]palettegen=max_colors=96[p];[b][p]paletteuse=dither=bayer`
  execFileSync('ffmpeg', ['-v', 'error', '-y', '-framerate', '8', '-i', join(folder, '%03d.png'), '-vf', palette, 'docs/beacon.gif']) // prettier-ignore
})
