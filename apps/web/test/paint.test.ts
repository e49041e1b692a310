/** Meshes in the colours and pictures of their file. */
import {
  completeInstances,
  completeMesh,
  completePopulation,
  emptyShot,
  meshFacts,
  type Mesh as CoreMesh,
  type MeshLook,
  type Shot,
} from '@tangle/core'
import { packPopulation } from '@tangle/runtime/browser'
import {
  Color,
  Group,
  Mesh,
  MeshPhysicalMaterial,
  type InstancedMesh,
  type BufferAttribute,
  type MeshStandardMaterial,
} from 'three'
import type { Engine } from '../src/engine/engine.ts'
import { drawInstances } from '../src/stage/instances.ts'
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

test('instances are of what their mesh is made of; what colours particles colours them instead', () => {
  const coloured = { ...quad, data: { colour: { width: 3, values: new Float32Array(12).fill(0.5) } } }
  const one = loaded([file({}), file({ colour: [0.5, 0.25, 0] })], coloured)
  const stage = drawInstances(() => one, () => undefined) // prettier-ignore
  const shotOf = (look: Partial<MeshLook>): Shot => ({
    ...emptyShot('Rivets'),
    meshes: [completeMesh({ id: 'rivet', source: { asset: `sha256:${'1'.repeat(64)}` }, look: { colour: '#204060', ...look } as MeshLook })],
    populations: [completePopulation({ id: 'rivets' })],
  }) // prettier-ignore
  const population = packPopulation({ id: 'rivets', count: 2, columns: { id: Uint32Array.of(0, 1), position: new Float32Array(6), radius: Float32Array.of(1, 1) } }) // prettier-ignore
  const seen = (own: Partial<MeshLook>, more: object = {}, from = 'own') => {
    const shot = shotOf(own)
    const look = { ...shot.populations[0]!.look, draw: 'instances', instances: completeInstances({ set: [{ mesh: 'rivet', weight: 1 }] }), colour: { from, range: [0, 1], ramp: 'ember' } } // prettier-ignore
    const shades = { colours: null, values: null, brights: null }
    expect(stage.show({ shot, population, look, marked: null, phases: null, shades, share: 1, ...more } as never)).toBe(true) // prettier-ignore
    const { material } = stage.object.children[0] as InstancedMesh
    const { color, vertexColors, roughness, metalness, userData } = material as MeshStandardMaterial
    return { colour: color.getHexString(), vertexColors, painted: (userData.paint as { painted: { value: number } }).painted.value, roughness, metalness } // prettier-ignore
  }
  const plain = { colour: '204060', vertexColors: false, painted: 0, roughness: 0.3, metalness: 1 }
  const steel = { roughness: 0.3, metalness: 1 }
  expect(seen(steel)).toEqual(plain)
  expect(seen({ ...steel, colours: 'vertices' })).toEqual({ ...plain, colour: 'ffffff', vertexColors: true })
  expect(seen({ ...steel, colours: 'materials' })).toMatchObject({ colour: 'ffffff', painted: 1 })
  const white = { ...plain, colour: 'ffffff' }
  expect(seen({ ...steel, colours: 'materials' }, {}, 'speed')).toEqual(white)
  expect(seen(steel, { phases: ['#ff0000'] })).toEqual(white)
  const colours = new Float32Array(6)
  expect(seen(steel, { shades: { colours, values: null, brights: null } })).toEqual(white)
  expect(seen(steel)).toEqual(plain)
})
