/** The light of glowing particles in files: colour times brightness, as on the stage, read by others. */
import vtkXMLPolyDataReader from '@kitware/vtk.js/IO/XML/XMLPolyDataReader.js'
import { parse as parseUsda } from '@kroxilon/usda-parser'
import { readShot, type Shot } from '@tangle/core'
import type { Object3D, Points } from 'three'
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js'
import { PLYLoader } from 'three/addons/loaders/PLYLoader.js'
import { EXPORTS, OUR_SPACE, type CachedFrame } from '../src/index.ts'
import { frameIn, shotIn, type Space } from '../src/export/space.ts'
import { framesFrom } from './take.ts'

// the only thing that the reader of vtk.js wants of a browser
Object.assign(globalThis, { Node: { ELEMENT_NODE: 1 } })

const COUNT = 9
const STOPS = { stops: [[0, '#000000'], [1, '#ffffff']] } // prettier-ignore
function shotWith(glow: object | null): Shot {
  const look = { colour: { from: 'speed', range: [1, 5], ramp: STOPS }, glow }
  const read = readShot({ format: 'tangle-shot', version: 1, name: 'Glow', frames: { first: 1, last: 1, rate: 24 }, populations: [{ id: 'sparks', look, attributes: [{ id: 'heat', name: 'Heat', type: 'number', birth: { mean: 0, spread: 0 } }] }] }) // prettier-ignore
  if (read.problems) throw new Error(JSON.stringify(read.problems))
  return read.shot
}
const each = (width: number, value: (i: number, k: number) => number): Float32Array =>
  Float32Array.from({ length: COUNT * width }, (_, n) => value(Math.floor(n / width), n % width))
const frame: CachedFrame = {
  frame: 1,
  populations: [
    {
      id: 'sparks',
      count: COUNT,
      columns: {
        id: Uint32Array.from({ length: COUNT }, (_, i) => i),
        phase: new Uint32Array(COUNT),
        position: each(3, (i, k) => i + k / 10),
        // 0, 1, 2 … m/s
        velocity: each(3, (i, k) => (k === 1 ? i : 0)),
        radius: each(1, () => 0.1),
        age: each(1, (i) => i / 8),
        lifespan: each(1, () => 1),
        opacity: each(1, () => 1),
        'own.heat': each(1, (i) => 300 * i),
      },
    },
  ],
  meshes: [],
}
async function write(kind: string, shot: Shot, space: Space = OUR_SPACE): Promise<Uint8Array> {
  const files = EXPORTS.find((one) => one.kind === kind)!.files(shotIn(space, shot), { ...framesFrom(1, 1, () => frameIn(space, frame)), space }, new Map()) // prettier-ignore
  for await (const { name, pieces } of files) {
    const parts: Uint8Array[] = []
    for await (const piece of pieces) parts.push(piece)
    if (!name.endsWith('.pvd')) return new Uint8Array(Buffer.concat(parts))
  }
  throw new Error('no file')
}
const buffer = (bytes: Uint8Array): ArrayBuffer => bytes.slice().buffer as ArrayBuffer

/** The grey of a ramp from black to white at a share of it, linear: stops are mixed as they are stored. */
async function readers(shot: Shot): Promise<Record<string, number[]>> {
  const loader = new PLYLoader()
  loader.setCustomPropertyNameMapping({ emission: ['emission_red', 'emission_green', 'emission_blue'] })
  const ply = loader.parse(buffer(await write('ply', shot))).getAttribute('emission')
  const scene: Object3D = (await new GLTFLoader().parseAsync(buffer(await write('glb', shot)), '')).scene
  const glb = (scene.getObjectByName('sparks') as Points).geometry.getAttribute('_emission')
  const text = new TextDecoder().decode(await write('usda', shot))
  expect(() => parseUsda(text)).not.toThrow()
  const line = /color3f\[\] primvars:emissiveColor\.timeSamples = \{\n\s*1: \[(.*)\],/.exec(text)
  const vtk = (vtkXMLPolyDataReader as unknown as { newInstance(): { parseAsArrayBuffer(b: ArrayBufferLike): void; getOutputData(n: number): { getPointData(): { getArrayByName(name: string): { getData(): Float32Array } | null } } } }).newInstance() // prettier-ignore
  vtk.parseAsArrayBuffer(buffer(await write('vtp', shot)))
  const vtp = vtk.getOutputData(0).getPointData().getArrayByName('emission')
  return {
    // where a file has no such property the reader says that each is no number
    ...(ply && !Number.isNaN(ply.array[0]) ? { ply: Array.from(ply.array) } : {}),
    ...(glb ? { glb: Array.from(glb.array) } : {}),
    ...(line ? { usd: line[1]!.match(/-?[\d.]+(?:e[+-]?\d+)?/gi)!.map(Number) } : {}),
    ...(vtp ? { vtp: Array.from(vtp.getData()) } : {}),
  }
}

/** Where on the ramp each is: speeds 0 … 8 in a range of 1 to 5. */
const onRamp = (i: number): number => Math.min(1, Math.max(0, (i - 1) / 4))

test.each([
  ['even', () => 1],
  ['life', (i: number) => Math.max(0, 1 - i / 8)],
  ['speed', (i: number) => Math.min(1, i / 4)],
  ['value', onRamp],
  ['attribute', (i: number) => Math.min(1, i / 5)],
] as [string, (i: number) => number][])(
  'light that is brighter by %s: strength × brightness × colour, in PLY, glTF, USD and VTK',
  async (by, brightness) => {
    const found = await readers(
      shotWith({
        strength: 3,
        by,
        speed: 4,
        halo: 2,
        ...(by === 'attribute' ? { attribute: 'heat', full: 1500 } : {}),
      }),
    )
    expect(Object.keys(found).sort()).toEqual(['glb', 'ply', 'usd', 'vtp'])
    for (const values of Object.values(found)) {
      expect(values).toHaveLength(COUNT * 3)
      for (let i = 0; i < COUNT; i++) {
        const [r, g, b] = values.slice(i * 3)
        expect([g, b]).toEqual([r, r])
        // black and white ends are the same however a ramp is mixed
        if (onRamp(i) === 0) expect(r).toBe(0)
        if (onRamp(i) === 1) expect(r).toBeCloseTo(3 * brightness(i), 5)
      }
    }
    expect(found.glb).toEqual(found.ply)
    expect(found.vtp).toEqual(found.ply)
  },
)

test('in centimetres it is as bright; who gives no light has none in files', async () => {
  const glow = { strength: 2, by: 'speed', speed: 8, halo: 2 }
  const text = async (space: Space): Promise<string> => new TextDecoder().decode(await write('usda', shotWith(glow), space)) // prettier-ignore
  const light = (of: string): string => /emissiveColor\.timeSamples = \{\n\s*1: (\[.*\]),/.exec(of)![1]!
  expect(light(await text({ unit: 'cm', up: 'y' }))).toBe(light(await text(OUR_SPACE)))
  expect(await readers(shotWith(null))).toEqual({})
  expect(await readers(shotWith({ strength: 0, by: 'even', speed: 1, halo: 2 }))).toEqual({})
})
