/** Pictures of a mesh's own file go into glTF with it: written by a library of others, read back by it and by Khronos's validator. */
import {
  completeInstances,
  completeMesh,
  completePopulation,
  type Mesh,
  type MeshFrame,
  type Shot,
} from '@tangle/core'
import { Document, WebIO } from '@gltf-transform/core'
import { EXTMeshGPUInstancing, EXTTextureWebP } from '@gltf-transform/extensions'
import { validateBytes } from 'gltf-validator'
import { EXPORTS, OUR_SPACE, readMesh, type CachedFrame, type Frames } from '../src/index.ts'
import { shot as plain } from './take.ts'

/** One pixel. */
const PNG = new Uint8Array(
  Buffer.from(
    'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
    'base64',
  ),
)
const UVS = [0, 0, 1, 0, 1, 1, 0, 1]

/** A box open above and below: two sides with the picture, two in a colour. */
async function file(): Promise<Uint8Array> {
  const document = new Document()
  const buffer = document.createBuffer()
  const texture = document.createTexture('planks').setImage(PNG).setMimeType('image/png')
  const materials = [
    document.createMaterial('Planks').setBaseColorTexture(texture).setBaseColorFactor([1, 0.5, 0.25, 1]),
    document.createMaterial('Paint').setBaseColorFactor([0, 0, 1, 1]),
  ]
  const corners = [[0, 0], [1, 0], [1, 1], [0, 1]] // prettier-ignore
  const scene = document.createScene()
  corners.forEach(([x, z], k) => {
    const [toX, toZ] = corners[(k + 1) % 4]!
    const of = (type: 'VEC2' | 'VEC3', array: number[]) =>
      document.createAccessor().setType(type).setArray(new Float32Array(array)).setBuffer(buffer)
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', of('VEC3', [x!, 0, z!, toX!, 0, toZ!, toX!, 1, toZ!, x!, 1, z!]))
      .setAttribute('TEXCOORD_0', of('VEC2', UVS))
      .setIndices(
        document
          .createAccessor()
          .setType('SCALAR')
          .setArray(new Uint16Array([0, 1, 2, 0, 2, 3]))
          .setBuffer(buffer),
      ) // prettier-ignore
      .setMaterial(materials[k % 2]!)
    scene.addChild(document.createNode().setMesh(document.createMesh().addPrimitive(primitive)))
  })
  return new WebIO().writeBinary(document)
}

const asset = `sha256:${'7'.repeat(64)}`
async function written(shot: Shot, frame: Partial<CachedFrame>, mesh: Mesh): Promise<Uint8Array> {
  const frames = { first: 1, last: 1, times: [1], digits: 4, space: OUR_SPACE, read: () => Promise.resolve({ frame: 1, populations: [], meshes: [], ...frame }) } // prettier-ignore
  const pieces: Uint8Array[] = []
  const { files } = EXPORTS.find(({ kind }) => kind === 'glb')!
  for await (const one of files(shot, frames as unknown as Frames, new Map([[asset, mesh]])))
    for await (const piece of one.pieces) pieces.push(piece)
  return Uint8Array.from(Buffer.concat(pieces))
}
const boxOf = (look: object) =>
  completeMesh({ id: 'box', name: 'Box', source: { asset }, look: look as never })
const read = (bytes: Uint8Array) =>
  new WebIO().registerExtensions([EXTMeshGPUInstancing, EXTTextureWebP]).readBinary(bytes)
const turned = (triangles: Uint32Array): Uint32Array =>
  triangles.map((_, k) => triangles[k - (k % 3) + [0, 2, 1][k % 3]!]!)

/** Of each corner its place and its coordinates, in any order. */
const cornersOf = (document: Document, material: string): string[] =>
  document
    .getRoot()
    .listMeshes()
    .flatMap((mesh) => mesh.listPrimitives())
    .filter((one) => one.getMaterial()?.getName() === material)
    .flatMap((one) =>
      Array.from(
        one.getIndices()!.getArray()!,
        (v) =>
        [...(['POSITION', 'TEXCOORD_0'] as const)].flatMap((name) => one.getAttribute(name)!.getElement(v, [])).join(' '), // prettier-ignore
      ),
    )
    .sort()

