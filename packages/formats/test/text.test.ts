/** Lettering: closed by our own count and by manifold-3d, of the size that was asked for. */
import { meshFacts } from '@tangle/core'
import loadManifold from 'manifold-3d'
import { readFile } from 'node:fs/promises'
import { createRequire } from 'node:module'
import { textMesh } from '../src/index.ts'

const { resolve } = createRequire(import.meta.url)
async function fontOf(weight: number): Promise<ArrayBuffer> {
  const bytes = await readFile(resolve(`@fontsource/figtree/files/figtree-latin-${weight}-normal.woff`))
  return new Uint8Array(bytes).buffer
}

test.each([
  ['HERON QUAY', 800, 0.012],
  ['88% & ½ B@', 300, 0],
  ['Slipway\nNo. 3', 500, 0.02],
])('%p is a closed mesh of the size asked for', async (text, weight, bevel) => {
  const mesh = textMesh({ text, weight, size: 0.5, depth: 0.1, bevel }, await fontOf(weight))
  const facts = meshFacts(mesh)
  expect([facts.openEdges, facts.crowdedEdges]).toEqual([0, 0])
  expect(facts.high[2] - facts.low[2]).toBeCloseTo(0.1, 5)
  const wasm = await loadManifold()
  wasm.setup()
  const solid = new wasm.Manifold(
    new wasm.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles }),
  )
  expect(solid.status()).toBe('NoError')
  expect(solid.volume()).toBeGreaterThan(0)
  solid.delete()
})

test('a capital letter has the height asked for, and lettering without letters is refused', async () => {
  const font = await fontOf(700)
  const { low, high } = meshFacts(textMesh({ text: 'H', weight: 700, size: 2, depth: 0.1, bevel: 0 }, font))
  expect([low[1], high[1]]).toEqual([expect.closeTo(0, 4), expect.closeTo(2, 4)])
  expect(() => textMesh({ text: '  ', weight: 700, size: 1, depth: 1, bevel: 0 }, font)).toThrow(/no letter/)
})
