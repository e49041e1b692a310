/** What surfaces of a GLB are painted with: written by a library of others, read here. */
import { Document, WebIO, type Material } from '@gltf-transform/core'
import { KHRTextureTransform } from '@gltf-transform/extensions'
import { refine } from '../../core/src/geometry/refine.ts'
import { readMesh, readPainted } from '../src/index.ts'

/** A quad of two triangles for each material, one above the other. */
function quads(document: Document, materials: (Material | null)[], { uvs = true } = {}): Promise<Uint8Array> {
  const buffer = document.createBuffer()
  const scene = document.createScene()
  const accessor = (type: 'VEC2' | 'VEC3', array: Float32Array<ArrayBuffer>) =>
    document.createAccessor().setType(type).setArray(array).setBuffer(buffer)
  materials.forEach((material, y) => {
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', accessor('VEC3', new Float32Array([0, y, 0, 1, y, 0, 1, y, 1, 0, y, 1])))
      .setIndices(
        document
          .createAccessor()
          .setType('SCALAR')
          .setArray(new Uint16Array([0, 1, 2, 0, 2, 3, 0, 0, 1]))
          .setBuffer(buffer),
      ) // prettier-ignore
      .setMaterial(material)
    if (uvs)
      primitive.setAttribute('TEXCOORD_0', accessor('VEC2', new Float32Array([0, 0, 1, 0, 1, 1, 0, 1])))
    scene.addChild(document.createNode().setMesh(document.createMesh().addPrimitive(primitive)))
  })
  return new WebIO().registerExtensions([KHRTextureTransform]).writeBinary(document)
}
const PICTURE = new Uint8Array([137, 80, 78, 71, 1, 2, 3])

test('each triangle names the material of its primitive, with its colour and its picture', async () => {
  const document = new Document()
  const texture = document.createTexture('planks').setImage(PICTURE).setMimeType('image/png')
  const wood = document.createMaterial('Wood').setBaseColorTexture(texture).setBaseColorFactor([0.5, 0.25, 1, 1]) // prettier-ignore
  const leaf = document.createMaterial('Leaf').setBaseColorTexture(texture).setAlphaMode('MASK')
  const { mesh, materials } = await readPainted('a.glb', await quads(document, [wood, null, leaf]))
  // the triangle without three corners is gone, and takes its material along
  expect([...mesh.materials!]).toEqual([0, 0, 1, 1, 2, 2])
  expect(materials.map(({ name, colour, cutOut }) => [name, colour, cutOut])).toEqual([
    ['Wood', [0.5, 0.25, 1], false],
    ['', [1, 1, 1], false],
    ['Leaf', [1, 1, 1], true],
  ])
  expect(materials[0]!.picture).toEqual({ type: 'image/png', bytes: PICTURE })
  expect(materials[1]!.picture).toBeNull()
  expect(materials[2]!.picture!.bytes).toBe(materials[0]!.picture!.bytes)
  // triangles that are split keep their material
  const fine = refine(mesh, 0.4, [1, 1, 1])
  expect(fine.triangles.length).toBeGreaterThan(mesh.triangles.length)
  expect(fine.materials).toHaveLength(fine.triangles.length / 3)
  fine.materials!.forEach((material, t) => {
    expect(fine.positions[fine.triangles[t * 3]! * 3 + 1]).toBe(material)
  })
})

test('what is plain white has no materials; colours alone are some', async () => {
  const plain = new Document()
  expect((await readPainted('a.glb', await quads(plain, [plain.createMaterial('Plain'), null]))).materials).toEqual([]) // prettier-ignore
  const red = new Document()
  const painted = await readPainted('a.glb', await quads(red, [red.createMaterial('Red').setBaseColorFactor([1, 0, 0, 1])], { uvs: false })) // prettier-ignore
  expect(painted.materials[0]).toMatchObject({ colour: [1, 0, 0], picture: null })
  expect(painted.mesh.uvs).toBeUndefined()
  // who only wants the mesh gets no pictures
  expect(await readMesh('a.glb', await quads(new Document(), [null]))).not.toHaveProperty('fileMaterials')
})

test('a picture that lies otherwise: scaled, turned counter-clockwise, moved (KHR_texture_transform)', async () => {
  const document = new Document()
  const lies = document.createExtension(KHRTextureTransform)
  const texture = document.createTexture('planks').setImage(PICTURE).setMimeType('image/png')
  const material = document.createMaterial('Turned').setBaseColorTexture(texture)
  const transform = lies.createTransform().setScale([2, 3]).setRotation(Math.PI / 2).setOffset([0.25, 0.5]) // prettier-ignore
  material.getBaseColorTextureInfo()!.setExtension('KHR_texture_transform', transform)
  const { materials } = await readPainted('a.glb', await quads(document, [material]))
  const [a, b, c, d, e, f] = materials[0]!.transform
  const at = (u: number, v: number): number[] => [a * u + b * v + c, d * u + e * v + f]
  // v counts downward: what points right points up after a quarter turn counter-clockwise
  for (const [from, to] of [
    [
      [0, 0],
      [0.25, 0.5],
    ],
    [
      [1, 0],
      [0.25, -1.5],
    ],
    [
      [0, 1],
      [3.25, 0.5],
    ],
  ] as const)
    // prettier-ignore
    at(...from).forEach((x, k) => expect(x).toBeCloseTo(to[k]!, 6))
})
