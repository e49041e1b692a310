/** Which faces of a mesh are those of a cut: kept in frames, and told in files, read by others. */
import vtkXMLPolyDataReader from '@kitware/vtk.js/IO/XML/XMLPolyDataReader.js'
import { parse as parseUsda } from '@kroxilon/usda-parser'
import { readShot, type MeshFrame, type Shot } from '@tangle/core'
import { validateBytes } from 'gltf-validator'
import { Mesh, type MeshStandardMaterial, type Object3D } from 'three'
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js'
import { codecReady, decodeFrame, encodeFrame, EXPORTS, type CachedFrame } from '../src/index.ts'
import { readPly } from '../src/ply.ts'
import { fileOf, framesFrom, writtenFiles } from './take.ts'

// it is made for pages
Object.assign(globalThis, { Node: { ELEMENT_NODE: 1 } })

const read = readShot({
  format: 'tangle-shot',
  version: 1,
  name: 'Cut',
  frames: { first: 1, last: 3, rate: 24 },
  meshes: ['bell', 'knife'].map((id) => ({
    id,
    source: { asset: `sha256:${'0'.repeat(64)}` },
    ...(id === 'bell' ? { cut: { by: 'knife', keep: 'rest' } } : {}),
  })),
})
const shot = read.shot as Shot

/** A strip of 6 triangles: whole at frame 1, two faces of a cut at frame 2, nothing left at frame 3. */
const bellAt = (frame: number): MeshFrame => ({
  id: 'bell',
  positions: Float32Array.from({ length: frame === 3 ? 0 : 24 }, (_, i) => Math.sin(i + frame)),
  triangles: Uint32Array.from({ length: frame === 3 ? 0 : 18 }, (_, k) => Math.floor(k / 3) + (k % 3)),
  ...(frame === 1 ? {} : { inner: frame === 3 ? 0 : 4 }),
})
const frameAt = (frame: number): CachedFrame => ({ frame, populations: [], meshes: [bellAt(frame)] })
const write = (kind: string) => writtenFiles(kind, shot, framesFrom(1, 3, frameAt))

test('frames keep it, key frames and those that follow', async () => {
  await codecReady()
  const first = encodeFrame(frameAt(2), { rate: 24, before: null })
  // the same triangles again: only the number is written anew
  const again = encodeFrame({ ...frameAt(2), frame: 3 }, { rate: 24, before: first.decoded })
  expect(decodeFrame(first.bytes).meshes).toEqual([bellAt(2)])
  expect(decodeFrame(again.bytes, first.decoded).meshes).toEqual([bellAt(2)])
  expect(decodeFrame(encodeFrame(frameAt(1), { rate: 24, before: null }).bytes).meshes).toEqual([bellAt(1)])
})

test('PLY: a number of each face', async () => {
  const files = await write('ply')
  const cut = (frame: string) =>
    readPly(fileOf(files, `bell.mesh.${frame}`)).find(({ name }) => name === 'face')!
  expect(Array.from(cut('0002').columns.cut!)).toEqual([0, 0, 0, 0, 1, 1])
  expect(Array.from(cut('0002').lists.vertex_indices!.values)).toEqual(Array.from(bellAt(2).triangles))
  // whole: no faces of a cut
  expect(cut('0001').columns.cut).toBeUndefined()
})

test('VTK: an array of cells', async () => {
  const reader = (vtkXMLPolyDataReader as unknown as { newInstance(): { parseAsArrayBuffer(b: ArrayBufferLike): void; getOutputData(n: number): { getCellData(): { getArrayByName(name: string): { getData(): Uint8Array } } } } }).newInstance() // prettier-ignore
  reader.parseAsArrayBuffer(fileOf(await write('vtp'), 'bell.mesh.0002').slice().buffer)
  expect(Array.from(reader.getOutputData(0).getCellData().getArrayByName('cut').getData())).toEqual([0, 0, 0, 0, 1, 1]) // prettier-ignore
})

test('USD: a primvar of faces, in every frame', async () => {
  const text = new TextDecoder().decode(fileOf(await write('usda'), 'usd'))
  expect(() => parseUsda(text)).not.toThrow()
  const [, samples] = /int\[\] primvars:cut\.timeSamples = \{\n([^}]*)\}/.exec(text)!
  const [whole, cut] = samples!.split('\n').map((line) => line.match(/\[.*\]/)?.[0])
  expect([whole, cut]).toEqual(['[0, 0, 0, 0, 0, 0]', '[0, 0, 0, 0, 1, 1]'])
  expect(text).toMatch(/primvars:cut"? ?\(?[\s\S]*interpolation = "uniform"/)
})

test('glTF: two parts with a material each, and read back as one', async () => {
  const files = await write('glb')
  const bytes = files.get('0002.glb')!
  const { issues } = await validateBytes(bytes)
  expect(issues.messages.filter(({ severity }) => severity < 2)).toEqual([])
  const scene: Object3D = (await new GLTFLoader().parseAsync(bytes.slice().buffer as ArrayBuffer, '')).scene
  const parts: [string, number[]][] = []
  scene.traverse((one) => {
    if (one instanceof Mesh) parts.push([(one.material as MeshStandardMaterial).name, Array.from((one.geometry as Mesh['geometry']).getIndex()!.array)]) // prettier-ignore
  })
  // as its look says, in linear light: outside and where it is cut
  const tones: string[] = []
  scene.traverse((one) => one instanceof Mesh && tones.push((one.material as MeshStandardMaterial).color.getHexString())) // prettier-ignore
  expect(tones).toEqual(['b79a80', '745f4d'])
  const all = Array.from(bellAt(2).triangles)
  expect(parts).toEqual([
    ['bell own', all.slice(0, 12)],
    ['bell cut', all.slice(12)],
  ])
  const glb = EXPORTS.find((one) => one.kind === 'glb')!
  for await (const { frame, meshes } of glb.readBack!(async (name) => files.get(name)!, [...files.keys()]))
    expect(Array.from(meshes[0]!.triangles)).toEqual(Array.from(bellAt(frame).triangles))
})
