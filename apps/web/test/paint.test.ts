/** Meshes in the colours and pictures of their file. */
import { completeMesh, emptyShot, meshFacts, type Mesh as CoreMesh } from '@tangle/core'
import {
  Color,
  Group,
  Mesh,
  MeshPhysicalMaterial,
  type BufferAttribute,
  type MeshStandardMaterial,
} from 'three'
import type { Engine } from '../src/engine/engine.ts'
import { drawLiveMeshes } from '../src/stage/liveMeshes.ts'
import { dress } from '../src/stage/meshLook.ts'
import { paintOf, takePaint } from '../src/stage/paint.ts'

const bytes = new Uint8Array([1, 2, 3])
const AS_IT_IS = [1, 0, 0, 0, 1, 0] as [number, number, number, number, number, number]
const file = (more: object) => ({ name: 'x', colour: [1, 1, 1] as [number, number, number], picture: null, transform: AS_IT_IS, cutOut: false, ...more }) // prettier-ignore
/** Two triangles: the first of the first material. */
const quad: CoreMesh = {
  positions: new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]),
  triangles: new Uint32Array([0, 1, 2, 0, 2, 3]),
  uvs: new Float32Array([0, 0, 1, 0, 1, 1, 0, 0, 1, 1, 0, 1]),
  materials: new Uint16Array([0, 1]),
}
const loaded = (materials: ReturnType<typeof file>[], mesh = quad) => ({ mesh: { ...mesh }, facts: meshFacts(mesh), materials }) // prettier-ignore
const rows = (attribute: BufferAttribute): number[][] =>
  Array.from({ length: attribute.count }, (_, i) => Array.from(attribute.array.slice(i * 3, i * 3 + 3)))

// pictures are decoded by the browser alone
beforeAll(() => {
  globalThis.createImageBitmap = () => new Promise(() => undefined)
})

test('corners know where on which picture they are, and their tint; v is counted from the top there', () => {
  const paint = paintOf(loaded([file({ picture: { type: 'image/png', bytes }, transform: [2, 0, 0.5, 0, 1, 0] }), file({ colour: [0.5, 0.25, 0] })]), () => undefined)! // prettier-ignore
  expect(rows(paint.layered)).toEqual([
    [0.5, 1, 1],
    [2.5, 1, 1],
    [2.5, 0, 1],
    [0, 1, 0],
    [1, 0, 0],
    [0, 0, 0],
  ])
  expect(rows(paint.tint).map(([r]) => r)).toEqual([1, 1, 1, 0.5, 0.5, 0.5])
  // white until the picture is there: nothing is black meanwhile
  expect(paint.texture.image.depth).toBe(2)
  expect(new Set(paint.texture.image.data as Uint8Array)).toEqual(new Set([255]))
})

test('without texture coordinates there are the colours alone, and without materials nothing', () => {
  const bare: CoreMesh = { ...quad }
  delete bare.uvs
  const paint = paintOf(loaded([file({ picture: { type: 'image/png', bytes } }), file({})], bare), () => undefined)! // prettier-ignore
  expect(rows(paint.layered).every(([, , layer]) => layer === 0)).toBe(true)
  expect(paintOf(loaded([]), () => undefined)).toBeNull()
})

describe('a mesh that moves', () => {
  const source = { asset: `sha256:${'1'.repeat(64)}` }
  const now = {
    id: 'flag',
    positions: quad.positions.map((x) => x + 2),
    triangles: quad.triangles,
    normals: new Float32Array(12),
  }
  const show = (colours: string, of = now, glass = 0) => {
    const group = new Group()
    const found = loaded([file({ colour: [1, 0, 0] }), file({ picture: { type: 'image/png', bytes }, cutOut: true })]) // prettier-ignore
    const engine = { liveMeshes: () => [of], meshOf: () => found } as unknown as Engine
    const live = drawLiveMeshes(group, engine, { low: new Color(), high: new Color(), line: new Color(), other: new Color() }, 0x888888, () => undefined) // prettier-ignore
    live.place({
      ...emptyShot('Flag'),
      meshes: [completeMesh({ id: 'flag', source, look: { colours, glass } })],
    })
    return group.children[0] as Mesh<Mesh['geometry'], MeshStandardMaterial>
  }
  const painted = ({ material }: { material: MeshStandardMaterial }): number =>
    (material.userData.paint as { painted: { value: number } }).painted.value

  test('keeps its paint where its triangles stay, in another look too', () => {
    const mesh = show('materials')
    expect(mesh.geometry.getAttribute('position').count).toBe(6)
    expect(mesh.geometry.getAttribute('layered').count).toBe(6)
    expect([painted(mesh), mesh.material.alphaTest, mesh.material.color.getHexString()]).toEqual([1, 0.5, 'ffffff']) // prettier-ignore
    dress(mesh, { ...completeMesh({ id: 'a', source }).look, colour: '#ff0000' })
    expect([painted(mesh), mesh.material.alphaTest, mesh.material.color.getHexString()]).toEqual([0, 0, 'ff0000']) // prettier-ignore
    // glass is another material, and has the pictures all the same
    const glass = show('materials', now, 1)
    expect(glass.material).toBeInstanceOf(MeshPhysicalMaterial)
    expect(painted(glass)).toBe(1)
    const shader = { uniforms: {}, vertexShader: '#include <common>', fragmentShader: '#include <map_fragment>' } // prettier-ignore
    glass.material.onBeforeCompile(shader as never, null as never)
    expect(shader.fragmentShader).toContain('pictures')
  })

  test('that is cut has a colour of its own', () => {
    const mesh = show('materials', { ...now, triangles: quad.triangles.slice(0, 3) })
    expect(mesh.geometry.getAttribute('layered')).toBeUndefined()
    expect(mesh.material.color.getHexString()).toBe('b79a80')
  })
})

test('programs with paint and without are not taken for one another', () => {
  const [plain, other] = [0, 1].map(() => new Mesh()) as [Mesh, Mesh]
  const material = new MeshPhysicalMaterial()
  const paint = paintOf(loaded([file({ colour: [1, 0, 0] }), file({})]), () => undefined)!
  takePaint(other.geometry, material, paint)
  expect(material.customProgramCacheKey()).not.toBe(new MeshPhysicalMaterial().customProgramCacheKey())
  expect(plain.geometry.getAttribute('tint')).toBeUndefined()
})