test.each([
  ['as it is', (t: Uint32Array) => t],
  ['mirrored', turned],
])('a mesh that moves, %s: each material with its picture, colour and coordinates', async (_, order) => {
  const bytes = await file()
  const mesh = await readMesh('box.glb', bytes)
  const live: MeshFrame = { id: 'box', positions: mesh.positions, triangles: order(mesh.triangles) }
  const shot = { ...plain, populations: [], meshes: [boxOf({ colours: 'materials', roughness: 0.3 })] }
  const out = await written(shot, { meshes: [live] }, mesh)
  const { issues } = await validateBytes(out)
  expect(issues.messages.filter(({ severity }) => severity < 2)).toEqual([])
  const document = await read(out)
  const [planks, paint] = document.getRoot().listMaterials()
  expect([planks!.getName(), paint!.getName()]).toEqual(['box Planks', 'box Paint'])
  expect(planks!.getBaseColorTexture()!.getImage()).toEqual(PNG)
  expect(planks!.getBaseColorFactor()).toEqual([1, 0.5, 0.25, 1])
  expect(planks!.getRoughnessFactor()).toBeCloseTo(0.3)
  expect(paint!.getBaseColorTexture()).toBeNull()
  expect(paint!.getBaseColorFactor()).toEqual([0, 0, 1, 1])
  const original = await new WebIO().readBinary(bytes)
  expect(cornersOf(document, 'box Planks')).toEqual(cornersOf(original, 'Planks'))
  expect(cornersOf(document, 'box Paint')).toEqual(cornersOf(original, 'Paint'))
  // and our own reader has the same surface
  const { readBack } = EXPORTS.find(({ kind }) => kind === 'glb')!
  for await (const frame of readBack(() => Promise.resolve(out), ['0001.glb'])) {
    const [back] = frame.meshes
    expect(back!.triangles).toHaveLength(mesh.triangles.length)
    expect(Math.max(...back!.triangles)).toBe(back!.positions.length / 3 - 1)
  }
})

test.each([
  ['in one colour', { colours: 'own' }, (mesh: Mesh) => mesh.triangles],
  ['eaten', { colours: 'materials' }, (mesh: Mesh) => mesh.triangles.slice(0, 9)],
])('a mesh %s has one material and no picture', async (_, look, triangles) => {
  const mesh = await readMesh('box.glb', await file())
  const shot = { ...plain, populations: [], meshes: [boxOf(look)] }
  const out = await written(shot, { meshes: [{ id: 'box', positions: mesh.positions, triangles: triangles(mesh) }] }, mesh) // prettier-ignore
  const document = await read(out)
  expect(document.getRoot().listMaterials()).toHaveLength(1)
  expect(document.getRoot().listTextures()).toEqual([])
})

test('instances have the pictures of their mesh, as long as nothing colours them', async () => {
  const mesh = await readMesh('box.glb', await file())
  const of = (from: string) =>
    completePopulation({
      id: 'boxes',
      look: { draw: 'instances', instances: completeInstances({ set: [{ mesh: 'box' }] }), colour: { from, range: [0, 1], ramp: 'snow' } },
    } as never) // prettier-ignore
  const population = {
    id: 'boxes',
    count: 2,
    columns: { id: Uint32Array.of(1, 2), position: new Float32Array(6), radius: Float32Array.of(1, 1), age: new Float32Array(2), lifespan: Float32Array.of(1, 1) },
  } // prettier-ignore
  const pictures = async (from: string): Promise<number> => {
    const shot = { ...plain, meshes: [boxOf({ colours: 'materials' })], populations: [of(from)] } as Shot
    const out = await written(shot, { populations: [population as never] }, mesh)
    expect((await validateBytes(out)).issues.messages.filter(({ severity }) => severity < 1)).toEqual([])
    return (await read(out)).getRoot().listTextures().length
  }
  expect(await pictures('own')).toBe(1)
  expect(await pictures('age')).toBe(0)
})
