/** An artist's own attributes in files: as they were computed, under their own names, read by others too. */
import { parse as parseUsda } from '@kroxilon/usda-parser'
import { readShot, type Shot } from '@tangle/core'
import { PLYLoader } from 'three/addons/loaders/PLYLoader.js'
import { framesFrom } from './take.ts'
import { codecReady, decodeFrame, encodeFrame, EXPORTS, type CachedFrame } from '../src/index.ts'

const attributes = [
  { id: 'pace', name: 'Pace', type: 'number', unit: 'm/s', birth: { mean: 1.3, spread: 0.2 } },
  { id: 'group', name: 'Group', type: 'whole', birth: { low: 0, high: 9 } },
  { id: 'heading', name: 'Heading', type: 'vector', birth: { mean: [0, 0, 1], spread: 0 } },
  { id: 'paint', name: 'Paint', type: 'colour', birth: { mean: '#ff8000', spread: 0 } },
]
const COUNT = 37
const shotOf = (colour: object): Shot => {
  const read = readShot({
    format: 'tangle-shot',
    version: 1,
    name: 'Own',
    frames: { first: 1, last: 2, rate: 24 },
    populations: [{ id: 'crowd', attributes, look: { colour } }],
  })
  if (read.problems) throw new Error(JSON.stringify(read.problems))
  return read.shot
}
const plain = shotOf({ from: 'age', range: [0, 1], ramp: 'ember' })
const fill = (width: number, value: (k: number) => number): Float32Array =>
  Float32Array.from({ length: COUNT * width }, (_, k) => value(k))
/** Awkward numbers: tiny, huge, negative zero; whole ones up to where f32 holds them. */
const own = (frame: number) => ({
  'own.pace': fill(1, (k) => [1e-20, -3.5e7, -0, 1 / 3][k % 4]! + frame),
  'own.group': fill(1, (k) => (k === 5 ? 2 ** 24 : k)),
  'own.heading': fill(3, (k) => Math.sin(k) * frame),
  'own.paint': fill(3, (k) => (k % 3) / 2),
})
const frameAt = (frame: number): CachedFrame => ({
  frame,
  populations: [
    {
      id: 'crowd',
      count: COUNT,
      columns: {
        id: Uint32Array.from({ length: COUNT }, (_, i) => 3_000_000_000 + i),
        phase: new Uint32Array(COUNT),
        position: fill(3, (k) => k / 7 - frame),
        velocity: fill(3, () => frame),
        radius: fill(1, () => 0.2),
        age: fill(1, (k) => k / 24),
        lifespan: fill(1, () => Infinity),
        ...own(frame),
      },
    },
  ],
  meshes: [],
})
const frames = framesFrom(1, 2, frameAt)
async function write(kind: string, shot = plain): Promise<Map<string, Uint8Array>> {
  const files = new Map<string, Uint8Array>()
  for await (const { name, pieces } of EXPORTS.find((one) => one.kind === kind)!.files(
    shot,
    frames,
    new Map(),
  )) {
    const parts: Uint8Array[] = []
    for await (const piece of pieces) parts.push(piece)
    files.set(name, new Uint8Array(Buffer.concat(parts)))
  }
  return files
}

test('the frame codec keeps every bit of them', async () => {
  await codecReady()
  const { populations } = decodeFrame(encodeFrame(frameAt(2), { rate: 24, before: null }).bytes)
  const columns = populations[0]!.columns as Record<string, Float32Array>
  for (const [name, values] of Object.entries(own(2)))
    expect(new Uint32Array(columns[name]!.slice().buffer)).toEqual(new Uint32Array(values.buffer))
})

test('PLY: an independent reader finds each under its name, vectors and colours part by part', async () => {
  const files = await write('ply')
  const loader = new PLYLoader()
  const names = { pace: ['pace'], group: ['group'], heading: ['heading_x', 'heading_y', 'heading_z'], paint: ['paint_r', 'paint_g', 'paint_b'] } // prettier-ignore
  loader.setCustomPropertyNameMapping(names)
  const [first] = [...files.values()]
  const geometry = loader.parse(first!.buffer.slice(first!.byteOffset, first!.byteOffset + first!.byteLength) as ArrayBuffer) // prettier-ignore
  for (const [name, values] of Object.entries(own(1)))
    expect(Array.from(geometry.getAttribute(name.slice(4)).array)).toEqual(Array.from(values))
})

test('USD: a parser finds primvars of the types of the schema', async () => {
  const [text] = [...(await write('usda')).values()].map((bytes) => new TextDecoder().decode(bytes))
  expect(text).toMatch(/float\[\] primvars:pace\.timeSamples = \{/)
  expect(text).toMatch(/int\[\] primvars:group\.timeSamples = \{/)
  expect(text).toMatch(/float3\[\] primvars:heading\.timeSamples = \{/)
  expect(text).toMatch(/color3f\[\] primvars:paint\.timeSamples = \{/)
  expect(() => parseUsda(text!)).not.toThrow()
  // one value a particle: primvars vary with the points
  expect(text!.match(/interpolation = "vertex"/g)!.length).toBeGreaterThanOrEqual(4)
  const samples = (name: string): number[] => {
    const [, line] = new RegExp(`primvars:${name}\\.timeSamples = \\{\\n\\s*1: \\[(.*)\\],`).exec(text!)!
    return line!.match(/-?[\d.]+(?:e[+-]?\d+)?/gi)!.map(Number)
  }
  expect(samples('group')).toEqual(Array.from(own(1)['own.group']))
  expect(samples('heading').map(Math.fround)).toEqual(Array.from(own(1)['own.heading']))
  expect(samples('pace').map(Math.fround)).toEqual(Array.from(own(1)['own.pace']))
})

test.each([
  [
    'a number of theirs through the ramp',
    { from: 'attribute', attribute: 'group', range: [0, 36], ramp: 'ember' },
  ],
  [
    'the length of a vector of theirs',
    { from: 'attribute', attribute: 'heading', range: [1, 1.5], ramp: 'ember' },
  ],
  ['a colour of theirs, as it is', { from: 'attribute', attribute: 'paint', range: [0, 1], ramp: 'ember' }],
])('displayColor is by %s', async (_, colour) => {
  const shot = shotOf(colour)
  const [text] = [...(await write('usda', shot)).values()].map((bytes) => new TextDecoder().decode(bytes))
  const [, line] = /primvars:displayColor\.timeSamples = \{\n\s*1: \[(.*)\],/.exec(text!)!
  const rgb = line!.match(/-?[\d.]+(?:e[+-]?\d+)?/gi)!.map(Number)
  expect(rgb).toHaveLength(COUNT * 3)
  expect(rgb.every((part) => part >= 0 && part <= 1)).toBe(true)
  if (colour.attribute === 'paint') expect(rgb.map(Math.fround)).toEqual(Array.from(own(1)['own.paint']))
  else expect(new Set(Array.from({ length: COUNT }, (_, i) => rgb.slice(i * 3, i * 3 + 3).join())).size).toBeGreaterThan(10) // prettier-ignore
})
