/** Pieces of a broken mesh in files, read by others: a USD parser, three's readers of PLY and glTF, and the validator of glTF. */
import vtkXMLPolyDataReader from '@kitware/vtk.js/IO/XML/XMLPolyDataReader.js'
import { parse as parseUsda } from '@kroxilon/usda-parser'
import { createMachine } from '@tangle/kernels'
import {
  derive,
  massProperties,
  pieceCount,
  pieceNumber,
  readShot,
  sourceKey,
  type Mesh,
  type Shot,
} from '@tangle/core'
import { validateBytes } from 'gltf-validator'
import manifoldModule from 'manifold-3d'
import { Matrix4, Quaternion, Vector3, type InstancedMesh } from 'three'
import { GLTFLoader } from 'three/addons/loaders/GLTFLoader.js'
import { PLYLoader } from 'three/addons/loaders/PLYLoader.js'
import { EXPORTS, filesOf, readChoices, type CachedFrame } from '../src/index.ts'

// vtk.js is made for pages
Object.assign(globalThis, { Node: { ELEMENT_NODE: 1 } })
interface VtkReader {
  newInstance(): {
    parseAsArrayBuffer(bytes: ArrayBufferLike): void
    getOutputData(n: number): {
      getPointData(): {
        getArrayByName(name: string): { getData(): ArrayLike<number>; getNumberOfComponents(): number } | null
      }
      getPolys(): { getData(): ArrayLike<number> }
    }
  }
}

/** More than a byte counts, so that numbers of meshes need more. */
const PIECES = 300
const TURN = new Quaternion().setFromAxisAngle(new Vector3(0, 1, 0), Math.PI / 2)
const ASSET = `sha256:${'0'.repeat(64)}`

async function broken(): Promise<{ shot: Shot; meshes: Map<string, Mesh> }> {
  const { shot } = readShot({
    format: 'tangle-shot',
    version: 1,
    name: 'Pieces',
    frames: { first: 1, last: 2, rate: 24 },
    meshes: [
      { id: 'block', source: { asset: ASSET }, place: { scale: [2, 1, 1] } },
      { id: 'bits', source: { fracture: { mesh: 'block', pieces: PIECES, seeds: 'random' } } },
    ],
    populations: [
      {
        id: 'stones',
        births: [{ id: 'b', kind: 'pieces', mesh: 'bits', into: 'Loose', amount: { burst: 'all', at: 1 } }],
        look: { draw: 'pieces' },
      },
    ],
  }) as { shot: Shot }
  const module = await manifoldModule()
  module.setup()
  const { vertProperties, triVerts } = module.Manifold.cube([1, 1, 1], true).getMesh()
  const whole: Mesh = { positions: vertProperties.slice(), triangles: Uint32Array.from(triVerts) }
  const meshes = new Map([[ASSET, whole]])
  const key = sourceKey(shot.meshes[1]!.source, shot)
  meshes.set(key, derive({ manifold: module, machine: createMachine() }, shot, shot.meshes[1]!, meshes))
  return { shot, meshes }
}

/** A frame in which all are in their places, turned with the mesh by a quarter about y; the ids are those of the pieces, backward. */
function frameOf(shot: Shot, mesh: Mesh): CachedFrame {
  const masses = massProperties(mesh, [2, 1, 1])
  const count = pieceCount(mesh)
  const pieceOf = (i: number): number => count - 1 - i
  const places = masses.map(({ centre }) => new Vector3(...centre).applyQuaternion(TURN))
  return {
    frame: 1,
    meshes: [],
    populations: [
      {
        id: 'stones',
        count,
        columns: {
          id: Uint32Array.from({ length: count }, (_, i) => i),
          position: Float32Array.from({ length: count * 3 }, (_, k) => places[pieceOf(Math.floor(k / 3))]!.toArray()[k % 3]!), // prettier-ignore
          velocity: new Float32Array(count * 3),
          radius: new Float32Array(count).fill(0.1),
          orientation: Float32Array.from({ length: count * 4 }, (_, k) => TURN.toArray()[k % 4]!),
          angularVelocity: Float32Array.from({ length: count * 3 }, (_, k) => [0, Math.PI, 1][k % 3]!),
          stress: Float32Array.from({ length: count }, (_, i) => i / 1024),
          piece: Uint32Array.from({ length: count }, (_, i) => pieceNumber(1, pieceOf(i))),
        },
      },
    ],
  }
}

const prepared = broken().then(({ shot, meshes }) => {
  const mesh = meshes.get(sourceKey(shot.meshes[1]!.source, shot))!
  return { shot, meshes, mesh, frame: frameOf(shot, mesh) }
})

async function write(kind: string, asked: Record<string, string> = {}): Promise<Map<string, Uint8Array>> {
  const { shot, meshes, frame } = await prepared
  const format = EXPORTS.find((one) => one.kind === kind)!
  const all = { first: 1, last: 2, read: (at: number) => Promise.resolve({ ...frame, frame: at }) }
  const files = new Map<string, Uint8Array>()
  for await (const { name, pieces } of filesOf(
    format,
    shot,
    all,
    meshes,
    readChoices(asked, shot.frames, format),
  )) {
    const parts: Uint8Array[] = []
    for await (const piece of pieces) parts.push(piece)
    files.set(name, new Uint8Array(Buffer.concat(parts)))
  }
  return files
}
const textOf = async (asked: Record<string, string> = {}): Promise<string> =>
  Buffer.from([...(await write('usda', asked)).values()][0]!).toString()
