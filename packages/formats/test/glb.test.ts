/** glTF, read by others: Khronos's validator, and three's loader. */
import { completeAttribute, completeMesh, ownName, type MeshLook } from '@tangle/core'
import { validateBytes } from 'gltf-validator'
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js'
import {
  Mesh,
  type InstancedMesh,
  type LineSegments,
  type MeshPhysicalMaterial,
  type MeshStandardMaterial,
  type Object3D,
  type Points,
} from 'three'
import { coloursOf, contentsHash, EXPORTS, OUR_SPACE, type CachedFrame, type Frames } from '../src/index.ts'
import { framesFrom, frameOf, meshOf, shot, withAll, write } from './take.ts'

const load = async (bytes: Uint8Array): Promise<Object3D> =>
  (await new GLTFLoader().parseAsync(bytes.slice().buffer as ArrayBuffer, '')).scene
const part = <T extends Object3D>(scene: Object3D, name: string): T => scene.getObjectByName(name) as T

test('the validator finds no fault in any frame', async () => {
  await withAll(async (sources, steady) => {
    for (const files of [await write('glb', sources), await write('glb', sources, steady)]) {
      expect([...files.keys()]).toEqual(['0003.glb', '0004.glb', '0005.glb'])
      for (const bytes of files.values()) {
        const { issues } = await validateBytes(bytes, { ignoredIssues: ['UNSUPPORTED_EXTENSION'] })
        expect(issues.messages.filter(({ severity }) => severity < 2)).toEqual([])
      }
    }
  })
})

test('an independent reader finds the points with what they have, and the meshes', async () => {
  const files = await write('glb')
  const scene = await load(files.get('0004.glb')!)
  const { columns } = frameOf(4).populations[0]!
  const { geometry } = part<Points>(scene, 'dust')
  const of = (name: string): number[] => Array.from(geometry.getAttribute(name).array)
  expect(of('position')).toEqual(Array.from(columns.position!))
  expect(of('_velocity')).toEqual(Array.from(columns.velocity!))
  expect(of('_radius')).toEqual(Array.from(columns.radius!))
  expect(of('_age')).toEqual(Array.from(columns.age!))
  const words = of('_id')
  expect(Array.from(columns.id!, (_, i) => words[i * 2]! + words[i * 2 + 1]! * 65536)).toEqual(Array.from(columns.id!)) // prettier-ignore
  const colours = coloursOf(shot.populations[0]!.look, frameOf(4).populations[0]!)
  expect(of('color').slice(0, 8)).toEqual([...colours.slice(0, 3), 0, ...colours.slice(3, 6), 0.5])
  const mesh = part<Mesh>(await load(files.get('0003.glb')!), 'tower_mesh').geometry
  expect(Array.from(mesh.getIndex()!.array)).toEqual(Array.from(meshOf(3).triangles))
  expect(mesh.getAttribute('position').array).toEqual(meshOf(3).positions)
})

test('instances are where they are, turned and as large; trails are lines; and all is read back', async () => {
  await withAll(async (sources, steady) => {
    const files = await write('glb', sources, { ...steady, read: (frame) => Promise.resolve({ ...frameOf(5), frame }) }) // prettier-ignore
    const bytes = files.get('0005.glb')!
    const scene = await load(bytes)
    const { columns, count } = frameOf(5).populations[1]!
    const drawn = scene.getObjectsByProperty('isInstancedMesh', true) as InstancedMesh[]
    expect(drawn.reduce((sum, one) => sum + one.count, 0)).toBe(count)
    // columns of a matrix: as long as the scale, three times the radius; where it is comes last
    const matrices = drawn.flatMap((one) => Array.from({ length: one.count }, (_, i) => Array.from(one.instanceMatrix.array.slice(i * 16, i * 16 + 16)))) // prettier-ignore
    for (let i = 0; i < count; i++) {
      const place = Array.from(columns.position!.slice(i * 3, i * 3 + 3))
      const found = matrices.find((m) => Math.hypot(...[0, 1, 2].map((k) => m[12 + k]! - place[k]!)) < 1e-6)!
      expect(Math.hypot(found[0]!, found[1]!, found[2]!)).toBeCloseTo(3 * columns.radius![i]!, 5)
      // a third of a turn about (1, −1, 1): x goes to −z … of (0.5, −0.5, 0.5, 0.5)
      expect(found.slice(0, 3).map((x) => Math.round(x / (3 * columns.radius![i]!)) + 0)).toEqual([0, 0, 1])
    }
    const lines = part<LineSegments>(scene, 'dust_trails')
    expect(lines.geometry.getIndex()!.count).toBe(200)
    const back: CachedFrame[] = []
    for await (const frame of EXPORTS.find(({ kind }) => kind === 'glb')!.readBack(
      (name) => Promise.resolve(files.get(name)!),
      [...files.keys()],
    ))
      // prettier-ignore
      back.push(frame)
    expect(back[2]!.populations.map(contentsHash)).toEqual(frameOf(5).populations.map(contentsHash))
    const cut = EXPORTS.find(({ kind }) => kind === 'glb')!.readBack(() => Promise.resolve(bytes.slice(0, 900)), ['0005.glb']) // prettier-ignore
    await expect(cut[Symbol.asyncIterator]().next()).rejects.toThrow(/0005\.glb.*cut off/)
  })
})

