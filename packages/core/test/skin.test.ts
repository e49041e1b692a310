/** Skins of liquids: closed, of the right volume, where the liquid is. */
import Module from 'manifold-3d'
import { completePopulation, firstChangedFrame, readShot, skinOf, type Mesh } from '../src/index.ts'
import { completeSkin } from '../src/schema/complete.ts'
import { CASES, lowCorner } from '../src/skin/cubes.ts'
import { principalVectors } from '../src/math/quaternion.ts'
import { createField } from '../src/skin/field.ts'
import { box, runTo, start, asset } from './help.ts'
import { startTank, tankShot } from './liquidHelp.ts'

const SKIN = completeSkin({})

function volumeOf({ positions: p, triangles }: Mesh): number {
  let sum = 0
  for (let k = 0; k < triangles.length; k += 3) {
    const [a, b, c] = [0, 1, 2].map((j) => p.subarray(3 * triangles[k + j]!, 3 * triangles[k + j]! + 3)) as [Float32Array, Float32Array, Float32Array] // prettier-ignore
    sum +=
      a[0]! * (b[1]! * c[2]! - b[2]! * c[1]!) +
      a[1]! * (b[2]! * c[0]! - b[0]! * c[2]!) +
      a[2]! * (b[0]! * c[1]! - b[1]! * c[0]!)
  }
  return sum / 6
}
/** Edges that have no other one the opposite way, or more than one. */
function openEdges({ triangles }: Mesh): number {
  const found = new Map<string, number>()
  for (let c = 0; c < triangles.length; c++) {
    const edge = `${triangles[c]} ${triangles[c % 3 === 2 ? c - 2 : c + 1]}`
    found.set(edge, (found.get(edge) ?? 0) + 1)
  }
  return [...found].filter(([edge, n]) => n !== 1 || found.get(edge.split(' ').reverse().join(' ')) !== 1)
    .length
}
/** Places of a grid of this width that lie within. */
function filled(
  width: number,
  within: (x: number, y: number, z: number) => boolean,
  n: number,
): Float32Array {
  const out: number[] = []
  for (let i = -n; i <= n; i++)
    for (let j = -n; j <= n; j++)
      for (let k = -n; k <= n; k++) {
        const at = [(i + 0.31) * width, (j + 0.17) * width, (k + 0.43) * width] as const
        if (within(...at)) out.push(...at)
      }
  return Float32Array.from(out)
}
/** Their velocities are −2/s times their places. */
const skinAt = (places: Float32Array, width: number, skin = SKIN) =>
  skinOf(skin, places, new Float32Array(places.length / 3).fill(width / 2), [places.map((x) => -2 * x)]) // prettier-ignore

test('each case of a cube crosses the edges that it must once, and what is within is the same from either side', () => {
  CASES.forEach((loops, mask) => {
    const crossed = loops.flatMap(({ edges }) => edges).sort((a, b) => a - b)
    const wanted = Array.from({ length: 12 }, (_, edge) => edge).filter((edge) => {
      const corner = lowCorner(edge)
      return ((mask >> corner) & 1) !== ((mask >> (corner + (1 << (edge >> 2)))) & 1)
    })
    expect(crossed).toEqual(wanted)
  })
})

test('principal axes put a matrix together again', () => {
  for (const [xx, xy, xz, yy, yz, zz] of [
    [2, 0, 0, 2, 0, 2],
    [1, 0.5, -0.3, 2, 0.7, 3],
    [1e-8, 1e-9, 0, 2e-8, -4e-9, 1e-8],
    [0, 0, 0, 0, 0, 0],
  ] as number[][]) {
    // prettier-ignore
    const { values, vectors } = principalVectors([xx!, yy!, zz!, xy!, yz!, xz!])
    const back = (a: number, b: number) =>
      [0, 1, 2].reduce((sum, k) => sum + values[k]! * vectors[k]![a]! * vectors[k]![b]!, 0)
    const scale = Math.abs(xx!) + Math.abs(yy!) + Math.abs(zz!)
    for (const [a, b, m] of [[0, 0, xx], [0, 1, xy], [0, 2, xz], [1, 1, yy], [1, 2, yz], [2, 2, zz]]) expect(Math.abs(back(a!, b!) - m!)).toBeLessThanOrEqual(1e-9 * scale) // prettier-ignore
  }
})

test.each([
  [0.004, 8, 0.5, 2],
  [1, 10, 0, 1.5],
  [1, 10, 0.5, 3],
  [40, 12, 0.9, 2],
])(
  'a ball of %p m with %p particles to its radius: volume within 3 %, closed',
  async (radius, n, smoothing, cells) => {
    const width = radius / n
    const places = filled(width, (x, y, z) => x * x + y * y + z * z < radius ** 2, n + 1)
    const mesh = skinAt(places, width, { ...SKIN, smoothing, cells })
    const volume = (places.length / 3) * width ** 3
    expect(Math.abs(volumeOf(mesh) / volume - 1)).toBeLessThan(0.03)
    expect(openEdges(mesh)).toBe(0)
    for (let k = 0; k < mesh.positions.length; k += 3) {
      const [x, y, z] = mesh.positions.subarray(k, k + 3)
      expect(Math.abs(Math.sqrt(x! ** 2 + y! ** 2 + z! ** 2) / radius - 1)).toBeLessThan(0.12)
    }
    // an even flow goes on to the vertices, but for what of it lies on one side of them only
    const off = mesh.carried[0]!.map((v, k) => Math.abs(v + 2 * mesh.positions[k]!) / radius)
    expect(Math.max(...off)).toBeLessThan(2.4 / n)
    const module = await Module()
    module.setup()
    const solid = new module.Manifold(new module.Mesh({ numProp: 3, vertProperties: mesh.positions, triVerts: mesh.triangles })) // prettier-ignore
    expect([solid.status(), solid.genus()]).toEqual(['NoError', 0])
  },
)

