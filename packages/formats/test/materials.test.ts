/** The look of a mesh as a material in USD, read by others: tinyusdz from the crate, a parser of its own from the text. */
import { parse as parseUsda } from '@kroxilon/usda-parser'
import { completeMesh, type MeshLook } from '@tangle/core'
import { execFileSync } from 'node:child_process'
import { EXPORTS, OUR_SPACE, type Frames } from '../src/index.ts'
import { framesFrom, frameOf, shot, withAll, write } from './take.ts'

// it is made for pages
Object.assign(globalThis, { Node: { ELEMENT_NODE: 1 } })

const triangle = { id: 'rock', positions: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]), triangles: new Uint32Array([0, 1, 2]) } // prettier-ignore
async function written(kind: string, look: Partial<MeshLook>): Promise<Uint8Array> {
  const mesh = completeMesh({
    id: 'rock',
    source: { asset: `sha256:${'1'.repeat(64)}` },
    look: look as MeshLook,
  })
  const frames = { first: 1, last: 2, times: [1, 2], digits: 4, space: OUR_SPACE, read: (frame: number) => Promise.resolve({ frame, populations: [], meshes: [triangle] }) } // prettier-ignore
  const format = EXPORTS.find((one) => one.kind === kind)!
  const pieces: Uint8Array[] = []
  for await (const file of format.files(
    { ...shot, populations: [], meshes: [mesh] },
    frames as unknown as Frames,
    new Map(),
  ))
    for await (const piece of file.pieces) pieces.push(piece)
  return Buffer.concat(pieces)
}
const asText = (crate: Uint8Array): string =>
  execFileSync(process.execPath, [`${import.meta.dirname}/crateAsText.mjs`], { input: crate, encoding: 'utf8', maxBuffer: 2 ** 28 }) // prettier-ignore
const numbers = (text: string, declaration: string): number[] =>
  (new RegExp(`${declaration.replace(/[:.]/g, '\\$&')} = ([^\\n]*)`).exec(text)?.[1]?.match(/-?[\d.]+(e-?\d+)?/g) ?? []).map(Number) // prettier-ignore

test.each<[Partial<MeshLook>, Record<string, number[]>]>([
  [
    { colour: '#ff0000', roughness: 0.25, metalness: 1 },
    {
      'color3f inputs:diffuseColor': [1, 0, 0],
      'float inputs:roughness': [0.25],
      'float inputs:metallic': [1],
      'float inputs:opacity': [1],
      'float inputs:ior': [],
    },
  ],
  [
    { colour: '#808080', opacity: 0.5, glass: 0.5 },
    {
      'color3f inputs:diffuseColor': [0.2159, 0.2159, 0.2159],
      'float inputs:roughness': [0.85],
      'float inputs:metallic': [0],
      'float inputs:opacity': [0.25],
      'float inputs:ior': [1.5],
    },
  ],
])('%j is the same material in text and crate', async (look, expected) => {
  const text = new TextDecoder().decode(await written('usda', look))
  const crate = asText(await written('usdc', look))
  for (const one of [text, crate]) {
    for (const [declaration, values] of Object.entries(expected)) {
      const found = numbers(one, declaration)
      expect(found).toHaveLength(values.length)
      found.forEach((x, k) => expect(x).toBeCloseTo(values[k]!, 4))
    }
    expect(one).toMatch(/prepend apiSchemas = \["MaterialBindingAPI"\]/)
    expect(one).toMatch(/rel material:binding = <\/Two_counts\/rock_mesh\/look>/)
    expect(one).toMatch(
      /token outputs:surface\.connect = <\/Two_counts\/rock_mesh\/look\/surface\.outputs:surface>/,
    )
    expect(one).toMatch(/uniform token info:id = "UsdPreviewSurface"/)
    expect(one).toMatch(/def Shader "surface"/)
  }
  // nothing in the text is beyond a reader of the language
  expect(() => parseUsda(text)).not.toThrow()
})

test('who has the colours of its vertices has no material, and is read back as it was', async () => {
  for (const kind of ['usda', 'usdc']) {
    const bytes = await written(kind, { colours: 'vertices' })
    const text = kind === 'usda' ? new TextDecoder().decode(bytes) : asText(bytes)
    expect(text).not.toContain('Material')
    const withLook = await written(kind, { metalness: 1 })
    for (const one of [bytes, withLook]) {
      const frames = []
      for await (const frame of EXPORTS.find((f) => f.kind === kind)!.readBack(() => Promise.resolve(one), ['a'])) frames.push(frame) // prettier-ignore
      expect(frames.map(({ meshes }) => meshes.map(({ id }) => id))).toEqual([['rock'], ['rock']])
      expect(Array.from(frames[1]!.meshes[0]!.positions)).toEqual(Array.from(triangle.positions))
    }
  }
})

test('instances are bound to the look of their mesh each, unless something colours particles', async () => {
  await withAll(async (sources) => {
    const [, spray] = shot.populations
    Object.assign(shot.meshes[0]!.look, { colour: '#ff0000', roughness: 0.2 })
    const plain = framesFrom(5, 5, (frame) => {
      const now = frameOf(frame)
      delete now.populations[1]!.columns.colour
      return now
    })
    const told = async (kind: string, from: 'own' | 'speed'): Promise<string> => {
      spray!.look = { ...spray!.look, colour: { ...spray!.look.colour, from } }
      const [bytes] = [...(await write(kind, sources, plain)).values()]
      return kind === 'usda' ? new TextDecoder().decode(bytes) : asText(bytes!)
    }
    for (const kind of ['usda', 'usdc']) {
      const text = await told(kind, 'own')
      if (kind === 'usda') expect(() => parseUsda(text)).not.toThrow()
      const bound = [...text.matchAll(/rel material:binding = <([^>]*)>/g)].map(([, path]) => path)
      expect(bound).toEqual(['bolt_0', 'nut_1'].map((name) => `/Two_counts/spray_2/${name}/look`))
      expect([...text.matchAll(/prepend apiSchemas = \["MaterialBindingAPI"\]/g)]).toHaveLength(2)
      expect(numbers(text, 'color3f inputs:diffuseColor')).toEqual([1, 0, 0])
      expect(await told(kind, 'speed')).not.toContain('material:binding')
    }
  })
})
