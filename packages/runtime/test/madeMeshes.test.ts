import 'fake-indexeddb/auto'
import { madeMeshes } from '../src/browser/madeMeshes.ts'
import type { MadeMesh } from '../src/shared/derived.ts'

const made = (key: string, x = 1): MadeMesh => ({
  key,
  mesh: { positions: Float32Array.of(x, 2, 3), triangles: Uint32Array.of(0, 0, 0) },
  facts: { vertices: 1 } as MadeMesh['facts'],
})

test('what was made is found again, to the bit, by another page; what was not, is not', async () => {
  await madeMeshes('maker-1').keep(made('bunny in 30', 0.1))
  expect(await madeMeshes('maker-1').find('bunny in 30')).toEqual(made('bunny in 30', 0.1))
  expect(await madeMeshes('maker-1').find('bunny in 31')).toBeUndefined()
})

test('what another program made counts for nothing, and goes as soon as this one keeps something', async () => {
  await madeMeshes('maker-1').keep(made('vase'))
  expect(await madeMeshes('maker-2').find('vase')).toBeUndefined()
  await madeMeshes('maker-2').keep(made('jar'))
  expect(await madeMeshes('maker-1').find('vase')).toBeUndefined()
  expect(await madeMeshes('maker-2').find('jar')).toEqual(made('jar'))
})

test('those that nobody asks for make room', async () => {
  let now = 0
  const store = madeMeshes('maker-3', () => now)
  for (; now < 30; now++) {
    await store.keep(made(`one ${now}`))
    if (now === 20) await store.find('one 0')
  }
  const left = await Promise.all(Array.from({ length: 30 }, (_, n) => store.find(`one ${n}`)))
  expect(left.flatMap((found, n) => (found ? [n] : []))).toEqual([0, ...Array.from({ length: 23 }, (_, n) => n + 7)]) // prettier-ignore
})

test('a browser that keeps nothing makes them anew', async () => {
  const { open } = indexedDB
  indexedDB.open = () => {
    throw new DOMException('no room', 'QuotaExceededError')
  }
  const store = madeMeshes('maker-4')
  await expect(store.keep(made('urn'))).resolves.toBeUndefined()
  await expect(store.find('urn')).resolves.toBeUndefined()
  indexedDB.open = open
})
