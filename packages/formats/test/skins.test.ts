/** Skins of liquids, which have other vertices in every frame: kept with their velocities, and told in files, read by others. */
import vtkXMLPolyDataReader from '@kitware/vtk.js/IO/XML/XMLPolyDataReader.js'
import { parse as parseUsda } from '@kroxilon/usda-parser'
import { completePopulation, emptyShot, skinId, type MeshFrame, type Shot } from '@tangle/core'
import { validateBytes } from 'gltf-validator'
import { Mesh, type BufferGeometry } from 'three'
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js'
import { betweenFrames } from '../src/export/between.ts'
import { turnedRound } from '../src/export/backward.ts'
import { frameIn } from '../src/export/space.ts'
import { codecReady, decodeFrame, encodeFrame, type CachedFrame } from '../src/index.ts'
import { readPly } from '../src/ply.ts'
import { fileOf, framesFrom, writtenFiles } from './take.ts'

// it is made for pages
Object.assign(globalThis, { Node: { ELEMENT_NODE: 1 } })

const shot = { ...emptyShot('Tank'), populations: [completePopulation({ id: 'water' })] } as Shot

/** A strip of 2, 3, … triangles. */
const skinAt = (frame: number): MeshFrame => ({
  id: skinId('water'),
  positions: Float32Array.from({ length: 3 * (frame + 3) }, (_, k) => Math.sin(k + frame)),
  triangles: Uint32Array.from({ length: 3 * (frame + 1) }, (_, k) => Math.floor(k / 3) + (k % 3)),
  velocities: Float32Array.from({ length: 3 * (frame + 3) }, (_, k) => Math.cos(k - frame)),
})
const nobody = { id: 'water', count: 0, columns: { id: new Uint32Array(), position: new Float32Array(), radius: new Float32Array(), velocity: new Float32Array() } } // prettier-ignore
const frameAt = (frame: number): CachedFrame => ({ frame, populations: [nobody], meshes: [skinAt(frame)] })
const write = (kind: string) => writtenFiles(kind, shot, framesFrom(1, 3, frameAt))

test('frames keep it to the bit, key frames and those that follow', async () => {
  await codecReady()
  const first = encodeFrame(frameAt(1), { rate: 24, before: null })
  const next = encodeFrame(frameAt(2), { rate: 24, before: first.decoded })
  expect(decodeFrame(first.bytes).meshes).toEqual([skinAt(1)])
  expect(decodeFrame(next.bytes, first.decoded).meshes).toEqual([skinAt(2)])
})

test('in another space, backward and between frames', () => {
  const { positions, velocities } = skinAt(2)
  const [inInches] = frameIn({ unit: 'in', up: 'z' }, frameAt(2)).meshes
  const inches = Array.from(velocities!.subarray(0, 3), (v) => v / 0.0254)
  ;[inches[0], -inches[2]!, inches[1]].forEach((v, k) => expect(inInches!.velocities![k]).toBeCloseTo(v!, 3))
  expect(turnedRound(frameAt(2), 9).meshes[0]!.velocities![4]).toBe(-velocities![4]!)
  const [later] = betweenFrames(frameAt(2), frameAt(3), 0.01, 1 / 24).meshes
  later!.positions.forEach((x, k) => expect(x).toBeCloseTo(positions[k]! + 0.01 * velocities![k]!, 6))
  expect(later!.triangles).toEqual(skinAt(2).triangles)
})

test('PLY, VTK, USD and glTF have its triangles and velocities of the frame', async () => {
  const { triangles, velocities } = skinAt(2)
  const [vertex, face] = readPly(fileOf(await write('ply'), 'water.skin.mesh.0002'))
  expect(Array.from(face!.lists.vertex_indices!.values)).toEqual(Array.from(triangles))
  const woven = Array.from(
    velocities!,
    (_, k) => vertex!.columns[['vx', 'vy', 'vz'][k % 3]!]![Math.floor(k / 3)],
  )
  expect(woven).toEqual(Array.from(velocities!))

  const reader = (vtkXMLPolyDataReader as unknown as { newInstance(): { parseAsArrayBuffer(b: ArrayBufferLike): void; getOutputData(n: number): { getPointData(): { getArrayByName(name: string): { getData(): Float32Array } } } } }).newInstance() // prettier-ignore
  reader.parseAsArrayBuffer(fileOf(await write('vtp'), 'water.skin.mesh.0002').slice().buffer)
  expect(Array.from(reader.getOutputData(0).getPointData().getArrayByName('velocity').getData())).toEqual(Array.from(velocities!)) // prettier-ignore

  const text = new TextDecoder().decode(fileOf(await write('usda'), 'usd'))
  expect(() => parseUsda(text)).not.toThrow()
  const skin = text.slice(text.indexOf('def Mesh "water_skin_mesh"'))
  const [, samples] = /vector3f\[\] velocities\.timeSamples = \{\n([^}]*)\}/.exec(skin)!
  const second = samples!.split('\n')[1]!.match(/-?\d[\d.e-]*/g)!.slice(1).map(Number) // prettier-ignore
  expect(second.length).toBe(velocities!.length)
  second.forEach((v, k) => expect(v).toBeCloseTo(velocities![k]!, 5))

  const bytes = (await write('glb')).get('0002.glb')!
  const { issues } = await validateBytes(bytes)
  expect(issues.messages.filter(({ severity }) => severity < 2)).toEqual([])
  const found: BufferGeometry[] = []
  const { scene } = await new GLTFLoader().parseAsync(bytes.slice().buffer as ArrayBuffer, '')
  scene.traverse((one) => one instanceof Mesh && void found.push(one.geometry as BufferGeometry))
  expect(Array.from(found[0]!.getAttribute('_velocity').array)).toEqual(Array.from(velocities!))
  expect(Array.from(found[0]!.getIndex()!.array)).toEqual(Array.from(triangles))
})