test('whatever is thrown together, the skin is closed', () => {
  let seed = 7
  const random = (): number => (seed = (seed * 16807) % 2147483647) / 2147483647
  for (let round = 0; round < 6; round++) {
    const places = Float32Array.from({ length: 3 * (20 + 200 * round) }, () => 8 * (random() - 0.5))
    const mesh = skinAt(places, 0.5 + 0.1 * round, { ...SKIN, cells: 1 + round / 3, smoothing: round / 5 })
    expect(mesh.triangles.length).toBeGreaterThan(100)
    expect(openEdges(mesh)).toBe(0)
    expect(volumeOf(mesh)).toBeGreaterThan(0)
    expect(mesh.positions.every(Number.isFinite)).toBe(true)
  }
})

test('a drop by itself is as large as its particle, and a sheet one particle thick stays one', () => {
  const drop = skinAt(new Float32Array([0.2, 7, -3]), 0.1)
  expect(openEdges(drop)).toBe(0)
  expect(volumeOf(drop) / 0.1 ** 3).toBeGreaterThan(0.5)
  expect(volumeOf(drop) / 0.1 ** 3).toBeLessThan(1.5)
  const places = filled(0.1, (_, y) => y > 0 && y < 0.1, 15)
  const sheet = skinAt(places, 0.1)
  expect(openEdges(sheet)).toBe(0)
  const thick = volumeOf(sheet) / 3.1 ** 2
  expect(thick).toBeGreaterThan(0.05)
  expect(thick).toBeLessThan(0.12)
  // one piece without holes: Euler's number of a ball
  expect(sheet.positions.length / 3 - sheet.triangles.length / 6).toBe(2)
})

test('nobody has no skin, and one that is too fine is refused with what to do', () => {
  expect(skinAt(new Float32Array(0), 0.1).triangles.length).toBe(0)
  const field = createField(2)
  for (const x of [0, 7, 8]) field.blockAt(x, 0, 0)
  expect(() => field.blockAt(16, 0, 0)).toThrow(/more than a gigabyte: ask for fewer cells/)
})

test('where it lies changes nothing, and what has flown off for good is left out', () => {
  const places = filled(0.1, (x, y, z) => x * x + y * y + z * z < 0.16, 5)
  const near = skinAt(places, 0.1)
  const moved = skinAt(places.map((x, k) => (k % 3 === 1 ? x + 300 : x)), 0.1) // prettier-ignore
  expect(moved.triangles.length / near.triangles.length).toBeCloseTo(1, 1)
  expect(volumeOf({ ...moved, positions: moved.positions.map((x, k) => (k % 3 === 1 ? x - 300 : x)) })).toBeCloseTo(volumeOf(near), 3) // prettier-ignore
  const lost = skinAt(Float32Array.from([...places, 0, -3e7, 0, 2e9, 0, 0]), 0.1)
  expect([lost.positions.length, openEdges(lost)]).toEqual([near.positions.length, 0])
})

test('a tank has it in its frames, at its level; only what makes it another computes it again', () => {
  const shot = tankShot({ meshes: [box()], width: 1 / 14 })
  const skinned = { ...shot, populations: shot.populations.map((one) => ({ ...one, look: { ...one.look, skin: SKIN } })) } // prettier-ignore
  const simulation = runTo(start(skinned, new Map([[asset(0), box()]])), 12)
  const [skin] = simulation.meshes()
  expect(skin!.id).toBe('dust.skin')
  expect(openEdges(skin!)).toBe(0)
  const count = simulation.populations()[0]!.columns.radius!.length
  expect(Math.abs(volumeOf(skin!) / (count / 14 ** 3) - 1)).toBeLessThan(0.06)
  const top = Array.from(skin!.positions).filter((y, k, all) => k % 3 === 1 && y > -0.1 && Math.abs(all[k - 1]!) < 0.3 && Math.abs(all[k + 1]!) < 0.3) // prettier-ignore
  const level = top.reduce((sum, y) => sum + y, 0) / top.length + 0.5
  expect(Math.abs(level - count / 14 ** 3)).toBeLessThan(0.02)
  expect(startTank({ meshes: [box()], width: 1 / 14 }).meshes()).toEqual([])

  const withSkin = (skin: object | null) => ({ ...shot, populations: [completePopulation({ ...shot.populations[0]!, look: { ...shot.populations[0]!.look, skin } } as never)] }) // prettier-ignore
  expect(firstChangedFrame(withSkin(null), withSkin({}))).toBe(1)
  expect(firstChangedFrame(withSkin({}), withSkin({ cells: 3 }))).toBe(1)
  expect(firstChangedFrame(withSkin({}), withSkin({ particles: 'drawn' }))).toBeNull()
  expect(readShot(JSON.parse(JSON.stringify(withSkin({ cells: 3 })))).shot).toEqual(withSkin({ cells: 3 }))
  expect(readShot(JSON.parse(JSON.stringify(withSkin({ cells: 60 })))).faults).not.toEqual([])
})
