/** Texture coordinates of meshes in USD: as they are in the file, in text and crate, read by others. */
import { parse as parseUsda } from '@kroxilon/usda-parser'
import { completeMesh, type Mesh, type MeshFrame } from '@tangle/core'
import { execFileSync } from 'node:child_process'
import { EXPORTS, OUR_SPACE, type Frames } from '../src/index.ts'
import { shot } from './take.ts'

// it is made for pages
Object.assign(globalThis, { Node: { ELEMENT_NODE: 1 } })

const asset = `sha256:${'5'.repeat(64)}`
const mesh: Mesh = {
  positions: new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]),
  triangles: new Uint32Array([0, 1, 2, 0, 2, 3]),
  uvs: new Float32Array([0, 0, 1, 0, 1, 0.5, 0, 0, 1, 0.5, 0.25, 0.75]),
}
async function written(kind: string, more: object, triangles = mesh.triangles): Promise<Uint8Array> {
  const box = completeMesh({ id: 'card', source: { asset }, ...more } as never)
  const at = (frame: number): MeshFrame => ({ id: 'card', positions: mesh.positions.map((x) => x + frame), triangles }) // prettier-ignore
  const frames = { first: 1, last: 3, times: [1, 2, 3], digits: 4, space: OUR_SPACE, read: (frame: number) => Promise.resolve({ frame, populations: [], meshes: [at(frame)] }) } // prettier-ignore
  const pieces: Uint8Array[] = []
  const { files } = EXPORTS.find((one) => one.kind === kind)!
  for await (const file of files(
    { ...shot, populations: [], meshes: [box] },
    frames as unknown as Frames,
    new Map([[asset, mesh]]),
  ))
    // prettier-ignore
    for await (const piece of file.pieces) pieces.push(piece)
  return Buffer.concat(pieces)
}
const asText = (crate: Uint8Array): string =>
  execFileSync(process.execPath, [`${import.meta.dirname}/crateAsText.mjs`], { input: crate, encoding: 'utf8', maxBuffer: 2 ** 28 }) // prettier-ignore
const numbersIn = (text: string): number[] => (text.match(/-?[\d.]+(e-?\d+)?/g) ?? []).map(Number)

const TURNED = [0, 0, 1, 0.5, 1, 0, 0, 0, 0.25, 0.75, 1, 0.5]
test.each([
  ['as it is', mesh.triangles, [...mesh.uvs!]],
  ['mirrored', new Uint32Array([0, 2, 1, 0, 3, 2]), TURNED],
])('%s: each corner has its own, once for all frames in text', async (_, triangles, expected) => {
  const text = new TextDecoder().decode(await written('usda', {}, triangles))
  const [, list] = /texCoord2f\[\] primvars:st = \[([^\]]*)\]/.exec(text)!
  expect(numbersIn(list!)).toEqual(expected)
  expect(text).toMatch(/primvars:st = \[[^\]]*\] \(\s*interpolation = "faceVarying"/)
  expect(text.match(/primvars:st/g)).toHaveLength(1)
  expect(parseUsda(text)).toBeTruthy()
  const crate = asText(await written('usdc', {}, triangles))
  expect(crate).toMatch(/texCoord2f\[\] primvars:st/)
  expect(crate).toMatch(/interpolation = "faceVarying"/)
  const [, first] = /primvars:st(?:\.timeSamples)? = (?:\{\s*[\d.]+:)?\s*\[([^\]]*)\]/.exec(crate)!
  expect(numbersIn(first!)).toEqual(expected)
})

test.each([
  ['eaten', { eaten: { mask: 'm', level: 0.5 } }, mesh.triangles],
  ['with other triangles than in its file', {}, mesh.triangles.slice(3)],
])('a mesh that is %s has none', async (_, more, triangles) => {
  expect(new TextDecoder().decode(await written('usda', more, triangles))).not.toMatch(/primvars:st/)
})

test('clips have them, too', async () => {
  const clips = new TextDecoder('latin1').decode(await written('usd-clips', {}))
  expect(clips).toMatch(/primvars:st/)
})
