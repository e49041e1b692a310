/** Light: what is seen of it in the picture. */
import { expect, test, type Page } from '@playwright/test'
import { crc32, deflateSync } from 'node:zlib'
import { apart, ballObj, choose, drop, goTo, newShot, openShot, still, type, type Inside } from './help.ts'

/** Mean brightness of the ground left and right of what stands in the middle. */
async function groundBeside(page: Page): Promise<[left: number, right: number]> {
  const picture = await still(page)
  const mean = (from: number, to: number): number => {
    const those = picture.filter((_, i) => i % 48 >= from && i % 48 < to && i >= 48 * 12 && i < 48 * 18)
    return those.reduce((sum, x) => sum + x, 0) / those.length
  }
  return [mean(8, 18), mean(30, 40)]
}

test('the sun throws a shadow on the ground, on the other side; plain pictures have none', async ({
  page,
}) => {
  page.setDefaultTimeout(20_000)
  await newShot(page)
  await drop(page, 'float.obj', Buffer.from(ballObj(0.5)))
  await expect(page.getByTestId('mesh-facts')).toContainText('1 × 1 × 1 m')
  // without the ball itself, its shadow alone is in the picture
  await page.getByRole('button', { name: 'its shadow', exact: true }).click()
  await page.keyboard.press('Control+k')
  await page.getByRole('combobox', { name: 'Find' }).fill('look from above')
  await page.keyboard.press('Enter')
  await goTo(page, 'Look')
  await page.getByRole('button', { name: 'Paper', exact: true }).click()
  await type(page, 'Height', '20')
  await type(page, 'Bearing', '-90')
  const [left, right] = await groundBeside(page)
  expect(left).toBeGreaterThan(right + 8)
  await type(page, 'Bearing', '90')
  const [lit, shaded] = (await groundBeside(page)).toReversed() as [number, number]
  expect(lit).toBeGreaterThan(shaded + 8)

  const shadows = await still(page)
  await page.getByRole('button', { name: 'plain', exact: true }).click()
  const plain = await still(page)
  expect(apart(plain, shadows)).toBeGreaterThan(2)
  const [one, other] = await groundBeside(page)
  expect(Math.abs(one - other)).toBeLessThan(4)
  // a stop more is brighter
  await type(page, 'Exposure', '-2')
  const dark = await still(page)
  const sum = (all: number[]): number => all.reduce((a, b) => a + b, 0)
  expect(sum(dark)).toBeLessThan(0.75 * sum(plain))
})

/** A PNG one pixel high, grey (PNG, third edition). */
function png(pixels: number[]): Buffer {
  const chunk = (name: string, data: Buffer): Buffer => {
    const body = Buffer.concat([Buffer.from(name, 'latin1'), data])
    const [length, check] = [Buffer.alloc(4), Buffer.alloc(4)]
    length.writeUInt32BE(data.length)
    check.writeUInt32BE(crc32(body))
    return Buffer.concat([length, body, check])
  }
  const head = Buffer.alloc(13)
  head.writeUInt32BE(pixels.length)
  head.writeUInt32BE(1, 4)
  head[8] = 8
  const rows = deflateSync(Buffer.from([0, ...pixels]))
  return Buffer.concat([Buffer.from('\x89PNG\r\n\x1a\n', 'latin1'), chunk('IHDR', head), chunk('IDAT', rows), chunk('IEND', Buffer.alloc(0))]) // prettier-ignore
}

/** A sheet two metres wide with a picture on it, facing along z (glTF 2.0, binary). */
function sheetGlb(picture: Buffer): Buffer {
  const parts = [
    Buffer.from(new Float32Array([-1, 0, 0, 1, 0, 0, 1, 2, 0, -1, 2, 0]).buffer),
    Buffer.from(new Float32Array([0, 1, 1, 1, 1, 0, 0, 0]).buffer),
    Buffer.from(new Uint16Array([0, 1, 2, 0, 2, 3]).buffer),
    picture,
  ]
  const padded = (bytes: Buffer, filler = 0): Buffer => Buffer.concat([bytes, Buffer.alloc(-bytes.length & 3, filler)]) // prettier-ignore
  let offset = 0
  const bufferViews = parts.map((part) => {
    const view = { buffer: 0, byteOffset: offset, byteLength: part.length }
    offset += padded(part).length
    return view
  })
  const accessor = (bufferView: number, componentType: number, count: number, type: string) => ({ bufferView, componentType, count, type }) // prettier-ignore
  const json = padded(Buffer.from(JSON.stringify({
    asset: { version: '2.0' },
    scene: 0,
    scenes: [{ nodes: [0] }],
    nodes: [{ mesh: 0 }],
    meshes: [{ primitives: [{ attributes: { POSITION: 0, TEXCOORD_0: 1 }, indices: 2, material: 0 }] }],
    materials: [{ pbrMetallicRoughness: { baseColorTexture: { index: 0 } } }],
    textures: [{ source: 0 }],
    images: [{ bufferView: 3, mimeType: 'image/png' }],
    accessors: [{ ...accessor(0, 5126, 4, 'VEC3'), min: [-1, 0, 0], max: [1, 2, 0] }, accessor(1, 5126, 4, 'VEC2'), accessor(2, 5123, 6, 'SCALAR')],
    bufferViews,
    buffers: [{ byteLength: offset }],
  })), 32) // prettier-ignore
  const binary = Buffer.concat(parts.map((part) => padded(part)))
  const words = (...all: number[]): Buffer => Buffer.from(new Uint32Array(all).buffer)
  return Buffer.concat([words(0x46546c67, 2, 28 + json.length + binary.length), words(json.length, 0x4e4f534a), json, words(binary.length, 0x004e4942), binary]) // prettier-ignore
}

test('a GLB is seen with the picture of its material, left and right as it lies, until another colour is chosen', async ({
  page,
}) => {
  page.setDefaultTimeout(20_000)
  await newShot(page)
  await drop(page, 'sheet.glb', sheetGlb(png([0, 0, 255, 255])))
  await expect(page.getByTestId('mesh-facts')).toContainText('2 × 2 × 0 m')
  await page.keyboard.press('Control+k')
  await page.getByRole('combobox', { name: 'Find' }).fill('look from the front')
  await page.keyboard.press('Enter')
  /** Of the two halves of the sheet, which fills the middle. */
  const halves = async (): Promise<[number, number]> => {
    const picture = await still(page)
    const mean = (from: number, to: number): number => {
      const those = picture.filter((_, i) => i % 48 >= from && i % 48 < to && i >= 48 * 11 && i < 48 * 19)
      return those.reduce((sum, x) => sum + x, 0) / those.length
    }
    return [mean(18, 22), mean(26, 30)]
  }
  const [black, white] = await halves()
  expect(white).toBeGreaterThan(black + 200)
  await choose(page, 'Colour from', 'one')
  const [left, right] = await halves()
  expect(Math.abs(left - right)).toBeLessThan(10)
  await choose(page, 'Colour from', 'its materials')
  expect((await halves())[1]).toBeCloseTo(white, -1)
})

test('glass is drawn: every program that its stage asks for can be made', async ({ page }) => {
  const failed: string[] = []
  page.on('console', (message) => {
    if (message.text().includes('Shader Error')) failed.push(message.text())
  })
  await openShot(page, 'The storm glass', 'Meshes')
  await page.waitForFunction(() => ((globalThis as unknown as Inside).tangle.engine.computedTo() ?? -1) >= 1)
  const bytes = await page.evaluate(
    async () => (await (globalThis as unknown as Inside).tangle.engine.picture())!.size,
  )
  expect([failed, bytes > 2000]).toEqual([[], true])
})
