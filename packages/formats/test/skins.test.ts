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

/** Its skin is coloured as its particles are: by temperature, from black at 0 °C to white at 100. */
const ramp = { stops: [[0, '#000000'], [1, '#ffffff']] } // prettier-ignore
const look = { colour: { from: 'temperature', range: [0, 100], ramp }, skin: { colour: 'look' } }
const attributes = [{ id: 'salt', name: 'Salt', type: 'number' }]
const shot = { ...emptyShot('Tank'), populations: [completePopulation({ id: 'water', look, attributes } as never)] } as Shot // prettier-ignore
const WARMTH = [0, 25, 50, 100, 75]

/** A strip of 2, 3, … triangles. */
const skinAt = (frame: number): MeshFrame => ({
  id: skinId('water'),
  positions: Float32Array.from({ length: 3 * (frame + 3) }, (_, k) => Math.sin(k + frame)),
  triangles: Uint32Array.from({ length: 3 * (frame + 1) }, (_, k) => Math.floor(k / 3) + (k % 3)),
  velocities: Float32Array.from({ length: 3 * (frame + 3) }, (_, k) => Math.cos(k - frame)),
  columns: {
    temperature: Float32Array.from({ length: frame + 3 }, (_, k) => WARMTH[k % 5]!),
    'own.salt': Float32Array.from({ length: frame + 3 }, (_, k) => k / 3),
  },
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
  expect(later!.columns).toEqual(skinAt(2).columns)
})

test('PLY, VTK, USD and glTF have its triangles and velocities of the frame, its colours and what it carries', async () => {
  const { triangles, velocities, columns } = skinAt(2)
  const [warm, salt] = [Array.from(columns!.temperature!), Array.from(columns!['own.salt']!)]
  // a ramp of 256 entries, even in linear light
  const grey = (c: number): number => Math.round(c * 2.55) / 255
  // the same as sRGB (IEC 61966-2-1)
  const bytesOf = (c: number): number => ({ 0: 0, 25: 137, 50: 188, 75: 224, 100: 255 })[c]!
  const [vertex, face] = readPly(fileOf(await write('ply'), 'water.skin.mesh.0002'))
  expect(Array.from(face!.lists.vertex_indices!.values)).toEqual(Array.from(triangles))
  const woven = Array.from(
    velocities!,
    (_, k) => vertex!.columns[['vx', 'vy', 'vz'][k % 3]!]![Math.floor(k / 3)],
  )
  expect(woven).toEqual(Array.from(velocities!))
  expect(Array.from(vertex!.columns.temperature!)).toEqual(warm)
  expect(Array.from(vertex!.columns.salt!)).toEqual(salt)
  expect(Array.from(vertex!.columns.red!)).toEqual(warm.map(bytesOf))

  const reader = (vtkXMLPolyDataReader as unknown as { newInstance(): { parseAsArrayBuffer(b: ArrayBufferLike): void; getOutputData(n: number): { getPointData(): { getArrayByName(name: string): { getData(): Float32Array } } } } }).newInstance() // prettier-ignore
  reader.parseAsArrayBuffer(fileOf(await write('vtp'), 'water.skin.mesh.0002').slice().buffer)
  const arrayOf = (name: string) =>
    Array.from(reader.getOutputData(0).getPointData().getArrayByName(name).getData())
  expect(arrayOf('velocity')).toEqual(Array.from(velocities!))
  expect(arrayOf('temperature')).toEqual(warm)
  expect(arrayOf('salt')).toEqual(salt)
  expect(arrayOf('colour').filter((_, k) => k % 3 === 0)).toEqual(warm.map(bytesOf))

  const text = new TextDecoder().decode(fileOf(await write('usda'), 'usd'))
  expect(() => parseUsda(text)).not.toThrow()
  const skin = text.slice(text.indexOf('def Mesh "water_skin_mesh"'))
  const sampled = (declared: string): number[] => {
    const [, , secondOfThree] = skin.slice(skin.indexOf(`${declared}.timeSamples = {`)).split('\n')
    const [, ...numbers] = secondOfThree!.match(/-?\d[\d.e-]*/g)!
    return numbers.map(Number)
  }
  const second = sampled('vector3f[] velocities')
  sampled('float[] primvars:temperature').forEach((t, k) => expect(t).toBeCloseTo(warm[k]!, 4))
  sampled('float[] primvars:salt').forEach((t, k) => expect(t).toBeCloseTo(salt[k]!, 5))
  expect(sampled('color3f[] primvars:displayColor').length).toBe(3 * warm.length)
  sampled('color3f[] primvars:displayColor').forEach((c, k) => expect(Math.abs(c - grey(warm[Math.floor(k / 3)]!))).toBeLessThan(0.01)) // prettier-ignore
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
  expect(Array.from(found[0]!.getAttribute('_temperature').array)).toEqual(warm)
  expect(found[0]!.getAttribute('color').array[6]).toBeCloseTo(grey(50), 2)
})