/** The numbers of an attribute at frame 1. */
const numbersOf = (usd: string, declaration: string): number[] => {
  const escaped = declaration.replace(/[[\]]/g, '\\$&')
  const [, list] = new RegExp(`${escaped}\\.timeSamples = \\{\\s*1: \\[([^\\]]*)\\]`).exec(usd)!
  return list!
    .split(/[(), ]+/)
    .filter(Boolean)
    .map(Number)
}

test('USD: a PointInstancer of as many meshes as pieces, each written once; spins in degrees a second', async () => {
  const { mesh, frame } = await prepared
  const usd = await textOf()
  expect(() => parseUsda(usd) as unknown).not.toThrow()
  expect(usd.match(/def Mesh "bits_\d+_\d+"/g)).toHaveLength(pieceCount(mesh))
  const count = frame.populations[0]!.count
  expect(numbersOf(usd, 'int[] protoIndices')).toEqual(Array.from({ length: count }, (_, i) => count - 1 - i))
  expect(numbersOf(usd, 'float[] primvars:stress').slice(0, 3)).toEqual([0, 1 / 1024, 2 / 1024])
  expect(numbersOf(usd, 'vector3f[] angularVelocities').slice(0, 3)).toEqual([
    0,
    180,
    expect.closeTo(57.29578, 4),
  ])
})
test('USD in centimetres, Z up and backward: axes of spins are turned, never scaled, and the other way round', async () => {
  const spins = numbersOf(
    await textOf({ unit: 'cm', up: 'z', backward: '1' }),
    'vector3f[] angularVelocities',
  )
  // y becomes z, z becomes −y; backward all are negative
  expect(spins.slice(0, 3).map((x) => Math.round(x) + 0)).toEqual([0, 57, -180])
})
test('PLY: every piece has the number of its mesh, also above 255, and its spin', async () => {
  const { frame } = await prepared
  const { count } = frame.populations[0]!
  const loader = new PLYLoader()
  loader.setCustomPropertyNameMapping({
    instance: ['instance'],
    spin: ['wx', 'wy', 'wz'],
    piece: ['piece'],
    stress: ['stress'],
  })
  const bytes = (await write('ply')).get('stones.0001.ply')!
  const geometry = loader.parse(bytes.slice().buffer as ArrayBuffer)
  expect(Array.from(geometry.getAttribute('instance').array)).toEqual(
    Array.from({ length: count }, (_, i) => count - 1 - i),
  )
  expect(Array.from(geometry.getAttribute('stress').array.slice(0, 3))).toEqual([0, 1 / 1024, 2 / 1024])
  expect(Array.from(geometry.getAttribute('spin').array.slice(0, 3))).toEqual([
    0,
    expect.closeTo(Math.PI, 6),
    1,
  ])
})
test('VTK: piece, orientation, spin and stress of each, by its own reader', async () => {
  const { frame } = await prepared
  const { columns, count } = frame.populations[0]!
  const read = (bytes: Uint8Array) => {
    const reader = (vtkXMLPolyDataReader as unknown as VtkReader).newInstance()
    reader.parseAsArrayBuffer(bytes.slice().buffer)
    return reader.getOutputData(0)
  }
  const files = await write('vtp')
  const points = read(files.get('stones.0001.vtp')!).getPointData()
  for (const [name, width] of [['orientation', 4], ['angularVelocity', 3], ['stress', 1]] as const) // prettier-ignore
    expect([name, points.getArrayByName(name)!.getNumberOfComponents(), [...points.getArrayByName(name)!.getData() as Float32Array]]).toEqual([name, width, [...columns[name]!]]) // prettier-ignore
  expect([...(points.getArrayByName('piece')!.getData() as Uint32Array)]).toEqual([...columns.piece!])
  // and each piece is a mesh, once
  const meshes = [...files.keys()].filter((name) => /instance-/.test(name))
  expect(meshes).toHaveLength(count)
  expect(read(files.get(meshes[0]!)!).getPolys().getData().length).toBeGreaterThan(4 * 3)
})
test('glTF: valid, and put where its nodes say the pieces are the block again', async () => {
  const bytes = (await write('glb')).get('0001.glb')!
  const { issues } = await validateBytes(bytes, { ignoredIssues: ['UNSUPPORTED_EXTENSION'] })
  expect(issues.messages.filter(({ severity }) => severity < 2)).toEqual([])
  const { scene } = await new GLTFLoader().parseAsync(bytes.slice().buffer as ArrayBuffer, '')
  const drawn = scene.getObjectsByProperty('isInstancedMesh', true) as InstancedMesh[]
  expect(drawn.reduce((sum, { count }) => sum + count, 0)).toBe((await prepared).frame.populations[0]!.count)
  const [low, high] = [new Vector3(9, 9, 9), new Vector3(-9, -9, -9)]
  let volume = 0
  for (const { geometry, instanceMatrix, count } of drawn) {
    const points = geometry.getAttribute('position')
    const index = geometry.getIndex()!
    for (let n = 0; n < count; n++) {
      const matrix = new Matrix4().fromArray(instanceMatrix.array, n * 16)
      const corner = (k: number): Vector3 =>
        new Vector3().fromBufferAttribute(points, index.getX(k)).applyMatrix4(matrix)
      for (let k = 0; k < index.count; k += 3) {
        const [a, b, c] = [corner(k), corner(k + 1), corner(k + 2)] as [Vector3, Vector3, Vector3]
        volume += a.dot(b.clone().cross(c)) / 6
        for (const p of [a, b, c]) {
          low.min(p)
          high.max(p)
        }
      }
    }
  }
  // 2 × 1 × 1 m, turned by a quarter about y
  expect(volume).toBeCloseTo(2, 5)
  expect(
    low
      .toArray()
      .concat(high.toArray())
      .map((x) => Number(x.toFixed(4))),
  ).toEqual([-0.5, -0.5, -1, 0.5, 0.5, 1])
})