test('instances have the look of their mesh, unless something colours particles', async () => {
  await withAll(async (sources) => {
    const [, spray] = shot.populations
    for (const { look } of shot.meshes)
      Object.assign(look, { colour: '#102030', roughness: 0.2, metalness: 1 })
    const toldBy = async (from: 'own' | 'speed') => {
      spray!.look = { ...spray!.look, colour: { ...spray!.look.colour, from } }
      const plain = framesFrom(5, 5, (frame) => {
        const now = frameOf(frame)
        delete now.populations[1]!.columns.colour
        return now
      })
      const scene = await load((await write('glb', sources, plain)).get('0005.glb')!)
      const drawn = scene.getObjectsByProperty('isInstancedMesh', true) as InstancedMesh[]
      return drawn.map(({ material }) => material as MeshStandardMaterial).map(({ color, roughness, metalness }) => [color.getHexString(), roughness, metalness]) // prettier-ignore
    }
    expect((await toldBy('own'))[0]).toEqual(['102030', 0.2, 1])
    expect((await toldBy('speed'))[0]).toEqual(['ffffff', 0.2, 1])
  })
})

test('attributes of the artist’s own that come to the same capitals are told apart, and from those that there are', async () => {
  const [dust] = shot.populations
  const { attributes } = dust!
  const ids = ['heat', 'HEAT', 'Velocity', 'a-b', 'a_b']
  dust!.attributes = ids.map((id) => completeAttribute({ id, name: id, type: 'number' }))
  const read = (frame: number): CachedFrame => {
    const now = frameOf(frame)
    ids.forEach(
      (id, n) => (now.populations[0]!.columns[ownName(id)] = new Float32Array(frame * 10).fill(n + 1)),
    )
    return now
  }
  try {
    const files = await write('glb', undefined, framesFrom(3, 3, read))
    const { geometry } = part<Points>(await load(files.get('0003.glb')!), 'dust')
    const names = ['_heat', '_heat_2', '_velocity_2', '_a_b', '_a_b_2']
    expect(names.map((name) => geometry.getAttribute(name).getX(0))).toEqual([1, 2, 3, 4, 5])
    expect(geometry.getAttribute('_velocity').itemSize).toBe(3)
  } finally {
    dust!.attributes = attributes
  }
})

test('the look of a mesh is a material that another reader finds', async () => {
  const looks: [Partial<MeshLook>, object][] = [
    [{ colour: '#ff8000', roughness: 0.25, metalness: 1 }, { hex: 'ff8000', roughness: 0.25, metalness: 1, opacity: 1, transparent: false, glass: 0 }],
    [{ colour: '#204060', opacity: 0.5 }, { hex: '204060', roughness: 0.85, metalness: 0, opacity: 0.5, transparent: true, glass: 0 }],
    [{ colour: '#ffffff', glass: 0.75, roughness: 0 }, { hex: 'ffffff', roughness: 0, metalness: 0, opacity: 1, transparent: false, glass: 0.75 }],
  ] // prettier-ignore
  for (const [look, expected] of looks) {
    const looking = { ...shot, meshes: [completeMesh({ id: 'rock', source: { asset: `sha256:${'1'.repeat(64)}` }, look: { ...look } as MeshLook })] } // prettier-ignore
    const triangle = { id: 'rock', positions: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]), triangles: new Uint32Array([0, 1, 2]) } // prettier-ignore
    const frames = { first: 1, last: 1, times: [1], digits: 4, space: OUR_SPACE, read: () => Promise.resolve({ frame: 1, populations: [], meshes: [triangle] }) } // prettier-ignore
    const pieces: Uint8Array[] = []
    const glb = EXPORTS.find(({ kind }) => kind === 'glb')!
    for await (const file of glb.files(looking, frames as unknown as Frames, new Map()))
      for await (const piece of file.pieces) pieces.push(piece)
    const bytes = Buffer.concat(pieces)
    const { issues } = await validateBytes(bytes)
    expect(issues.messages.filter(({ severity }) => severity < 2)).toEqual([])
    const { scene } = await new GLTFLoader().parseAsync(new Uint8Array(bytes).buffer, '')
    const found: object[] = []
    scene.traverse((one) => {
      if (!(one instanceof Mesh)) return
      const {
        color,
        roughness,
        metalness,
        opacity,
        transparent,
        transmission = 0,
      } = one.material as MeshPhysicalMaterial
      found.push({
        hex: color.getHexString(),
        roughness,
        metalness,
        opacity,
        transparent,
        glass: transmission,
      })
    })
    expect(found).toEqual([expected])
  }
})
